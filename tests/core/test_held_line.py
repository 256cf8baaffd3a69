"""Cut lines that drawings hold already: recognised, not printed, and cut as they are."""

import io
from itertools import permutations

import numpy as np
import pikepdf
import pytest
import shapely

from perisect.core.artwork import ArtworkError, decode
from perisect.core.artwork.held_line import names_a_cut, names_a_line
from perisect.core.job import (
    DesignRecipe,
    JobRecipe,
    apply_remedy,
    plan_job,
    split_design,
    trace_artwork,
)
from perisect.core.job.artwork_check import artwork_findings
from perisect.core.job.bleed_check import bleed_findings
from perisect.core.lines import LineRecipe, cut_lines

POINTS_PER_MM = 72 / 25.4


def svg(line: str, more: str = "") -> bytes:
    """A disc of 20 mm in a drawing of 60 x 40 mm, and a line."""
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:k="urn:kiosk" width="60mm" height="40mm" viewBox="0 0 60 40">'
        "<style>.hair{fill:none;stroke:#f0f;stroke-width:.3}</style>"
        f'<circle cx="30" cy="20" r="10" fill="teal"/>{line}{more}</svg>'
    ).encode()


RING = '<g id="g7" k:label="Cut line" transform="translate(30 20)"><g><circle class="hair" r="14"/></g></g>'


def pdf(content: str, layer: str = "Art", colour: str = "Die line") -> bytes:
    """A page of 60 x 40 mm with a layer and a spot colour."""
    file = pikepdf.new()
    tint = pikepdf.Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=[0, 1, 0, 0], N=1)
    spot = pikepdf.Array(
        [
            pikepdf.Name.Separation,
            pikepdf.Name(f"/{colour}"),
            pikepdf.Name.DeviceCMYK,
            file.make_indirect(tint),
        ]
    )
    group = file.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name=layer))
    resources = pikepdf.Dictionary(
        ColorSpace=pikepdf.Dictionary(Spot=spot), Properties=pikepdf.Dictionary(L0=group)
    )
    file.add_blank_page(page_size=(60 * POINTS_PER_MM, 40 * POINTS_PER_MM))
    file.pages[0].Resources = resources
    scale = f"{POINTS_PER_MM:.6f} 0 0 {POINTS_PER_MM:.6f} 0 0 cm "
    file.pages[0].Contents = file.make_stream((scale + content).encode())
    data = io.BytesIO()
    file.save(data)
    return data.getvalue()


def pdf_of_lines(content: str, names: dict[str, str], rotate: int = 0) -> bytes:
    """A page of 60 x 40 mm with several spot colours, by the keys that the content calls them."""
    file = pikepdf.open(io.BytesIO(pdf(content)))
    spaces = file.pages[0].Resources.ColorSpace
    for key, name in names.items():
        spaces[f"/{key}"] = pikepdf.Array(
            [pikepdf.Name.Separation, pikepdf.Name(f"/{name}"), *list(spaces.Spot)[2:]]
        )
    del spaces["/Spot"]
    file.pages[0].Rotate = rotate
    data = io.BytesIO()
    file.save(data)
    return data.getvalue()


ART = "0 0.5 0.5 rg 20 10 20 20 re f "
BOX = "0.3 w 15 5 30 30 re S "


@pytest.mark.parametrize(
    ("name", "line", "cut"),
    [
        ("Cut line", True, True),
        ("CutLine", True, True),
        ("KISS_CUT 2", True, True),
        ("dieline", True, True),
        ("through", True, False),
        ("Perf", True, False),
        ("Cute bird", False, False),
        ("Soldier", False, False),
        ("Shortcuts", False, False),
        ("contour", False, False),
    ],
)
def test_a_line_is_known_by_whole_words(name: str, line: bool, cut: bool) -> None:
    assert (names_a_line(name), names_a_cut(name)) == (line, cut)


def test_the_line_of_an_svg_is_no_art_and_is_cut_as_it_is() -> None:
    drawn = decode(svg(RING, '<path id="Perf" class="hair" d="M0 5H60"/>'))
    traced, rgba = trace_artwork(drawn, DesignRecipe(id="d1", name="Disc", artwork="a" * 64).mend)
    assert traced.held_line == "Cut line"
    # Nothing of either line is left in the picture: what is printed is the disc.
    px_per_mm = rgba.shape[1] / 60
    assert np.count_nonzero(rgba[..., 3]) / px_per_mm**2 == pytest.approx(np.pi * 100, rel=0.005)
    lines = cut_lines(traced.outline, 20.0, 2.0, recipe=LineRecipe(shape="held"))
    ring = shapely.Point(10, 10).buffer(14, quad_segs=200).exterior
    assert shapely.hausdorff_distance(lines.own.boundary, ring) < 0.05


