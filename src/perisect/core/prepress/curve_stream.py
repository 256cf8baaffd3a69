"""A drawing's curves as content of a PDF."""

from collections.abc import Sequence

import numpy as np

from perisect.core.artwork.drawing import DrawnPath, Rgb
from perisect.core.artwork.tone import ToneRecipe, toned


def curves_content(paths: Sequence[DrawnPath], tone: ToneRecipe) -> bytes:
    """Operators that draw the paths in px, y down, each colour through the tone."""
    colours: list[Rgb] = [c for path in paths for c in (path.fill, path.stroke) if c is not None]
    pixels = np.array([[(*colour, 255) for colour in colours] or [(0, 0, 0, 255)]], np.uint8)
    told = dict(zip(colours, toned(pixels, tone)[0, :, :3].tolist(), strict=False))

    def paint(colour: Rgb, operator: str) -> str:
        return " ".join(f"{level / 255:.4f}" for level in told[colour]) + f" {operator}"

    parts = []
    for path in paths:
        if path.fill is None and path.stroke is None:
            continue
        told_now = ["q"]
        if path.fill is not None:
            told_now.append(paint(path.fill, "rg"))
        if path.stroke is not None:
            told_now.append(paint(path.stroke, "RG"))
            dash = " ".join(f"{length:.3f}" for length in path.dash_px)
            told_now.append(
                f"{path.width_px:.3f} w {path.cap} J {path.join} j {max(path.miter, 1):.2f} M [{dash}] 0 d"
            )
        fill = {True: "B", False: "f"}[path.stroke is not None] + ("*" if path.even_odd else "")
        told_now.append(f"{path.steps} {fill if path.fill is not None else 'S'} Q")
        parts.append(" ".join(told_now))
    return "\n".join(parts).encode("ascii")
