"""A plain drawing's outline is its own curves, and so is what is printed of it."""

import io

import numpy as np
import pikepdf
import pypdfium2
import pytest
import shapely

from perisect.core.artwork import MendRecipe, ToneRecipe, decode
from perisect.core.job import trace_artwork
from perisect.core.lines import SizedArt
from perisect.core.prepress.print_file import PrintDesign, encode_curves, write_print_pdf
from perisect.core.sheet import STOCKS, MarkSettings
from perisect.core.sheet.fill import Placement


def svg(inside: str, box: str = "0 0 100 80") -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}">{inside}</svg>'.encode()


@pytest.mark.parametrize("longest_mm", [20, 60, 400])
def test_a_circle_is_within_a_two_hundredth_of_a_millimetre(longest_mm: float) -> None:
    traced, _ = trace_artwork(decode(svg('<circle cx="50" cy="40" r="30" fill="#264"/>')))
    outline = SizedArt(traced.outline, longest_mm).lines(0).outline
    circle = shapely.Point(longest_mm / 2, longest_mm / 2).buffer(longest_mm / 2, quad_segs=4000)
    assert shapely.hausdorff_distance(outline.boundary, circle.boundary) < 0.005
    assert traced.in_curves


@pytest.mark.parametrize(
    ("inside", "area"),
    [
        ('<rect x="10" y="10" width="40" height="20" transform="rotate(30 30 20)"/>', 800),
        ('<path d="M10 10h40v40h-40Z M20 20h20v20h-20Z" fill-rule="evenodd"/>', 1200),
        ('<path d="M10 10h40v40h-40Z M20 20h20v20h-20Z"/>', 1600),
        ('<path d="M10 10h40v40h-40Z M20 20v20h20v-20Z"/>', 1200),  # the inner ring runs the other way
        ('<path d="M10 40H60" fill="none" stroke="#000" stroke-width="6"/>', 300),
        ('<path d="M10 40H60" fill="none" stroke="#000" stroke-width="6" stroke-linecap="square"/>', 336),
        ('<ellipse cx="50" cy="40" rx="30" ry="20"/>', np.pi * 600),
        ('<g transform="translate(5 5) scale(2)"><path d="M5 5C5 5 5 20 5 20S20 20 20 20V5Z"/></g>', 900),
        ('<defs><rect id="a" width="9" height="9"/></defs><use href="#a" x="10" y="10"/>', 81),
        ('<style>.a{fill:#123}</style><rect class="a" x="1" y="1" width="10" height="10"/>', 100),
        # Transparent paint over solid paint changes no outline.
        (
            '<rect x="1" y="1" width="20" height="10"/><circle cx="9" cy="6" r="3" opacity=".5" fill="#fff"/>',
            200,
        ),
    ],
)
def test_areas_of_drawn_shapes(inside: str, area: float) -> None:
    decoded = decode(svg(inside))
    assert decoded.shapes is not None
    assert decoded.shapes.outline.area / 20**2 == pytest.approx(area, rel=1e-4)  # 2000 px for 100 units


@pytest.mark.parametrize(
    "inside",
    [
        '<clipPath id="c"><rect width="20" height="20"/></clipPath><rect width="50" height="50" clip-path="url(#c)"/>',
        '<rect width="50" height="50" opacity=".4"/>',
        '<g opacity=".4"><rect width="50" height="50"/></g>',
        '<path d="M10 40H60" stroke="#000" stroke-width="6" stroke-dasharray="4 4"/>',
        '<rect width="50" height="50" visibility="hidden"/><circle cx="9" cy="9" r="5"/>',
        '<image width="20" height="20" href="data:image/png;base64,iVBORw0KGgo="/><circle cx="40" cy="40" r="9"/>',
    ],
)
def test_what_shapes_alone_cannot_tell_is_traced(inside: str) -> None:
    decoded = decode(svg(inside + '<circle cx="80" cy="60" r="9"/>'))
    assert decoded.shapes is None


def test_a_mend_that_changes_pixels_is_traced_again() -> None:
    decoded = decode(svg('<circle cx="50" cy="40" r="30"/><circle cx="90" cy="10" r="1"/>'))
    whole, _ = trace_artwork(decoded)
    clean, _ = trace_artwork(decoded, MendRecipe(specks_px2=9000))
    assert len(whole.outline.shape.geoms) == 2
    assert len(clean.outline.shape.geoms) == 1
    assert not clean.in_curves


def test_it_prints_in_curves_and_shows_the_same_picture() -> None:
    drawing = (
        '<rect x="10" y="10" width="60" height="50" rx="8" fill="#0f5c57"/>'
        '<path d="M20 70Q50 20 80 70" fill="none" stroke="#b5402f" stroke-width="7" stroke-linecap="round"/>'
    )
    decoded = decode(svg(drawing))
    assert decoded.shapes is not None
    assert decoded.shapes.paths is not None
    height, width = decoded.rgba.shape[:2]
    picture = encode_curves(decoded.shapes.paths, width, height, ToneRecipe())
    design = PrintDesign(picture, 100 / width, (0, 0))
    place = Placement("d", 20, 30, 100, 80, 0)
    pdf = write_print_pdf(STOCKS["a4"], [], MarkSettings(), [place], {"d": design})
    opened = pikepdf.open(io.BytesIO(pdf))
    assert not opened.pages[0].get_images(recursive=True)
    page = pypdfium2.PdfDocument(pdf)[0].render(scale=300 / 72, fill_color=(255, 255, 255, 255)).to_numpy()
    k = 300 / 25.4
    shown = page[round(30 * k) : round(110 * k), round(20 * k) : round(120 * k), ::-1][..., -3:].astype(int)
    step = width / shown.shape[1]
    at = (np.arange(0.5, 1181)[:, None], np.arange(0.5, 1181)[None, :])
    rows = (at[0][: shown.shape[0]] * step).astype(int).clip(0, height - 1)
    columns = (at[1][:, : shown.shape[1]] * step).astype(int).clip(0, width - 1)
    drawn = decoded.rgba[rows, columns].astype(int)
    wanted = np.where(drawn[..., 3:] > 127, drawn[..., :3], 255)
    assert np.mean(np.abs(shown - wanted).max(axis=2) > 40) < 0.005  # only along the edges