def test_a_line_is_offered_and_taken_with_one_remedy() -> None:
    design = DesignRecipe(id="d1", name="Disc", artwork="a" * 64, longest_mm=20.0)
    traced, _ = trace_artwork(decode(svg(RING)), design.mend)
    (found,) = [each for each in artwork_findings(design, traced) if each.code == "held_line"]
    assert "“Cut line”" in found.text
    recipe = apply_remedy(JobRecipe(designs=(design,)), found.remedy, "d1")
    plan = plan_job(recipe, {design.picture: traced})
    left, top, right, bottom = plan.lines["d1"].own.bounds
    assert (right - left, bottom - top) == pytest.approx((28, 28), abs=0.05)
    assert not [each for each in artwork_findings(recipe.designs[0], traced) if each.code == "held_line"]


@pytest.mark.parametrize(
    "content",
    [
        ART + "/Spot CS 1 SCN " + BOX,
        "q /Spot CS 1 SCN " + BOX + "Q " + ART,
    ],
)
def test_a_stroke_in_a_spot_colour_of_a_pdf_is_a_line(content: str) -> None:
    check_box(decode(pdf(content)), "Die line")


def test_strokes_on_a_layer_of_a_pdf_are_a_line() -> None:
    content = ART + "/OC /L0 BDC 1 0 1 RG " + BOX + "EMC 0 0 0 RG 0.5 w 25 15 10 10 re S"
    drawn = decode(pdf(content, layer="Kiss cut", colour="Teal"))
    check_box(drawn, "Kiss cut")


NAMES = {"A": "Kiss cut", "B": "Perf cut", "C": "Crease"}
EACH = {
    "A": "/A CS 1 SCN 0.3 w 15 5 30 30 re S ",
    "B": "/B CS 1 SCN 30 5 m 30 35 l S ",
    "C": "/C CS 1 SCN 15 20 m 25 20 35 20 45 20 c S ",
}


@pytest.mark.parametrize("order", list(permutations("ABC")))
def test_every_named_line_of_a_pdf_becomes_a_line_of_its_process(order: tuple[str, ...]) -> None:
    """In any order: the perforation is a cut by its name too, and is not the line round the piece."""
    drawn = decode(pdf_of_lines(ART + "".join(EACH[key] for key in order), NAMES))
    check_box(drawn, "Kiss cut")
    traced, _ = trace_artwork(drawn, DesignRecipe(id="d1", name="Box", artwork="a" * 64).mend)
    mm = np.array([60, 40]) / drawn.rgba.shape[1::-1]
    beside = {process: np.array(line.coords) * mm for process, line in traced.outline.beside}
    assert beside.keys() == {"perforate", "crease"}
    assert beside["perforate"][[0, -1]] == pytest.approx(np.array([[30, 35], [30, 5]]), abs=0.02)
    assert beside["crease"][[0, -1]] == pytest.approx(np.array([[15, 20], [45, 20]]), abs=0.02)


def in_a_form(data: bytes, lines: str) -> bytes:
    """A page whose lines are drawn by a form that is moved by 2 mm, with the names in the form's own resources."""
    file = pikepdf.open(io.BytesIO(data))
    page = file.pages[0]
    form = file.make_stream(lines.encode())
    form.Type, form.Subtype = pikepdf.Name.XObject, pikepdf.Name.Form
    form.BBox, form.Matrix = [-100, -100, 100, 100], [1, 0, 0, 1, 2, 0]
    form.Resources = page.Resources
    page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(A=form))
    saved = io.BytesIO()
    file.save(saved)
    return saved.getvalue()


def test_lines_inside_a_form_are_lines_too() -> None:
    lines = EACH["A"].replace("15 5", "13 5") + EACH["B"].replace("30 5 m 30 35", "28 5 m 28 35")
    drawn = decode(in_a_form(pdf_of_lines(ART + "/A Do", NAMES), lines))
    check_box(drawn, "Kiss cut")
    traced, _ = trace_artwork(drawn, DesignRecipe(id="d1", name="Box", artwork="a" * 64).mend)
    ((process, line),) = traced.outline.beside
    assert process == "perforate"
    assert np.array(line.coords)[:, 0] * 60 / drawn.rgba.shape[1] == pytest.approx([30, 30], abs=0.02)


