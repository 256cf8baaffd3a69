"""Drawings look as a browser draws them, or what is not drawn so is said."""

import base64
import io

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page

from perisect.core.artwork import decode
from tests.e2e.svg_features import FEATURES

pytestmark = pytest.mark.browser

SHOWN_PX = 900

NOT_DRAWN = {
    "animate", "css_clip_circle", "css_clip_inset", "css_clip_polygon", "css_geometry", "css_path_d", "css_transform",
    "css_transform_box", "css_transform_origin", "hsl_space", "media", "nth_child", "vector_effect",
}  # fmt: skip
"""What of these is said, not drawn."""

OTHER_FONTS = {"text", "text_arial", "text_path", "text_serif", "tspan"}


@pytest.fixture(scope="module")
def blank(browser: Browser) -> Page:
    return browser.new_page(viewport={"width": SHOWN_PX, "height": SHOWN_PX})


def in_chromium(page: Page, drawing: str, across: int, along: int) -> np.ndarray:
    """(h, w) coverage, 0 to 1."""
    data = base64.b64encode(drawing.encode()).decode()
    page.set_content(
        '<body style="margin:0;background:transparent">'
        f'<img src="data:image/svg+xml;base64,{data}" style="display:block;width:{across}px;height:{along}px">'
    )
    page.wait_for_function("document.images[0].complete")
    shot = page.screenshot(omit_background=True, clip={"x": 0, "y": 0, "width": across, "height": along})
    return np.asarray(Image.open(io.BytesIO(shot)).convert("RGBA"))[..., 3] / 255


@pytest.mark.long
@pytest.mark.parametrize("name", FEATURES)
def test_a_drawing_is_drawn_as_a_browser_does_or_it_is_said(name: str, blank: Page) -> None:
    decoded = decode(FEATURES[name].encode())
    height, width = decoded.rgba.shape[:2]
    size = (round(width * SHOWN_PX / max(width, height)), round(height * SHOWN_PX / max(width, height)))
    ours = np.asarray(Image.fromarray(decoded.rgba[..., 3]).resize(size, Image.Resampling.BOX)) / 255
    theirs = in_chromium(blank, FEATURES[name], *size)
    overlap = np.minimum(ours, theirs).sum() / np.maximum(ours, theirs).sum()
    if name in OTHER_FONTS:
        assert any("fonts" in note for note in decoded.notes)
        assert ours.sum() > 0.3 * theirs.sum()  # drawn all the same
    elif name in NOT_DRAWN:
        assert "may not be drawn here" in decoded.undrawn
    else:
        assert overlap >= 0.99
        assert name == "css_filter" or not decoded.undrawn


def test_a_drawing_in_utf_16_is_read() -> None:
    drawing = '<?xml version="1.0" encoding="UTF-16"?>' + FEATURES["circle_mm"]
    for name in ("utf-16", "utf-16-be"):
        data = drawing.encode(name) if name == "utf-16" else b"\xfe\xff" + drawing.encode(name)
        # A disc of 20 mm radius on a page of 60 mm, of whole pixels at 96 an inch.
        assert decode(data).rgba[..., 3].mean() / 255 == pytest.approx(np.pi * 20**2 / 60**2, rel=3e-3)
