"""Named plates for a RIP that cuts, and what a file is found to hold."""

import io
import json
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
import pypdfium2.raw as pdfium
import pytest
import shapely
from typer.testing import CliRunner

from perisect.cli import app
from perisect.core.prepress.plates import Plate, PlateError
from perisect.core.prepress.plates_check import PlatesUnreadable, plates_in
from perisect.core.units import POINTS_PER_MM
from tests.core import drawings
from tests.core.reading import read_svg

PLATES = "kiss=Kiss der Fähre,through=CutAll,perforate=Perf"


def made(folder: Path, *options: str) -> Path:
    art = folder / "star.png"
    art.write_bytes(drawings.png(drawings.coverage(drawings.star(300, 130))[0]))
    words = ["make", str(art), "--out", str(folder / "out"), "--peel-mm", "3", "--longest-mm", "50", *options]
    result = CliRunner().invoke(app, words)
    assert result.exit_code == 0, result.output
    return folder / "out"


def strokes(data: bytes) -> list[np.ndarray]:
    """The control points of every stroked path, mm from the top left, as pdfium reads them."""
    page = pypdfium2.PdfDocument(data)[0]
    height = page.get_height()
    found = []
    for each in page.get_objects([pdfium.FPDF_PAGEOBJ_PATH]):
        matrix = each.get_matrix()
        points = []
        for n in range(pdfium.FPDFPath_CountSegments(each.raw)):
            x, y = pdfium.c_float(), pdfium.c_float()
            pdfium.FPDFPathSegment_GetPoint(pdfium.FPDFPath_GetPathSegment(each.raw, n), x, y)
            points.append(matrix.on_point(x.value, y.value))
        xy = np.array(points)
        found.append(np.column_stack([xy[:, 0], height - xy[:, 1]]) / POINTS_PER_MM)
    return found


def test_plates_hold_the_lines_of_the_cut_file_by_the_names_asked_for(tmp_path: Path) -> None:
    out = made(tmp_path, "--plates", PLATES)
    file = out / "sheet-01.plates.pdf"
    told = json.loads(CliRunner().invoke(app, ["check-plates", str(file)]).output)
    lines = json.loads((out / "report.json").read_text())["sheets"][0]["lines"]
    # There is no perforation on this sheet, so there is no plate of it either.
    assert [plate["name"] for plate in told] == ["Kiss der Fähre", "CutAll"]
    for plate, process in zip(told, ("kiss", "through"), strict=True):
        assert plate["objects"] == lines[process]["count"]
        assert plate["length_mm"] == pytest.approx(lines[process]["length_mm"], rel=1e-3)
    # Read by another program: each path begins and has its nodes on the lines of the cut file.
    svg = read_svg((out / "sheet-01.cut.svg").read_text())
    cut = [shapely.LinearRing(ring) for process in ("kiss", "through") for ring in svg[process]]
    read = strokes(file.read_bytes())
    assert len(read) == len(cut)
    for path, ring in zip(read, cut, strict=True):
        nodes = path[::3]
        assert shapely.distance(shapely.points(nodes), ring).max() <= 0.05
    assert plates_in((out / "sheet-01.print.pdf").read_bytes()) == []
    with pikepdf.open(file) as pdf:
        page = pdf.pages[0]
        assert [float(n) for n in page.TrimBox] == pytest.approx([0, 0, 595.276, 841.89], abs=0.01)
        assert [str(group.Name) for group in pdf.Root.OCProperties.OCGs] == ["Kiss der Fähre", "CutAll"]
        assert page.Resources.ExtGState.OVER.OP


def test_white_and_varnish_are_computed_from_the_art_and_the_stickers(tmp_path: Path) -> None:
    """Discs of 40 mm with a border of 2 mm: white stays 0.15 inside 20 mm, varnish reaches 0.5 past 22 mm."""
    art = tmp_path / "disc.png"
    art.write_bytes(drawings.png(drawings.coverage(drawings.disc(600))[0]))
    words = ["make", str(art), "--out", str(tmp_path / "out"), "--longest-mm", "40", "--copies", "3"]
    words += ["--plates", "white=White,varnish=Gloss,kiss=Kiss", "--white-choke-mm", "0.15"]
    result = CliRunner().invoke(app, [*words, "--varnish-spread-mm", "0.5"])
    assert result.exit_code == 0, result.output
    file = tmp_path / "out/sheet-01.plates.pdf"
    told = {
        each["name"]: each for each in json.loads(CliRunner().invoke(app, ["check-plates", str(file)]).output)
    }
    assert [told[name]["objects"] for name in ("White", "Gloss", "Kiss")] == [3, 3, 3]
    assert told["White"]["area_mm2"] == pytest.approx(3 * np.pi * 19.85**2, rel=1e-3)
    assert told["Gloss"]["area_mm2"] == pytest.approx(3 * np.pi * 22.5**2, rel=1e-3)
    assert told["Kiss"]["length_mm"] == pytest.approx(3 * 2 * np.pi * 22, rel=1e-3)
    # Rendered by another program, what stands in for them covers as much: white and varnish lie on each other.
    page = pypdfium2.PdfDocument(file.read_bytes())[0].render(scale=4, draw_annots=False).to_numpy()
    covered = (page.min(axis=2) < 250).sum() / (4 * POINTS_PER_MM) ** 2
    assert covered == pytest.approx(3 * np.pi * 22.5**2, rel=0.005)