@pytest.mark.parametrize("kind", ["pdf", "svg"])
@pytest.mark.parametrize("name", ["Through cut", "Perf cut"])
def test_an_open_cut_goes_round_nothing(kind: str, name: str) -> None:
    """A bent cut across the art is a line of its process, though what it would enclose is not empty."""
    bent = f'<path id="{name}" class="hair" d="M15 20Q30 26 45 20"/>'
    content = ART + "/B CS 1 SCN 0.3 w 15 20 m 25 26 35 26 45 20 c S "
    data = pdf_of_lines(content, {"B": name}) if kind == "pdf" else svg(bent)
    traced, _ = trace_artwork(decode(data), DesignRecipe(id="d1", name="Box", artwork="a" * 64).mend)
    assert traced.held_line == ""
    assert [process for process, _ in traced.outline.beside] == [
        "through" if name.startswith("T") else "perforate"
    ]


def test_lines_of_a_turned_page_lie_where_they_are_seen() -> None:
    drawn = decode(pdf_of_lines(ART + EACH["A"] + EACH["B"], NAMES, rotate=90))
    traced, _ = trace_artwork(drawn, DesignRecipe(id="d1", name="Box", artwork="a" * 64).mend)
    mm = np.array([40, 60]) / drawn.rgba.shape[1::-1]
    ((process, line),) = traced.outline.beside
    # Turned clockwise, what stood upright at 30 mm lies across at 30 mm.
    assert process == "perforate"
    assert sorted((np.array(line.coords) * mm)[:, 0]) == pytest.approx([5, 35], abs=0.02)
    assert (np.array(line.coords) * mm)[:, 1] == pytest.approx([30, 30], abs=0.02)


@pytest.mark.parametrize("kind", ["pdf", "svg"])
def test_a_fold_without_a_cut_line_is_pressed_and_not_printed(kind: str) -> None:
    fold = '<path id="Fold" class="hair" d="M30 5V35"/>'
    data = pdf_of_lines(ART + EACH["B"], {"B": "Fold"}) if kind == "pdf" else svg(fold)
    traced, rgba = trace_artwork(decode(data), DesignRecipe(id="d1", name="Box", artwork="a" * 64).mend)
    assert traced.held_line == ""
    # Beside the art, a square of 20 mm or a disc of 10 mm radius, the fold would be ink: 30 mm long, 0.3 mm wide.
    area = np.count_nonzero(rgba[..., 3]) * (60 / rgba.shape[1]) ** 2
    assert area == pytest.approx(400 if kind == "pdf" else np.pi * 100, rel=0.01)
    lines = cut_lines(traced.outline, 20.0, 2.0)
    ((process, crease),) = [(extra.process, extra.cut) for extra in lines.extras]
    assert process == "crease"
    assert crease.length == pytest.approx(30, abs=0.1)


def test_a_fold_of_cloth_is_art() -> None:
    cloth = '<path id="fold-3" fill="#333" d="M10 2H50V8H10Z"/>'
    _, rgba = trace_artwork(decode(svg(cloth)), DesignRecipe(id="d1", name="Box", artwork="a" * 64).mend)
    assert np.count_nonzero(rgba[..., 3]) * (60 / rgba.shape[1]) ** 2 == pytest.approx(
        np.pi * 100 + 240, rel=0.02
    )


def check_box(drawn, name: str) -> None:
    traced, rgba = trace_artwork(drawn, DesignRecipe(id="d1", name="Box", artwork="a" * 64).mend)
    assert traced.held_line == name
    px_per_mm = rgba.shape[1] / 60
    assert np.count_nonzero(rgba[..., 3]) / px_per_mm**2 == pytest.approx(400, rel=0.01)
    own = cut_lines(traced.outline, 20.0, 0.0, recipe=LineRecipe(shape="held")).own
    assert own.bounds == pytest.approx((-5, -5, 25, 25), abs=0.05)


@pytest.mark.parametrize(
    "data",
    [
        svg('<rect id="cut" x="5" y="5" width="50" height="30" fill="gold"/>').replace(
            b'<circle cx="30" cy="20" r="10" fill="teal"/>', b""
        ),
        svg('<rect id="Cut paper" x="15" y="5" width="30" height="30" fill="gold"/>'),
        pdf("/Spot cs 1 scn 20 10 20 20 re f"),
        pdf("/Spot CS 1 SCN " + BOX),
        pdf(ART + "1 0 0 RG " + BOX),
    ],
    ids=["only an area", "filled", "filled spot", "only a spot line", "no name"],
)
def test_what_may_be_art_stays_art(data: bytes) -> None:
    drawn = decode(data)
    assert drawn.held is None
    assert drawn.rgba[..., 3].any()


