"""The set-up card: each thing that card and job disagree about, the words, and the pages as PDFium reads them."""

from datetime import UTC, datetime, timedelta, timezone

import numpy as np
import pypdfium2
import pytest
from pydantic import ValidationError

from perisect.core.prepress.setup_card import (
    CardJob,
    SetupCard,
    card_findings,
    card_lines,
    card_pdf,
    is_ticked,
    side_test_pdf,
)
from perisect.core.sheet.equipment import StockRecipe

PAPER = StockRecipe(id="p", name="A4 paper, matt", width_mm=210, height_mm=297, face_um=90, liner_um=80)
CARD = PAPER.model_copy(update={"id": "c", "name": "A4 card, 250 g", "face_um": 290.0, "liner_um": 0.0})
ROLL = StockRecipe(id="r", name="Roll of vinyl", kind="roll", width_mm=320, height_mm=3000, gloss="gloss")
SET = SetupCard(media="Plain matt", surface="matt", tray="rear", side="up")


def told(card: SetupCard, stock: StockRecipe = PAPER, bleeds: bool = False) -> list[tuple[str, str]]:
    return [(each.code, each.severity) for each in card_findings(card, CardJob(stock, bleeds))]


def having(**changes: object) -> SetupCard:
    return SetupCard.model_validate(SET.model_dump() | changes)


def test_a_card_that_fits_its_job_says_nothing() -> None:
    assert told(SET) == []
    assert told(having(tray="roll", surface="gloss"), ROLL) == []


@pytest.mark.parametrize(
    ("changes", "stock", "code", "severity"),
    [
        ({"surface": "gloss"}, PAPER, "card_surface", "look"),
        ({"surface": "matt", "tray": "roll"}, ROLL, "card_surface", "look"),
        ({"tray": "front"}, CARD, "card_tray", "look"),
        ({"tray": "roll"}, PAPER, "card_path", "look"),
        ({"tray": "rear", "surface": "gloss"}, ROLL, "card_path", "look"),
        ({"fit_to_page": True}, PAPER, "card_fit", "stop"),
        ({"borderless": True}, PAPER, "card_borderless", "stop"),
        ({"side": "unsaid"}, PAPER, "card_side", "look"),
    ],
)
def test_each_thing_that_does_not_fit_is_said(
    changes: dict[str, object], stock: StockRecipe, code: str, severity: str
) -> None:
    assert told(having(**changes), stock) == [(code, severity)]


def test_nothing_is_said_of_what_nobody_has_said() -> None:
    # But for how the sticker face lies, which a plain sheet would tell.
    assert told(SetupCard(), ROLL) == [("card_side", "look")]


def test_what_stops_a_sheet_comes_first_and_all_of_it_is_said() -> None:
    wrong = having(fit_to_page=True, borderless=True, surface="satin", tray="front", side="unsaid")
    assert told(wrong, CARD, bleeds=True) == [
        ("card_fit", "stop"),
        ("card_borderless", "stop"),
        ("card_surface", "look"),
        ("card_tray", "look"),
        ("card_bleed", "look"),
        ("card_side", "look"),
    ]


def test_stock_as_thick_as_a_bend_takes_goes_round_it() -> None:
    def thick(face: float, liner: float) -> list[tuple[str, str]]:
        stock = PAPER.model_copy(update={"face_um": face, "liner_um": liner})
        return told(having(tray="front"), stock)

    assert thick(180, 80) == []  # 260 µm
    assert thick(180.5, 80) == [("card_tray", "look")]
    (finding,) = card_findings(having(tray="front"), CardJob(CARD))
    assert (finding.measured, finding.limit, finding.unit) == (290.0, 260.0, "µm")
    # Film over the print is no matter of the printer's: it comes afterwards.
    assert told(having(tray="front"), PAPER) == []


