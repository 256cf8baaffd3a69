"""Which corners to lift before a sheet is unloaded, to see whether its stickers come off."""

import numpy as np
from numpy.typing import NDArray

FIRST, LATER = 16, 6
"""Stickers to lift of the first sheet that is cut with a setting, and of later ones. Where one sticker in six clings,
sixteen corners miss it on one sheet in eighteen, six on one in three."""


def corners_to_lift(places_mm: NDArray[np.float64], is_first: bool) -> list[int]:
    """Numbers of stickers, rising, spread over the sheet: stock and mat are not the same everywhere.

    Each is the one furthest from those before it (Gonzalez 1985), the first one furthest from the middle.

    Args:
        places_mm: (n, 2) middles of a sheet's stickers.
    """
    many = min(FIRST if is_first else LATER, len(places_mm))
    if many == 0:
        return []
    off = np.hypot(*(places_mm - places_mm.mean(axis=0)).T)
    chosen = [int(off.argmax())]
    near = np.full(len(places_mm), np.inf)
    while len(chosen) < many:
        near = np.minimum(near, np.hypot(*(places_mm - places_mm[chosen[-1]]).T))
        near[chosen] = -1.0
        chosen.append(int(near.argmax()))
    return sorted(chosen)
