"""What stands on a packing list and on a sheet of addresses, read back by another program."""

import re
from io import BytesIO

import numpy as np
import pikepdf
import pypdfium2
import pytest
from numpy.typing import NDArray

from perisect.core.fonts.font import font
from perisect.core.ledger.packing_list import (
    MOST_ADDRESSES,
    Packed,
    PackedLine,
    address_sheet,
    fitting,
    packing_list,
)

PX_A_MM = 4
LONG = "The paddle boat that goes round by the lighthouse on Sundays"


def ink_of(pdf: bytes) -> NDArray[np.bool_]:
    """Where the letters of the only page are, (4 h, 4 w) for a page of w x h mm; hair lines and boxes are paler."""
    document = pypdfium2.PdfDocument(pdf)
    assert len(document) == 1
    grey = document[0].render(scale=PX_A_MM * 25.4 / 72).to_pil().convert("L")
    return np.asarray(grey) < 110


def rows_of(ink: NDArray[np.bool_]) -> list[float]:
    """Where lines of text begin, mm from the top of the page; they are five millimetres apart or more."""
    found: list[float] = []
    for row in np.flatnonzero(ink.any(axis=1)) / PX_A_MM:
        if not found or row - found[-1] > 4.6:
            found.append(float(row))
    return found


def boxes_of(pdf: bytes) -> int:
    """Boxes to tick."""
    with pikepdf.open(BytesIO(pdf)) as opened:
        content = b"".join(part.read_bytes() for part in [opened.pages[0].Contents])
    return len(re.findall(rb" 4 4 re S", content))


def parcel(lines: tuple[PackedLine, ...] = (), note: str = "", **changes: object) -> Packed:
    facts = {"shop": "Ferry kiosk", "order": 41, "who": "Ida Reed", "address": ("3 Quay Row", "Port Selby")}
    return Packed(**(facts | {"lines": lines, "note": note} | changes))  # type: ignore[arg-type]


def pieces(count: int) -> tuple[PackedLine, ...]:
    return tuple(PackedLine(f"Piece {n}", 30.0, 1, 1) for n in range(count))


def test_a_list_is_a_page_of_a4_with_shop_order_name_and_address() -> None:
    pdf = packing_list(parcel())
    size = pypdfium2.PdfDocument(pdf)[0].get_size()
    assert np.array(size) * 25.4 / 72 == pytest.approx((210, 297), abs=0.05)
    has = ink_of(pdf).any(axis=1)
    for base, capitals in ((24, 3.0), (44, 5.4), (56, 3.0), (62, 3.0), (68, 3.0)):
        above, top = has[int((base - capitals - 1) * 4)], has[int((base - capitals / 2) * 4)]
        assert (bool(above), bool(top)) == (False, True)
    assert boxes_of(pdf) == 0


@pytest.mark.parametrize("count", [1, 7, 24])
def test_there_is_a_box_to_tick_for_each_line_and_a_line_of_text(count: int) -> None:
    pdf = packing_list(parcel(pieces(count)))
    assert boxes_of(pdf) == count
    below = [y for y in rows_of(ink_of(pdf)) if y > 95]
    assert len(below) == count
    assert np.diff(below) == pytest.approx(7, abs=0.3)


def test_lines_that_find_no_room_are_told_in_one_more() -> None:
    pdf = packing_list(parcel(pieces(30)))
    assert boxes_of(pdf) == 24
    assert len([y for y in rows_of(ink_of(pdf)) if y > 95]) == 25


def test_what_is_lacking_makes_its_line_longer() -> None:
    whole, part = (PackedLine("Heron", 62.0, packed, 20) for packed in (20, 12))
    right = [ink_of(packing_list(parcel((each,)))).any(axis=0).nonzero()[0].max() for each in (whole, part)]
    said = font("text").shape("  (8 to follow)").width * 3.0
    assert (right[1] - right[0]) / PX_A_MM == pytest.approx(said, abs=1.5)


def test_a_note_is_broken_and_stays_on_the_page() -> None:
    without, ink = ink_of(packing_list(parcel())), ink_of(packing_list(parcel(note="Keep them dry. " * 20)))
    assert 2 <= len(rows_of(ink)) - len(rows_of(without)) <= 8
    assert ink.any(axis=0).nonzero()[0].max() / PX_A_MM <= 22 + 166 + 0.5


@pytest.mark.parametrize("width_mm", [8.0, 20.0, 60.0])
def test_a_text_too_long_ends_in_dots_and_fits(width_mm: float) -> None:
    short = fitting(LONG, width_mm, 3.0)
    assert short.endswith("…")
    assert LONG.startswith(short[:-1].rstrip())
    assert font("text").shape(short).width * 3.0 <= width_mm + 0.01
    one_more = f"{LONG[: len(short) + 1]}…"
    assert font("text").shape(one_more).width * 3.0 > width_mm


def test_a_text_that_fits_stays_and_so_does_none() -> None:
    assert fitting("Heron", 60, 3.0) == "Heron"
    assert fitting("", 1, 3.0) == ""
    assert font("text").shape("").glyphs == ()


def test_addresses_stand_three_across_and_eight_down() -> None:
    ink = ink_of(address_sheet([("Ida Reed", "3 Quay Row", "Port Selby")] * 24))
    high = 297 / 8
    fields = [
        ink[int(row * high * 4) : int((row + 1) * high * 4), column * 280 : (column + 1) * 280]
        for row in range(8)
        for column in range(3)
    ]
    begins = np.array([(each.any(axis=1).argmax(), each.any(axis=0).argmax()) for each in fields]) / PX_A_MM
    assert np.ptp(begins, axis=0).max() <= 0.5
    assert begins[0][1] == pytest.approx(7, abs=0.5)
    assert {len(rows_of(each)) for each in fields} == {3}


@pytest.mark.parametrize("lines", [(LONG, LONG), ("", "Port Selby"), (" ", ""), tuple("abcdefgh")])
def test_every_address_stays_within_its_field(lines: tuple[str, ...]) -> None:
    ink = ink_of(address_sheet([lines]))
    assert not ink[:, 70 * PX_A_MM :].any()
    assert not ink[int(297 / 8 * PX_A_MM) :].any()
    assert len(rows_of(ink)) == min(5, sum(bool(line.strip()) for line in lines))


def test_more_addresses_than_a_page_holds_are_left_out() -> None:
    full, more = (ink_of(address_sheet([("Ida Reed",)] * count)) for count in (MOST_ADDRESSES, 30))
    assert np.array_equal(full, more)
