"""Dies that somebody has already, as DXF or SVG: loops put together, layers by their names, cut as they are drawn."""

import io
import logging
import re
from contextlib import suppress

import ezdxf
import numpy as np
import pytest
import shapely
from ezdxf import units

from perisect.core.artwork import ArtworkError, decode
from perisect.core.artwork.die import die_shape
from perisect.core.artwork.die_dxf import looks_like_dxf
from perisect.core.formats import CutSheet
from perisect.core.formats.dxf import write_dxf
from perisect.core.job import DesignRecipe, JobRecipe, plan_job, trace_artwork
from perisect.core.job.area_plates import area_plates
from perisect.core.job.artwork_check import artwork_findings
from perisect.core.job.new_piece import with_picture
from perisect.core.lines import LineRecipe, SizedArt
from perisect.core.prepress.plates import AreaPlate

HELD = LineRecipe(shape="held", fit_mm=0)


def dxf(draw, unit: int = units.MM) -> bytes:
    drawing = ezdxf.new("R2010", units=unit)
    draw(drawing, drawing.modelspace())
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode()


def lines_of(data: bytes, longest_mm: float):
    decoded = decode(data)
    traced, _ = trace_artwork(decoded)
    return decoded, traced, SizedArt(traced.outline, longest_mm).lines(0.0, None, HELD)


def ticket(drawing, space) -> None:
    """A ticket 80 x 40 mm of four loose lines and arcs of 5 mm at its corners, a round window of 12 mm, a perforated
    line across and a crease: 80 * 40 - (4 - pi) * 25 - pi * 36 mm2."""
    for name in ("Kiss", "Perf", "Fold here", "Notes"):
        drawing.layers.add(name)
    on = {"layer": "Kiss"}
    space.add_line((5, 0), (75, 0), dxfattribs=on)
    space.add_line((80, 35), (80, 5.005), dxfattribs=on)  # drawn the other way round, and not quite there
    space.add_line((75, 40), (5, 40), dxfattribs=on)
    space.add_line((0, 35), (0, 5), dxfattribs=on)
    for x, y, start in ((5, 5, 180), (75, 5, 270), (75, 35, 0), (5, 35, 90)):
        space.add_arc((x, y), 5, start, start + 90, dxfattribs=on)
    space.add_circle((20, 20), 6, dxfattribs=on)
    space.add_line((60, 0), (60, 40), dxfattribs={"layer": "Perf"})
    space.add_line((40, 0), (40, 40), dxfattribs={"layer": "Fold here"})
    space.add_lwpolyline([(-30, -30), (120, -30)], dxfattribs={"layer": "Notes"})
    space.add_text("ferry", dxfattribs={"layer": "Notes"})


TICKET_MM2 = 80 * 40 - (4 - np.pi) * 25 - np.pi * 36


def test_a_die_of_loose_lines_is_cut_as_it_is_drawn() -> None:
    decoded, traced, lines = lines_of(dxf(ticket), 80)
    assert decoded.held is not None
    assert decoded.held.alone
    assert traced.is_die
    assert traced.own_mm == pytest.approx((80, 40), abs=0.02)
    assert lines.own.area == pytest.approx(TICKET_MM2, abs=1.0)
    assert len(lines.own.geoms) == 1
    assert len(lines.own.geoms[0].interiors) == 1
    want = shapely.box(5, 5, 75, 35).buffer(5, quad_segs=200) - shapely.Point(20, 20).buffer(6, quad_segs=200)
    assert shapely.hausdorff_distance(lines.own.boundary, want.boundary, densify=0.01) < 0.05
    processes = {extra.process: extra for extra in lines.extras}
    assert processes.keys() == {"perforate", "crease"}
    crease = processes["crease"].cut
    assert crease.length == pytest.approx(40, abs=0.02)
    assert crease.bounds == pytest.approx((40, 0, 40, 40), abs=0.02)
    # Cuts of about 4 mm and ties of 0.6: nine cuts and eight ties over 40 mm, a cut at each end.
    cuts = shapely.get_parts(processes["perforate"].cut)
    assert len(cuts) == 9
    assert processes["perforate"].cut.length == pytest.approx(40 - 8 * 0.6, abs=0.02)
    assert any("Notes" in note for note in decoded.notes)


