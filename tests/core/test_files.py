"""Print and cut files: the same lines in three formats, art and marks alone in the fourth."""

import io
import xml.etree.ElementTree as ET

import ezdxf
import numpy as np
import pikepdf
import pypdfium2
import pytest
import shapely
from ezdxf import bbox
from fontTools.ttLib import TTFont
from PIL import Image, ImageCms

from perisect.core.artwork import decode, decode_rgba
from perisect.core.formats.dxf import write_dxf
from perisect.core.formats.hpgl import HpglError, read_hpgl, write_hpgl
from perisect.core.formats.svg import write_svg
from perisect.core.job import DesignRecipe, JobPlan, JobRecipe, SheetRecipe, plan_job, trace_artwork
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.job.files import note_of, print_pdf
from perisect.core.prepress.margin_note import with_notes
from perisect.core.prepress.print_file import encode_picture
from tests.core import drawings
from tests.core.reading import points_of

HASH = "b" * 64
RING = drawings.png(drawings.coverage(drawings.ring(300, 150))[0])


def planned(png: bytes = RING, **design: object) -> JobPlan:
    artwork, _ = trace_artwork(decode(png))
    settings = {"longest_mm": 45.0, "border_mm": 2.0, "peel_mm": 2.5} | design
    recipe = JobRecipe(
        designs=(DesignRecipe(id="d1", name="Ring", artwork=HASH, **settings),),  # type: ignore[arg-type]
        sheet=SheetRecipe(stock="letter"),
    )
    return plan_job(recipe, {HASH: artwork})


@pytest.fixture(scope="module")
def plan() -> JobPlan:
    return planned()


def as_lines(rings: list[np.ndarray]) -> shapely.MultiLineString:
    return shapely.multilinestrings([shapely.linestrings(np.vstack([ring, ring[:1]])) for ring in rings])


@pytest.mark.slow
def test_svg_dxf_and_hpgl_say_the_same_lines(plan: JobPlan) -> None:
    sheet = cut_sheet(plan, 0)
    svg = ET.fromstring(write_svg(sheet).encode())
    assert svg.get("viewBox") == "0 0 215.9 279.4"
    assert svg.get("width") == "215.9mm"
    groups = {group.get("id"): group for group in svg}
    assert set(groups) == {"kiss", "through", "marks"}
    drawing = ezdxf.read(io.StringIO(write_dxf(sheet)))
    assert drawing.units == ezdxf.units.MM
    strokes = read_hpgl(write_hpgl(sheet))
    for process, pen in (("kiss", 1), ("through", 2)):
        ours = as_lines(sheet.lines[process])
        from_svg = [points_of(p.get("d", "")) for p in groups[process]]
        polylines = drawing.modelspace().query(f'LWPOLYLINE[layer=="{process}"]')
        from_dxf = [np.array(p.get_points("xy")) * (1, -1) + (0, 279.4) for p in polylines]
        from_hpgl = [s.points[:-1] / 40 * (1, -1) + (0, 279.4) for s in strokes if s.pen == pen]
        for theirs in (from_svg, from_dxf, from_hpgl):
            assert len(theirs) == len(sheet.lines[process]) == 2 * plan.sheets.count
            assert shapely.hausdorff_distance(ours, as_lines(theirs)) < 0.05


@pytest.mark.slow
def test_dxf_says_where_it_ends_and_holds_splines_for_those_who_read_them(plan: JobPlan) -> None:
    sheet = cut_sheet(plan, 0)
    drawing = ezdxf.read(io.StringIO(write_dxf(sheet, splines=True)))
    box = bbox.extents(drawing.modelspace())
    assert drawing.header["$EXTMIN"][:2] == pytest.approx((box.extmin.x, box.extmin.y), abs=0.01)
    assert drawing.header["$EXTMAX"][:2] == pytest.approx((box.extmax.x, box.extmax.y), abs=0.01)
    assert drawing.header["$LIMMAX"] == pytest.approx((215.9, 279.4))
    assert drawing.audit().errors == []
    for process in ("kiss", "through"):
        splines = drawing.modelspace().query(f'SPLINE[layer=="{process}"]')
        assert len(splines) == len(sheet.lines[process])
        read = [np.array([(p.x, 279.4 - p.y) for p in spline.flattening(0.002)])[:-1] for spline in splines]
        ours = [curve.flat(0.002) for curve in sheet.curves[process]]
        assert shapely.hausdorff_distance(as_lines(ours), as_lines(read)) < 0.005
    assert len(write_dxf(sheet, splines=True)) < len(write_dxf(sheet))


