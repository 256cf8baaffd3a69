"""Which strokes of a run cut which sticker."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from types import MappingProxyType

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.cutting.order import CutLine
from perisect.core.formats import CutSheet
from perisect.core.ledger.slip import WantedSticker

Stroke = NDArray[np.float64]
OPENING_STROKES = 1
"""The blade is turned on the strip beside the sheet before the first line."""


def wanted_stickers(
    sheet: CutSheet,
    order: Sequence[CutLine],
    stickers: Sequence[tuple[str, float]],
    passes: Mapping[str, int] = MappingProxyType({}),
) -> list[WantedSticker]:
    """The sheet's stickers with their own lines and the strokes that cut those: kiss, or through without one. What is
    printed only is left out.

    Args:
        sheet: lines as drawn, with their owners.
        order: the order the run cuts them in: after the opening, a stroke for each pass over each line.
        stickers: design and border in mm of each sticker, in the order of the owners' numbers.
        passes: how often each process goes over a line; once where nothing is said.
    """
    rings: dict[int, list[shapely.LinearRing]] = defaultdict(list)
    strokes: dict[int, list[int]] = defaultdict(list)
    kissed = set(sheet.owners.get("kiss", []))
    stroke = OPENING_STROKES
    for line in order:
        owner = sheet.owners[line.process][line.index]
        if line.process == ("kiss" if owner in kissed else "through"):
            rings[owner].append(shapely.linearrings(line.ring))
            strokes[owner].append(stroke)
        stroke += passes.get(line.process, 1)
    wanted = []
    for owner, (design, border_mm) in enumerate(stickers):
        if not rings[owner]:
            continue
        lines = shapely.multilinestrings([shapely.linestrings(ring.coords) for ring in rings[owner]])
        wanted.append(WantedSticker(design, lines.bounds, lines, border_mm, tuple(strokes[owner])))
    return wanted


def whole_run(strokes: Sequence[Stroke], before: int, after: int, left_out: int = 0) -> list[Stroke] | None:
    """The opening and the strokes of every line in their order, of a sheet that was cut in two parts: what the first
    part left unfinished, and the opening of the second, are left out. None where strokes are missing.

    Args:
        before, after: strokes of the lines of the first part and of the second.
        left_out: strokes of a line between them that was not cut again; what there is of it stands for it.
    """
    if before == 0:
        return list(strokes)
    if len(strokes) < OPENING_STROKES * 2 + before + after:
        return None
    first, last = strokes[: OPENING_STROKES + before], strokes[len(strokes) - after :] if after else []
    return [*first, *[strokes[OPENING_STROKES + before]] * left_out, *last]