def test_a_finding_names_the_media_type_the_stock_and_its_surface() -> None:
    (finding,) = card_findings(having(surface="gloss"), CardJob(PAPER))
    for word in ("“Plain matt”", "gloss stock", "A4 paper, matt is matt"):
        assert word in finding.text
    (unnamed,) = card_findings(having(surface="gloss", media=""), CardJob(PAPER))
    assert "the media type for gloss" in unnamed.text


def test_a_tick_holds_for_a_day_in_any_time_zone() -> None:
    now = datetime(2026, 11, 30, 12, tzinfo=UTC)
    assert not is_ticked(None, now)
    assert is_ticked(now - timedelta(hours=23, minutes=59), now)
    assert not is_ticked(now - timedelta(hours=24), now)
    # Eight in the morning five hours east was three here.
    east = timezone(timedelta(hours=5))
    assert is_ticked(datetime(2026, 11, 30, 8, tzinfo=east), now)
    assert not is_ticked(datetime(2026, 11, 29, 16, tzinfo=east), now)


@pytest.mark.parametrize("value", ["a" * 61, "line\nbreak", "bell\x07"])
def test_words_of_a_card_are_one_short_line(value: str) -> None:
    for field in ("media", "quality", "profile"):
        with pytest.raises(ValidationError):
            SetupCard.model_validate({field: value})


@pytest.mark.parametrize("minutes", [-1, 10_081, float("nan"), float("inf")])
def test_a_print_dries_for_no_longer_than_a_week(minutes: float) -> None:
    with pytest.raises(ValidationError):
        SetupCard(dry_min=minutes)
    assert SetupCard(dry_min=7 * 24 * 60).dry_min == 10_080


def page_of(pdf: bytes) -> tuple[np.ndarray, tuple[float, float]]:
    """The only page in grey, four pixels to a millimetre, as PDFium draws it, and its size in mm."""
    document = pypdfium2.PdfDocument(pdf)
    assert len(document) == 1
    page = document[0]
    width, height = page.get_size()
    grey = np.asarray(page.render(scale=4 * 25.4 / 72).to_pil().convert("L"))
    return grey, (width * 25.4 / 72, height * 25.4 / 72)


def has_ink(grey: np.ndarray, left: float, top: float, right: float, bottom: float) -> bool:
    """Whether something is drawn in a part of the page, mm."""
    part = grey[round(4 * top) : round(4 * bottom), round(4 * left) : round(4 * right)]
    return bool((part < 128).any())


def test_the_card_is_a_postcard_with_a_label_and_its_value_in_every_row() -> None:
    lines = card_lines(SET, "Kiosk ink-jet", PAPER)
    assert dict(lines)["Feed"] == "rear, straight path"
    assert dict(lines)["Scale"] == "100 %, no fit to page"
    assert dict(lines)["Colour profile"] == "sRGB, by the printer"
    assert dict(card_lines(SetupCard(), "x", PAPER))["Media type"] == "not said"
    grey, size = page_of(card_pdf(SET, "Kiosk ink-jet", PAPER))
    assert size == pytest.approx((148, 105), abs=0.01)
    for number in range(len(lines)):
        line = 26 + 7 * number
        assert has_ink(grey, 8, line - 3, 42, line + 1)
        assert has_ink(grey, 44, line - 3, 140, line + 1)
        assert not has_ink(grey, 0, line + 2, 148, line + 3.5)
    # Nothing runs off the page, and the caution stands at its foot.
    assert not has_ink(grey, 144, 0, 148, 105)
    assert has_ink(grey, 8, 96, 140, 100)


def test_the_page_that_tells_the_side_is_as_large_as_the_stock() -> None:
    grey, size = page_of(side_test_pdf(PAPER))
    assert size == pytest.approx((210, 297), abs=0.01)
    assert has_ink(grey, 20, 30, 190, 42)
    assert not has_ink(grey, 190, 0, 210, 297)
    # Of a roll no longer than a page.
    _, of_roll = page_of(side_test_pdf(ROLL))
    assert of_roll == pytest.approx((320, 297), abs=0.01)
