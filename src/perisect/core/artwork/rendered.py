"""What a picture or a drawing is as pixels."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.held_line import HeldLine
from perisect.core.artwork.shapes import Shapes
from perisect.core.units import MM_PER_INCH

PPI = 600
LEAST_PX, USUAL_PX, MOST_PX = 1500, 2000, 3000
"""Longer side: 600 ppi of the size that a drawing says, within reason, and of 85 mm where it says none. 0.03 mm a pixel
on a sticker of 60 mm, of which an outline is told to a tenth."""

MOST_ASPECT = 40


def rendering_px(longest_mm: float | None) -> int:
    """Longer side of a drawing's rendering, by that of the drawing where it says one in a length."""
    if longest_mm is None:
        return USUAL_PX
    return round(min(max(longest_mm / MM_PER_INCH * PPI, LEAST_PX), MOST_PX))


@dataclass(frozen=True)
class Decoded:
    """Pixels (h, w, 4) uint8, alpha not premultiplied, in sRGB; and what was done to get them.

    `pages` counts those of a PDF; `shapes` are a plain drawing's own curves, px; `undrawn` says in a sentence what of a
    drawing may be meant otherwise; `held` is the cut line that it held already.
    """

    rgba: NDArray[np.uint8]
    notes: tuple[str, ...]
    pages: int = 1
    shapes: Shapes | None = None
    undrawn: str = ""
    held: HeldLine | None = None
    cut_alpha: NDArray[np.uint8] | None = None
    """(h, w) coverage of what the outline goes round, where that is not all that is printed."""
    mm_per_px: float | None = None
    """What a px of it measures at the size that the file says, mm; none where it says none that can be believed."""
