"""Render the shop's drawings to the PNGs that are shipped beside them (run after changing a drawing)."""

import io
from pathlib import Path

import resvg_py
from PIL import Image

ARTWORK = Path(__file__).parent / "artwork"
PHOTOGRAPH = "evening-river"


def render_all() -> None:
    """Write a PNG for every SVG, at the size the SVG names; of the one like a photograph a JPEG."""
    for drawing in sorted(ARTWORK.glob("*.svg")):
        png = resvg_py.svg_to_bytes(svg_string=drawing.read_text(encoding="utf-8"))
        if drawing.stem == PHOTOGRAPH:
            picture = Image.open(io.BytesIO(bytes(png))).convert("RGB")
            picture.save(drawing.with_suffix(".jpg"), quality=82)
        else:
            drawing.with_suffix(".png").write_bytes(bytes(png))


if __name__ == "__main__":
    render_all()
