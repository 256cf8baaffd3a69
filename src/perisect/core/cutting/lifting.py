"""Which corners to lift before a sheet is unloaded, to see whether its stickers come off."""

import numpy as np
from numpy.typing import NDArray

FIRST, LATER = 20, 6
"""Stickers to lift of the first sheet that is cut with a setting, and of later ones. Where one sticker in six clings,
twenty corners miss it on one sheet in thirty-eight, six on one in three."""

SOFT_MM2 = 1.0
"""So that two stickers may stand at one place."""


def corners_to_lift(places_mm: NDArray[np.float64], is_first: bool) -> list[int]:
    """Numbers of stickers, rising, spread over the sheet: stock and mat are not the same everywhere.

    The first is furthest from the middle; each other one is where those before it push least, by the inverse square of
    their distance: of places that are as far from the nearest one, the one that is freer all round.

    Args:
        places_mm: (n, 2) middles of a sheet's stickers.
    """
    many = min(FIRST if is_first else LATER, len(places_mm))
    if many == 0:
        return []
    off = np.hypot(*(places_mm - places_mm.mean(axis=0)).T)
    chosen = [int(off.argmax())]
    push = np.zeros(len(places_mm))
    while len(chosen) < many:
        push += 1 / (((places_mm - places_mm[chosen[-1]]) ** 2).sum(axis=1) + SOFT_MM2)
        push[chosen] = np.inf
        chosen.append(int(push.argmin()))
    return sorted(chosen)
