"""What stands in a sheet's margin: read back with a reader of its own, and clear of marks and knife."""

import io

import numpy as np
import pikepdf
import pypdfium2
import pytest

from perisect.core.prepress.film import film_size, outside_film
from perisect.core.prepress.margin_note import Note, NoteImpossible, margin_strip, set_note, with_notes
from perisect.core.prepress.print_file import write_print_pdf
from perisect.core.prepress.raster import render_page
from perisect.core.sheet.equipment import machine_of
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS, EXAMPLE_STOCKS
from perisect.core.sheet.usable import usable_area

NOTE = Note(("Łucja Quill", "sheet 1 of 3", "copy 2 of 5", "Herons for the kiosk", "print side up"))
STOCKS = {stock.id: stock for stock in EXAMPLE_STOCKS}
DESK, ROLL = EXAMPLE_PRINTERS


def area_of(stock: str, printer: object, plotter: object, pattern: str | None = None):
    if pattern:
        plotter = plotter.model_copy(update={"marks": plotter.marks.model_copy(update={"pattern": pattern})})
    return usable_area(STOCKS[stock].panel(), machine_of(printer, plotter))


AREAS = [
    area_of("a4", DESK, EXAMPLE_PLOTTERS[0]),
    area_of("letter", DESK, EXAMPLE_PLOTTERS[2]),
    area_of("roll-vinyl", ROLL, EXAMPLE_PLOTTERS[1]),
    area_of("a4", DESK, EXAMPLE_PLOTTERS[0], "frame"),
]


@pytest.mark.parametrize("area", AREAS, ids=lambda area: f"{area.stock.id} {area.machine.marks.pattern}")
def test_a_note_stands_where_the_printer_prints_and_neither_knife_nor_marks_come(area) -> None:
    bare = write_print_pdf(area.stock, area.marks, area.machine.marks, [], {})
    before, k = render_page(bare, ppi=200)
    after, _ = render_page(with_notes(bare, area, [NOTE]), ppi=200)
    rows, columns = np.nonzero((before != after).any(axis=2))
    assert len(rows) > 200
    x, y = columns / k, rows / k
    margin = area.machine
    assert x.min() >= margin.margin_side_mm
    assert x.max() <= area.stock.width_mm - margin.margin_side_mm
    assert y.min() >= margin.margin_top_mm
    assert y.max() <= area.stock.height_mm - margin.margin_bottom_mm
    inside = (x > area.left_mm) & (x < area.right_mm) & (y > area.top_mm) & (y < area.bottom_mm)
    assert not inside.any()
    for left, top, right, bottom in area.notches:
        assert not ((x > left) & (x < right) & (y > top) & (y < bottom)).any()
    # What was printed before is printed still: no mark is touched.
    assert (after[rows, columns] < 250).any()
    assert (before[rows, columns] > 250).all()


def test_copies_share_their_pictures_and_each_has_its_own_note() -> None:
    area = AREAS[0]
    bare = write_print_pdf(area.stock, area.marks, area.machine.marks, [], {})
    names = [f"Pupil {number}" for number in range(1, 61)]
    made = with_notes(bare, area, [Note((name, "print side up")) for name in names])
    pages = pikepdf.open(io.BytesIO(made)).pages
    assert len(pages) == 60
    # Ten times what one page shows once would be ten pages that share nothing.
    shown = [name for page in pages for name in page.obj.Resources.XObject]
    streams = {
        page.obj.Resources.XObject[name].objgen for page in pages for name in page.obj.Resources.XObject
    }
    assert len(streams) == len(set(shown)) < len(shown) / 50
    rendered = pypdfium2.PdfDocument(made)
    first, last = (np.asarray(rendered[n].render(scale=2).to_numpy()) for n in (0, 59))
    assert first.shape == last.shape
    assert (first != last).any()


def test_the_last_parts_go_where_room_is_short_and_a_name_that_cannot_be_written_is_said() -> None:
    area = AREAS[0]
    strip = margin_strip(area)
    assert strip is not None
    assert strip.edge == "foot"
    # Between the lower marks of A4: 210 less twice (11 + 4.2 + 1.3), and 3.2 mm high between grip and bare edge.
    assert strip.long_mm == pytest.approx(210 - 2 * 16.5)
    assert strip.high_mm == pytest.approx(4)
    long = set_note(Note(("A" * 40, "b" * 300)), area)
    assert long is not None
    assert len(long.text.glyphs) == 40
    foreign = set_note(Note(("sheet 1 of 1", "船 of paper")), area)
    assert foreign is not None
    assert foreign.words == "sheet 1 of 1"
    for words in ("x" * 600, "船 of paper"):
        with pytest.raises(NoteImpossible, match="margin"):
            set_note(Note((words,)), area)


def test_film_for_a_sheet_leaves_every_mark_bare_and_covers_what_is_cut() -> None:
    # A4: the marks' clear zones (4.2 + 1.3 mm) end 17.5 mm below the head and 20.5 above the foot.
    assert film_size(AREAS[0]) == pytest.approx((210 - 2 * 2, 297 - 17.5 - 20.5))
    within, above, left = (10, 30, 50, 60), (10, 10, 50, 60), (1, 30, 50, 60)
    assert outside_film(AREAS[0], [within, above, left, within]) == 2
    for area in AREAS:
        film = film_size(area)
        assert film is not None
        assert film[0] * film[1] > 0.6 * area.stock.area_mm2