def test_perforation_is_parts_of_the_curve_in_every_format_of_curves() -> None:
    """The ring's outer circle has a radius of 22.5 mm; its lines stand 2 and 4.5 mm outside."""
    sheet = cut_sheet(planned(lines={"outer": "perforate", "cut_mm": 4.0, "tie_mm": 0.6}), 0)
    cuts, parts = sheet.lines["perforate"], sheet.curves["perforate"]
    assert len(parts) == len(cuts) > 300
    up = len(sheet.lines["kiss"]) // 2
    ties = len(cuts) // up
    drawing = ezdxf.read(io.StringIO(write_dxf(sheet, splines=True)))
    assert drawing.audit().errors == []
    splines = drawing.modelspace().query('SPLINE[layer=="perforate"]')
    from_dxf = [np.array([(p.x, 279.4 - p.y) for p in spline.flattening(0.001)]) for spline in splines]
    group = next(each for each in ET.fromstring(write_svg(sheet).encode()) if each.get("id") == "perforate")
    paths = [path.get("d", "") for path in group]
    assert all("C" in path and not path.endswith("Z") for path in paths)
    from_svg = [points_of(path) for path in paths]
    for read in (from_dxf, from_svg):
        assert len(read) == len(cuts)
        for line, cut in zip(read, cuts, strict=True):
            assert np.abs(line[[0, -1]] - cut[[0, -1]]).max() < 0.005
            assert shapely.hausdorff_distance(shapely.linestrings(line), shapely.linestrings(cut)) < 0.01
        circle = np.vstack(read[:ties])
        middle = (circle.min(axis=0) + circle.max(axis=0)) / 2
        assert np.hypot(*(circle - middle).T) == pytest.approx(27.0, abs=0.06)
        # Whole periods go round it; all of the line that is no tie is cut.
        length = sum(shapely.length(shapely.linestrings(line)) for line in read[:ties])
        assert length == pytest.approx(2 * np.pi * 27 * 4.0 / 4.6, rel=0.004)


def test_hpgl_strokes_are_closed_and_inside_the_sheet(plan: JobPlan) -> None:
    for stroke in read_hpgl(write_hpgl(cut_sheet(plan, 0))):
        assert (stroke.points[0] == stroke.points[-1]).all()
        assert (stroke.points >= 0).all()
        assert (stroke.points <= np.array([215.9, 279.4]) * 40).all()


@pytest.mark.parametrize("text", ["PU0,0;PD1;", "XX1,2;", "PU0,0;PDx,y;", "hello"])
def test_what_is_not_hpgl_is_refused(text: str) -> None:
    with pytest.raises(HpglError):
        read_hpgl(text)


def pages(pdf: bytes, ppi: float = 300) -> np.ndarray:
    return np.asarray(pypdfium2.PdfDocument(pdf)[0].render(scale=ppi / 72).to_pil().convert("RGB"))


def test_the_print_file_holds_each_picture_once_at_full_resolution(plan: JobPlan) -> None:
    rgba = decode_rgba(RING)
    pdf = print_pdf(plan, 0, {HASH: encode_picture(rgba)})
    assert plan.sheets.count > 8
    with pikepdf.open(io.BytesIO(pdf)) as document:
        page = document.pages[0]
        width, height = (float(n) * 25.4 / 72 for n in page.mediabox[2:])
        assert (width, height) == pytest.approx((215.9, 279.4), abs=1e-3)
        (image,) = page.images.values()
        kept = np.asarray(pikepdf.PdfImage(image).as_pil_image())
        covered = np.argwhere(rgba[..., 3] > 0)
        (top, left), (bottom, right) = covered.min(axis=0), covered.max(axis=0) + 1
        part = rgba[top:bottom, left:right]
        inside = part[..., 3] > 0
        assert kept.shape[:2] == part.shape[:2]
        assert (kept[inside][:, :3] == part[inside][:, :3]).all()
        content = page.Contents.read_bytes()
        assert content.count(b" Do") == plan.sheets.count