def test_nothing_of_a_die_is_printed_and_it_comes_as_a_piece_at_its_own_size() -> None:
    decoded = decode(dxf(ticket))
    traced, rgba = trace_artwork(decoded)
    assert (rgba[rgba[..., 3] > 0][:, :3] == 255).all()
    recipe, design = with_picture(JobRecipe(), "1" * 64, "ticket.dxf", die_mm=max(traced.own_mm or (0,)))
    (piece,) = recipe.designs
    assert (piece.lines.shape, piece.peel_mm, piece.border_mm) == ("held", None, 0)
    assert piece.longest_mm == pytest.approx(80, abs=0.02)
    (finding,) = artwork_findings(piece, traced)
    assert (finding.code, finding.severity) == ("die", "good")
    assert "with 1 to perforate and 1 to crease" in finding.text
    small = piece.model_copy(update={"longest_mm": 40.0})
    (look,) = artwork_findings(small, traced)
    assert look.severity == "look"
    assert look.remedy is not None
    assert look.remedy.value == pytest.approx(80, abs=0.02)  # type: ignore[union-attr]
    plan = plan_job(recipe, {"1" * 64: traced})
    white, gloss = area_plates(plan, 0, {"white": AreaPlate("White"), "varnish": AreaPlate("Gloss")})
    assert (len(white.rings), len(gloss.rings) > 0) == (0, True)
    assert plan.lines[design].own.area == pytest.approx(TICKET_MM2, abs=3.0)  # fitted to 0.05 mm


@pytest.mark.parametrize(("unit", "mm"), [(units.IN, 25.4), (units.CM, 10.0), (units.M, 1000.0), (0, 1.0)])
def test_its_unit_is_heeded_and_none_is_said(unit: int, mm: float) -> None:
    side = 50 / mm
    square = dxf(
        lambda _, space: space.add_lwpolyline([(0, 0), (side, 0), (side, side), (0, side)], close=True), unit
    )
    decoded, traced, _ = lines_of(square, 50)
    assert traced.own_mm == pytest.approx((50, 50), abs=0.02)
    assert any("unit" in note for note in decoded.notes) == (unit == 0)


def test_blocks_splines_and_ellipses_are_followed() -> None:
    def draw(drawing, space) -> None:
        block = drawing.blocks.new("HOLE")
        block.add_circle((0, 0), 2)
        space.add_ellipse((0, 0), (30, 0), 0.5)
        space.add_blockref("HOLE", (10, 0))
        space.add_blockref("HOLE", (-10, 0), dxfattribs={"xscale": 2, "yscale": 2})
        around = [(50 * np.cos(t), 40 * np.sin(t)) for t in np.linspace(0, 2 * np.pi, 40)]
        space.add_spline(around)

    _, _, lines = lines_of(dxf(draw), 100)
    # The ellipse is the hole of a ring, and what lies within a hole is a piece again.
    ring, larger, smaller = sorted(lines.own.geoms, key=lambda part: -part.area)
    assert ring.area == pytest.approx(np.pi * (50 * 40 - 30 * 15), rel=0.01)
    assert (larger.area, smaller.area) == pytest.approx((np.pi * 16, np.pi * 4), rel=0.005)


def test_a_sheet_of_our_own_comes_back_as_a_die() -> None:
    ring = np.array([[10, 10], [50, 10], [50, 30], [10, 30]], float)
    around = np.array([[7, 7], [53, 7], [53, 33], [7, 33]], float)
    sheet = CutSheet(210, 297, {"kiss": [ring], "through": [around]}, {"kiss": [0], "through": [0]}, [])
    _, _, lines = lines_of(write_dxf(sheet).encode(), 40)
    assert lines.own.area == pytest.approx(800, abs=0.5)
    (extra,) = lines.extras
    assert extra.process == "through"
    assert extra.cut.area == pytest.approx(46 * 26, abs=0.5)
    assert extra.cut.bounds == pytest.approx((-3, -3, 43, 23), abs=0.02)