def test_what_two_stickers_grow_into_is_covered_once_and_holes_stay_bare(tmp_path: Path) -> None:
    ring = drawings.coverage(drawings.ring(600, 300))[0]
    art = tmp_path / "ring.png"
    art.write_bytes(drawings.png(ring))
    words = ["make", str(art), "--out", str(tmp_path / "out"), "--longest-mm", "40", "--copies", "1"]
    result = CliRunner().invoke(app, [*words, "--plates", "white=White ink"])
    assert result.exit_code == 0, result.output
    (white,) = plates_in((tmp_path / "out/sheet-01.plates.pdf").read_bytes())
    # 0.1 mm inside both edges.
    assert white.area_mm2 == pytest.approx(np.pi * (19.9**2 - 10.1**2), rel=2e-3)
    assert white.objects == 2


@pytest.mark.parametrize(
    ("plates", "why"),
    [
        ("kiss=Cyan", "ink of the press"),
        ("kiss=", "1 to 60 letters"),
        ("fold=A", "WHAT=NAME"),
        ("kiss", "WHAT=NAME"),
        ("kiss=A,through=a", "two plates"),
        ("kiss=A,kiss=B", "twice"),
        ("kiss=" + "A" * 61, "1 to 60 letters"),
        ("kiss=A\tB", "on one line"),
        ("kiss=Cut\u00a0Line", "plain spaces"),
        ("kiss=\u202etuC", "plain spaces"),
        ("kiss=Cut\u200b", "plain spaces"),
        ("kiss=Ｃｙａｎ", "ink of the press"),
        ("kiss=Caf\u00e9,through=Cafe\u0301", "two plates"),
    ],
)
def test_a_plate_that_no_rip_could_take_is_refused_in_one_line(tmp_path: Path, plates: str, why: str) -> None:
    art = tmp_path / "star.png"
    art.write_bytes(b"never read")
    result = CliRunner().invoke(app, ["make", str(art), "--out", str(tmp_path / "out"), "--plates", plates])
    assert result.exit_code == 2
    assert why in result.output
    assert result.output.count("\n") == 1


def test_plates_of_strange_numbers_are_refused() -> None:
    for plate in (
        {"cmyk": (0, 2, 0, 0)},
        {"width_mm": 0.0},
        {"width_mm": float("nan")},
        {"cmyk": (float("nan"),) * 4},
    ):
        with pytest.raises(PlateError):
            Plate("Cut", **plate)  # type: ignore[arg-type]


def test_what_a_stranger_s_file_holds_is_read_through_its_forms() -> None:
    pdf = pikepdf.new()
    spot = pikepdf.Array(
        [
            pikepdf.Name.Separation,
            pikepdf.Name("/Die line"),
            pikepdf.Name.DeviceRGB,
            pikepdf.Dictionary(FunctionType=2, Domain=[0, 1], C0=[1, 1, 1], C1=[1, 0, 0], N=1),
        ]
    )
    # A square of 10 pt in a form that is drawn twice as large: 80 pt round; and a line that is no plate's.
    form = pdf.make_stream(b"/Spot CS 1 SCN 0 0 10 10 re s 0 0 1 RG 0 0 m 50 50 l S")
    form.Type, form.Subtype, form.BBox = (
        pikepdf.Name.XObject,
        pikepdf.Name.Form,
        pikepdf.Array([0, 0, 99, 99]),
    )
    form.Resources = pikepdf.Dictionary(ColorSpace=pikepdf.Dictionary(Spot=spot))
    page = pdf.add_blank_page(page_size=(200, 200))
    page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=form))
    page.Contents = pdf.make_stream(b"q 2 0 0 2 30 30 cm /F Do Q 5 5 m 9 9 l S")
    file = io.BytesIO()
    pdf.save(file)
    (found,) = plates_in(file.getvalue())
    assert (found.name, found.objects) == ("Die line", 1)
    assert found.length_mm == pytest.approx(80 / 72 * 25.4)


def test_a_form_that_shows_itself_and_what_is_no_pdf_are_refused(tmp_path: Path) -> None:
    pdf = pikepdf.new()
    form = pdf.make_stream(b"/F Do")
    form.Type, form.Subtype, form.BBox = pikepdf.Name.XObject, pikepdf.Name.Form, pikepdf.Array([0, 0, 9, 9])
    form.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=form))
    page = pdf.add_blank_page()
    page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=form))
    page.Contents = pdf.make_stream(b"/F Do")
    file = io.BytesIO()
    pdf.save(file)
    for data in (file.getvalue(), b"%PDF-1.7 and nothing", b""):
        with pytest.raises(PlatesUnreadable):
            plates_in(data)
        (tmp_path / "odd.pdf").write_bytes(data)
        result = CliRunner().invoke(app, ["check-plates", str(tmp_path / "odd.pdf")])
        assert result.exit_code == 2
        assert result.output.count("\n") == 1
    assert CliRunner().invoke(app, ["check-plates", str(tmp_path / "none.pdf")]).exit_code == 2


def test_a_print_file_is_made_larger_on_each_axis_and_reaches_past_its_art(tmp_path: Path) -> None:
    def pictures(name: str, *options: str) -> list[tuple[float, float]]:
        (tmp_path / name).mkdir()
        file = made(tmp_path / name, *options) / "sheet-01.print.pdf"
        page = pypdfium2.PdfDocument(file.read_bytes())[0]
        bounds = [each.get_bounds() for each in page.get_objects([pdfium.FPDF_PAGEOBJ_IMAGE])]
        return [(right - left, top - bottom) for left, bottom, right, top in bounds]

    plain = pictures("plain")
    larger = pictures("larger", "--scale-x", "101", "--scale-y", "99.5")
    assert larger[0] == pytest.approx((plain[0][0] * 1.01, plain[0][1] * 0.995), rel=1e-4)
    bled = pictures("bled", "--bleed-mm", "1.5")
    assert len(bled) == 2 * len(plain)
    assert max(width for width, _ in bled) > plain[0][0] + 2.5 * POINTS_PER_MM
