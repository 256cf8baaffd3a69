"""Render the shop's drawings to the PNGs that are shipped beside them (run after changing a drawing).

Rendering needs resvg, which only the checks install.
"""

from pathlib import Path

import resvg_py

ARTWORK = Path(__file__).parent / "artwork"


def render_all() -> None:
    """Write a PNG for every SVG, at the size the SVG names."""
    for drawing in sorted(ARTWORK.glob("*.svg")):
        png = resvg_py.svg_to_bytes(svg_string=drawing.read_text(encoding="utf-8"))
        drawing.with_suffix(".png").write_bytes(bytes(png))


if __name__ == "__main__":
    render_all()