def test_a_line_that_is_not_there_is_refused_with_a_way_out() -> None:
    outline = trace_artwork(decode(svg("")), DesignRecipe(id="d1", name="D", artwork="a" * 64).mend)[
        0
    ].outline
    with pytest.raises(Exception, match="no cut line of its own"):
        cut_lines(outline, 20.0, 2.0, recipe=LineRecipe(shape="held"))


def test_odd_pages_are_drawn_whole() -> None:
    for content in (
        "/Spot CS 1 SCN q q q Q Q Q Q EMC EMC " + BOX + ART,
        ART + "/Spot CS (",
        "BDC BDC " + ART,
    ):
        try:
            decode(pdf(content))
        except ArtworkError:
            pass


def test_of_a_page_each_drawing_has_the_line_round_itself() -> None:
    page = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="40mm" viewBox="0 0 80 40">'
        b'<circle cx="20" cy="20" r="10" fill="teal"/><rect x="52" y="12" width="16" height="16" fill="brown"/>'
        b'<g id="cut" fill="none" stroke="red" stroke-width=".3"><circle cx="20" cy="20" r="14"/>'
        b'<rect x="48" y="8" width="24" height="24"/></g></svg>'
    )
    whole = DesignRecipe(id="d1", name="Page", artwork="a" * 64, longest_mm=58)
    decoded = decode(page)
    traced, _ = trace_artwork(decoded, whole.mend)
    assert len(traced.outline.held.geoms) == 2
    split = split_design(JobRecipe(designs=(whole,)), "d1", traced).designs
    assert len(split) == 2
    widths = []
    for design in split:
        own, _ = trace_artwork(decoded, design.mend, design.longest_mm)
        lines = cut_lines(own.outline, design.longest_mm, 2.0, recipe=LineRecipe(shape="held"))
        left, _, right, _ = lines.own.bounds
        widths.append(right - left)
    assert sorted(widths) == pytest.approx([24, 28], abs=0.1)


def test_the_border_of_a_held_line_is_the_white_that_there_is() -> None:
    design = DesignRecipe(id="d1", name="Disc", artwork="a" * 64, longest_mm=20.0, border_mm=2.0)
    traced, _ = trace_artwork(decode(svg(RING)), design.mend)
    held = LineRecipe(shape="held")
    assert cut_lines(traced.outline, 20.0, 2.0, recipe=held).border_mm(2.0) == pytest.approx(4.0, abs=0.05)
    assert cut_lines(traced.outline, 20.0, 2.0).border_mm(2.0) == 2.0
    # A line inside the art: what is past it is its bleed, and no more is asked for.
    through = RING.replace('r="14"', 'r="8"')
    inside, _ = trace_artwork(decode(svg(through)), design.mend)
    lines = cut_lines(inside.outline, 20.0, 2.0, recipe=held)
    assert lines.border_mm(2.0) == 0
    taken = design.model_copy(update={"lines": held})
    assert bleed_findings(taken, inside, lines) == []


@pytest.mark.parametrize(("width", "height"), [(60, 40), (70, 45), (33, 27)])
def test_the_picture_of_a_drawing_in_mm_is_as_large_as_its_outline(width: int, height: int) -> None:
    # Its paint is not plain, so that it prints from pixels while the outline is that of its shapes.
    data = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm">'
        f'<rect x="{width * 0.1}mm" y="{height * 0.1}mm" width="{width * 0.8}mm" height="{height * 0.8}mm"/>'
        f'<circle cx="{width / 2}mm" cy="{height / 2}mm" r="4mm" fill="red" fill-opacity=".5"/></svg>'
    ).encode()
    decoded = decode(data)
    assert decoded.shapes is not None
    rows, columns = np.nonzero(decoded.rgba[..., 3] > 127)
    drawn = (columns.min(), rows.min(), columns.max() + 1, rows.max() + 1)
    assert drawn == pytest.approx(decoded.shapes.outline.bounds, abs=1.0)


def test_deep_groups_are_read_and_bottomless_ones_refused() -> None:
    def nested(depth: int) -> bytes:
        line = '<path d="M15 5h30v30h-30z" fill="none" stroke="red" stroke-width=".3"/>'
        return svg('<g id="cut">' * depth + line + "</g>" * depth)

    held = decode(nested(100)).held
    assert held is not None
    assert np.count_nonzero(held.area) / (held.area.shape[1] / 60) ** 2 == pytest.approx(900, rel=0.01)
    with pytest.raises(ArtworkError, match="nested too deeply"):
        decode(nested(20_000))