def test_loops_that_cross_are_one_and_what_lies_within_alternates() -> None:
    def square(x: float, y: float, side: float) -> np.ndarray:
        return np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side], [x, y]], float)

    crossing = die_shape([square(0, 0, 10), square(5, 5, 10)], 0.01)
    assert crossing.shape.area == pytest.approx(175)
    nested = die_shape([square(0, 0, 10), square(1, 1, 8), square(2, 2, 6)], 0.01)
    assert nested.shape.area == pytest.approx(100 - 64 + 36)
    open_line = die_shape(
        [square(0, 0, 10), np.array([[20.0, 0], [30, 0]]), np.array([[30.005, 0], [40, 5]])], 0.01
    )
    assert open_line.shape.area == pytest.approx(100)
    assert [len(line) for line in open_line.open] == [3]
    with pytest.raises(ValueError, match="loops"):
        die_shape([square(n, 0, 0.5) for n in range(2001)], 0.01)


def test_an_svg_of_lines_alone_is_a_die_too() -> None:
    svg = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
        b'<style>.hair{fill:none;stroke:#f0f;stroke-width:.3}</style><g id="kiss" class="hair">'
        b'<circle cx="20" cy="20" r="10"/><circle cx="20" cy="20" r="4"/><path id="fold" d="M10 20H30"/></g></svg>'
    )
    _, traced, lines = lines_of(svg, 20)
    assert traced.is_die
    assert lines.own.area == pytest.approx(np.pi * (100 - 16), abs=0.3)
    assert [extra.process for extra in lines.extras] == ["crease"]


@pytest.mark.parametrize(
    "data",
    [
        b"0\nSECTION\n",
        b"0\nSECTION\n2\nENTITIES\n0\nCIRCLE\n10\nnan\n20\n0\n40\n5\n0\nENDSEC\n0\nEOF\n",
        b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\n0\n20\n0\n11\n1e308\n21\n0\n0\nENDSEC\n0\nEOF\n",
        dxf(ticket)[:9000],
        dxf(lambda _, space: space.add_text("only words")),
        dxf(lambda _, space: space.add_line((0, 0), (0, 0))),
        dxf(lambda _, space: space.add_circle((0, 0), 1e9)),
    ],
    ids=["cut off", "nan", "huge", "half", "words", "no length", "a world"],
)
def test_what_is_no_die_is_refused_with_what_to_do(data: bytes) -> None:
    assert looks_like_dxf(data)
    with pytest.raises(ArtworkError) as refused:
        trace_artwork(decode(data))
    assert refused.value.detail


@pytest.mark.long
def test_what_is_too_much_or_too_far_is_said_as_such() -> None:
    def many(_, space) -> None:
        for n in range(20_001):
            space.add_line((n, 0), (n + 1, 0))

    with pytest.raises(ArtworkError, match="too many parts"):
        decode(dxf(many))
    with pytest.raises(ArtworkError, match="farther than a kilometre"):
        decode(dxf(lambda _, space: space.add_circle((0, 0), 1e9)))
    with pytest.raises(ArtworkError, match="12 m long"):
        decode(dxf(lambda _, space: space.add_line((0, 0), (12_000, 0))))


def test_a_block_that_holds_itself_ends() -> None:
    def draw(drawing, space) -> None:
        block = drawing.blocks.new("LOOP")
        block.add_circle((0, 0), 5)
        block.add_blockref("LOOP", (1, 0))
        space.add_blockref("LOOP", (0, 0))

    with pytest.raises(ArtworkError, match=r"damaged|parts"):
        trace_artwork(decode(dxf(draw)))


def test_a_design_without_the_held_line_says_so() -> None:
    traced, _ = trace_artwork(decode(dxf(ticket)))
    plain = DesignRecipe(id="d1", name="Ticket", artwork="1" * 64)
    assert "held_line" in [each.code for each in artwork_findings(plain, traced)]


def test_a_broken_die_does_not_fill_the_log(caplog: pytest.LogCaptureFixture) -> None:
    """Every line of one that has the same handle twice was a line of the log."""
    broken = re.sub(rb"\n  5\r?\n[0-9A-F]+\r?\n", b"\n  5\nFF\n", dxf(ticket))
    assert broken != dxf(ticket)
    with caplog.at_level(logging.INFO), suppress(ArtworkError):
        decode(broken)
    assert caplog.records == []
