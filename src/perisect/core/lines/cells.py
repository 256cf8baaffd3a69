"""The cells of marching squares: which of their edges an iso-line crosses, and where.

A grid edge is named by one integer: 2 (row · width + column) for the edge that runs right from a
grid point, the same + 1 for the one that runs down.
"""

import numpy as np
from numpy.typing import NDArray

# Corners of a cell as bits: top left 1, top right 2, bottom right 4, bottom left 8.
# Edges: 0 top, 1 right, 2 bottom, 3 left. Segments keep the covered side on their right when
# looking along them with y down, so outsides run clockwise and holes anticlockwise.
_TOP, _RIGHT, _BOTTOM, _LEFT = range(4)
_SINGLE = {
    1: (_TOP, _LEFT),
    2: (_RIGHT, _TOP),
    4: (_BOTTOM, _RIGHT),
    8: (_LEFT, _BOTTOM),
    3: (_RIGHT, _LEFT),
    6: (_BOTTOM, _TOP),
    12: (_LEFT, _RIGHT),
    9: (_TOP, _BOTTOM),
    14: (_LEFT, _TOP),
    13: (_TOP, _RIGHT),
    11: (_RIGHT, _BOTTOM),
    7: (_BOTTOM, _LEFT),
}
# A saddle's two covered corners are kept apart, as two pieces that touch at a point would be.
_SADDLE = {5: ((_TOP, _LEFT), (_BOTTOM, _RIGHT)), 10: ((_RIGHT, _TOP), (_LEFT, _BOTTOM))}

_TAIL = np.full((2, 16), -1, dtype=np.int64)
_HEAD = np.full((2, 16), -1, dtype=np.int64)
for _code, (_from, _to) in _SINGLE.items():
    _TAIL[0, _code], _HEAD[0, _code] = _from, _to
for _code, _pair in _SADDLE.items():
    for _row, (_from, _to) in enumerate(_pair):
        _TAIL[_row, _code], _HEAD[_row, _code] = _from, _to


def segments(values: NDArray[np.uint8], level: float) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Names of the edges at which each segment of the iso-line starts and ends, two (n,) arrays.

    Args:
        values: (h, w) grid whose outermost points all lie below `level`.
        level: not a value of the grid.
    """
    width = values.shape[1]
    inside = (values > level).view(np.uint8)
    code = inside[:-1, :-1] | inside[:-1, 1:] << 1 | inside[1:, 1:] << 2 | inside[1:, :-1] << 3
    # A code of 0 or 15 is no crossing; adding one and masking makes both of them small.
    where = np.flatnonzero(((code + 1) & 15) > 1)
    codes = code.ravel()[where]
    row, column = np.divmod(where, width - 1)
    point = row * width + column
    edges = np.stack([2 * point, 2 * (point + 1) + 1, 2 * (point + width), 2 * point + 1])
    tails, heads = [], []
    for alternative in range(2):
        which = np.flatnonzero(_TAIL[alternative, codes] >= 0)
        tails.append(edges[_TAIL[alternative, codes[which]], which])
        heads.append(edges[_HEAD[alternative, codes[which]], which])
    return np.concatenate(tails), np.concatenate(heads)


def crossings(values: NDArray[np.uint8], edges: NDArray[np.int64], level: float) -> NDArray[np.float64]:
    """(n, 2) x, y of the points where the iso-line crosses the named edges, in grid steps."""
    width = values.shape[1]
    flat = values.ravel()
    point, down = np.divmod(edges, 2)
    row, column = np.divmod(point, width)
    near = flat[point].astype(np.float64)
    far = flat[point + np.where(down == 1, width, 1)].astype(np.float64)
    part = (level - near) / (far - near)
    return np.column_stack([column + np.where(down == 1, 0, part), row + np.where(down == 1, part, 0)])
