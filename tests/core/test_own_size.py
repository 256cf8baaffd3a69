"""The size that a file itself says, worked out by hand: 450 x 489 px at 300 ppi are 38.1 x 41.4 mm."""

import io

import numpy as np
import pikepdf
import pytest
from PIL import Image

from perisect.core.artwork import MendRecipe, decode
from perisect.core.artwork.recipe import CropRecipe
from perisect.core.job.recipe import DesignRecipe, JobRecipe
from perisect.core.job.split import split_design
from perisect.core.job.traced import TracedArtwork, trace_artwork

OWN_MM = (450 / 300 * 25.4, 489 / 300 * 25.4)


def picture(kind: str = "PNG", dpi: tuple[float, float] | None = (300, 300)) -> bytes:
    """An opaque block of 450 x 489 px on a clear (TIFF, PNG) or white (JPEG) ground."""
    rgba = np.zeros((700, 700, 4), np.uint8)
    rgba[100:589, 60:510] = (200, 40, 40, 255)
    image = Image.fromarray(rgba)
    if kind == "JPEG":
        ground = Image.new("RGB", image.size, "white")
        ground.paste(image, mask=image.getchannel("A"))
        image = ground
    out = io.BytesIO()
    image.save(out, kind, **({} if dpi is None else {"dpi": dpi}))
    return out.getvalue()


def traced(data: bytes, mend: MendRecipe | None = None) -> TracedArtwork:
    return trace_artwork(decode(data), mend or MendRecipe())[0]


@pytest.mark.parametrize("kind", ["PNG", "TIFF", "JPEG"])
def test_a_pictures_own_density_tells_its_size(kind: str) -> None:
    own = traced(picture(kind), MendRecipe(background="plain") if kind == "JPEG" else None).own_mm
    # A JPEG is a px soft on either side: 0.17 mm.
    assert own == pytest.approx(OWN_MM, abs=0.18 if kind == "JPEG" else 0.01)


@pytest.mark.parametrize("dpi", [None, (72, 72), (96, 96), (300, 150), (2500, 2500)])
def test_what_a_program_writes_by_habit_is_not_believed(dpi: tuple[float, float] | None) -> None:
    assert traced(picture(dpi=dpi)).own_mm is None


@pytest.mark.parametrize(("wide", "tall"), [("60mm", "80mm"), ("6cm", "8cm"), ("170.0787pt", "226.7717pt")])
def test_a_drawings_units_tell_its_size(wide: str, tall: str) -> None:
    body = '<rect x="10" y="10" width="38.1" height="41.4" fill="#c33"/>'
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{tall}" viewBox="0 0 60 80">{body}</svg>'
    assert traced(svg.encode()).own_mm == pytest.approx((38.1, 41.4), abs=0.02)
    assert traced(svg.replace(f'width="{wide}" height="{tall}" ', "").encode()).own_mm is None


def test_a_pdf_is_as_large_as_its_page_says() -> None:
    pdf = pikepdf.new()
    page = pdf.add_blank_page(page_size=(300, 400))
    # 108 pt are 38.1 mm, 117.354 pt are 41.4 mm.
    page.Contents = pdf.make_stream(b"0.8 0.2 0.2 rg 50 60 108 117.354 re f")
    out = io.BytesIO()
    pdf.save(out)
    assert traced(out.getvalue()).own_mm == pytest.approx((38.1, 41.4), abs=0.06)


def test_cropped_and_enlarged_it_keeps_its_own_scale() -> None:
    # The left 200 px of the block stay, drawn twice as fine: 16.93 mm wide still.
    crop = CropRecipe(left_px=40, top_px=0, width_px=220, height_px=700)
    own = traced(picture(), MendRecipe(crop=crop, enlarge=2)).own_mm
    assert own == pytest.approx((200 / 300 * 25.4, OWN_MM[1]), abs=0.09)


def test_a_page_split_at_its_own_size_keeps_it() -> None:
    rgba = np.zeros((700, 1400, 4), np.uint8)
    rgba[100:589, 60:510] = (200, 40, 40, 255)
    rgba[200:500, 900:1200] = (40, 40, 200, 255)
    out = io.BytesIO()
    Image.fromarray(rgba).save(out, "PNG", dpi=(300, 300))
    found = traced(out.getvalue())
    assert found.own_mm is not None
    page = DesignRecipe(id="d1", name="Page", artwork="0" * 64, longest_mm=max(found.own_mm))
    parts = split_design(JobRecipe(designs=(page,)), "d1", found).designs
    assert sorted(each.longest_mm for each in parts) == pytest.approx([25.4, OWN_MM[1]], abs=0.02)
