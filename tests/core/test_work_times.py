"""How long work takes by the log."""

from datetime import UTC, datetime, timedelta

from perisect.core.ledger.work_times import LEAST_TIMES, WorkTime, print_time, sheet_time, sticker_time

START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)


def at(minutes: float) -> datetime:
    return START + timedelta(minutes=minutes)


def test_a_sheet_that_waited_for_its_printer_is_printed_from_when_that_was_free() -> None:
    """Six sheets asked for at once, each two minutes at the printer; another printer, as slow, an hour later."""
    together = [(at(0), at(2 * n)) for n in range(1, 7)]
    assert print_time([together, [(at(60), at(62))]]) == WorkTime("print_min", 2.0, 7)


def test_between_two_cuts_is_a_sheet_s_work_by_hand_and_a_pause_is_none() -> None:
    """Cuts of five minutes with 1, 1, 2, 3 and 3 minutes between them, and then one after lunch."""
    cuts, now = [], 0.0
    for gap in (0, 1, 1, 2, 3, 3, 75):
        cuts.append((at(now + gap), at(now + gap + 5)))
        now += gap + 5
    assert sheet_time([cuts]) == WorkTime("sheet_min", 2.0, 5)
    assert sheet_time([cuts[:5]]) is None  # four gaps are too few
    # Cuts at two plotters overlap: what is between them says nothing.
    assert sheet_time([cuts[::2], cuts[1::2]]) is None


def test_stickers_are_counted_at_so_much_each() -> None:
    counts = [(at(n), at(n + 2), 20) for n in range(LEAST_TIMES)]
    assert sticker_time(counts) == WorkTime("sticker_s", 6.0, LEAST_TIMES)
    # Counted the next day, by a clock that was set back, or with nothing on it.
    useless = [(at(0), at(1500), 20), (at(5), at(3), 20), (at(0), at(1), 0)]
    assert sticker_time(counts[1:] + useless) is None