def test_the_print_file_says_what_it_is_and_holds_its_letters(plan: JobPlan) -> None:
    pdf = print_pdf(plan, 0, {HASH: encode_picture(decode_rgba(RING))})
    assert pdf == print_pdf(plan, 0, {HASH: encode_picture(decode_rgba(RING))})
    with pikepdf.open(io.BytesIO(pdf)) as document:
        assert document.pdf_version == "1.7"
        page = document.pages[0]
        assert list(page.TrimBox) == list(page.MediaBox)
        (intent,) = document.Root.OutputIntents
        profile = ImageCms.ImageCmsProfile(io.BytesIO(intent.DestOutputProfile.read_bytes()))
        assert "sRGB" in ImageCms.getProfileDescription(profile)
        (font,) = page.Resources.Font.values()
        letters = TTFont(io.BytesIO(font.FontDescriptor.FontFile2.read_bytes()))
        widths = {int(font.FirstChar) + n: int(width) for n, width in enumerate(font.Widths)}
        for letter in "Shet 1ofé":
            advance = letters["hmtx"][letters.getBestCmap()[ord(letter)]][0]
            assert widths[ord(letter)] == pytest.approx(advance * 1000 / letters["head"].unitsPerEm, abs=0.5)
    noted = with_notes(pdf, plan.area, [note_of(plan, 0, "Herons", "Łucja Quill", 2, 5)])
    text = pypdfium2.PdfDocument(noted)[0].get_textpage().get_text_range()
    for part in ("sheet 1 of 1", "copy 2 of 5", "Herons", "print side up", "Quill"):
        assert part in text


def test_printed_art_and_kiss_line_are_concentric(plan: JobPlan) -> None:
    pdf = print_pdf(plan, 0, {HASH: encode_picture(decode_rgba(RING))})
    page = pages(pdf, ppi=600).astype(float)
    scale = np.array([page.shape[1] / 215.9, page.shape[0] / 279.4])  # pdfium stretches to whole pixels
    for placement in plan.sheets.sheets[0][:4]:
        kiss = plan.placed_lines(placement)["kiss"]
        left, top, right, bottom = kiss.bounds
        x0, y0 = (np.array([left, top]) * scale).astype(int)
        x1, y1 = (np.array([right, bottom]) * scale).astype(int)
        ink = 255 - page[y0:y1, x0:x1].min(axis=2)
        y, x = np.mgrid[y0:y1, x0:x1] + 0.5
        centre = np.array([(x * ink).sum(), (y * ink).sum()]) / ink.sum() / scale
        assert centre == pytest.approx(np.array(kiss.centroid.coords[0]), abs=0.05)


def test_the_print_file_shows_no_cut_line(plan: JobPlan) -> None:
    pdf = print_pdf(plan, 0, {HASH: encode_picture(decode_rgba(RING))})
    page = pages(pdf)
    k = page.shape[1] / 215.9
    lines = [plan.placed_lines(p) for p in plan.sheets.sheets[0]]
    for each in lines:
        for shape in each.values():
            at = (shapely.get_coordinates(shapely.segmentize(shape.boundary, 0.3)) * k).astype(int)
            assert (page[at[:, 1], at[:, 0]] == 255).all()


def test_clear_pixels_leave_no_dark_rim() -> None:
    alpha = drawings.coverage(drawings.disc(100))[0]
    rgba = np.dstack([np.where(alpha[..., None] > 0, 250, 0).repeat(3, axis=2), alpha]).astype(np.uint8)
    file = io.BytesIO()
    Image.fromarray(rgba).save(file, "PNG")
    plan = planned(file.getvalue(), longest_mm=80.0, peel_mm=None)
    pdf = print_pdf(plan, 0, {HASH: encode_picture(rgba)})
    page = pages(pdf)
    left, top, right, bottom = (
        int(n * page.shape[1] / 215.9) for n in plan.placed_lines(plan.sheets.sheets[0][0])["kiss"].bounds
    )
    assert page[top:bottom, left:right].min() >= 249


def test_the_print_file_is_hardly_larger_than_the_picture_stored_once() -> None:
    rng = np.random.default_rng(3)
    alpha = drawings.coverage(drawings.star(400, 170))[0]
    rgba = np.dstack([rng.integers(0, 255, (*alpha.shape, 3), dtype=np.uint8), alpha])
    file = io.BytesIO()
    Image.fromarray(rgba).save(file, "PNG", optimize=True)
    plan = planned(file.getvalue(), longest_mm=30.0)
    pdf = print_pdf(plan, 0, {HASH: encode_picture(rgba)})
    assert plan.sheets.count > 20
    assert len(pdf) <= 1.2 * len(file.getvalue())
