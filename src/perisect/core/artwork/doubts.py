"""Where a removal may have taken art, or left ground: what another tolerance would have made of it."""

from dataclasses import dataclass, replace
from math import ceil
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.flood import from_outside
from perisect.core.artwork.overview import Overview
from perisect.core.artwork.shadow import Shadow

LEAST_SHARE = 0.006
"""Of the art: a doubt about less is not worth a word."""

STRICTER, LOOSER = 0.5, 1.7
NECK_SHARE = 0.006
"""Of the picture's shorter side: ground that ran in through a gap narrower than twice this may have run into art."""

BLOCK_PX = 9
LEAST_POCKET = 0.08
SPECKLED = 60

DoubtKind = Literal["taken", "left", "leak", "shadow", "nothing", "speckled"]


@dataclass(frozen=True)
class Doubt:
    """A place where the removal may be wrong: px of the picture, and how much of the art is in question (0 to 1)."""

    kind: DoubtKind
    x_px: int
    y_px: int
    area_px: int
    share: float

    def enlarged(self, scale: int) -> "Doubt":
        """The same in a picture that is so much larger."""
        x, y, area = (round(n) for n in (self.x_px * scale, self.y_px * scale, self.area_px * scale**2))
        return replace(self, x_px=x, y_px=y, area_px=area)


def doubts_of(
    seen: Overview,
    tolerance: float,
    shadow: Shadow | None = None,
    grainy: bool = False,
    stricter: float = STRICTER,
) -> tuple[Doubt, ...]:
    """What is not sure about a flood.

    Args:
        seen: the picture as it was flooded, its distances told up to `LOOSER` times the tolerance.
        tolerance: up to which it was flooded.
        shadow: what lies on the ground, which is no doubt but where it is tangled with art.
        stricter: what of the tolerance would have left art that only it took.
        grainy: JPEG or grain blurs what is about the art, so only what is wider than that is a doubt.
    """
    return tuple(doubt.enlarged(seen.scale) for doubt in _doubts(seen, tolerance, shadow, grainy, stricter))


def _doubts(
    seen: Overview, tolerance: float, shadow: Shadow | None, grainy: bool, stricter: float
) -> list[Doubt]:
    ground, distance = seen.ground, seen.distance
    height, width = ground.shape
    art = int(ground.size - ground.sum())
    if art < 0.002 * ground.size:
        return [Doubt("nothing", width // 2, height // 2, int(ground.sum()), 1.0)]
    found = []
    wide = max(3, ceil(BLOCK_PX / seen.scale)) if grainy else 3
    beside = np.zeros_like(ground)
    if shadow is not None:
        # The last of a shadow's fading lies outside it.
        beside = np.asarray(cv2.dilate(shadow.mask | shadow.tangled, np.ones((25, 25), np.uint8)), np.uint8)
        if (tangled := _largest("shadow", shadow.tangled, art)) is not None:
            found.append(tangled)
    strict = from_outside(distance <= stricter * tolerance)
    loose = from_outside(distance <= LOOSER * tolerance)
    for kind, area in (("taken", ground & (1 - strict)), ("left", (1 - ground) & loose)):
        if (doubt := _largest(kind, area & (1 - beside), art, width=wide)) is not None:  # type: ignore[arg-type]
            found.append(doubt)
    if (leak := _leak(distance <= tolerance, ground & (1 - beside), art)) is not None:
        found.append(leak)
    count, _, stats, _ = cv2.connectedComponentsWithStats(1 - ground, connectivity=8)
    small = np.flatnonzero(stats[1:, cv2.CC_STAT_AREA] < 0.002 * art) + 1
    if count - 1 > SPECKLED and len(small) > SPECKLED:
        x, y = stats[small[0], :2]
        found.append(
            Doubt("speckled", int(x), int(y), int(stats[small, cv2.CC_STAT_AREA].sum()), len(small) / count)
        )
    return found


def _largest(
    kind: DoubtKind, area: NDArray[np.uint8], art: int, least: float = LEAST_SHARE, width: int = 3
) -> Doubt | None:
    """The doubt about an area, pinned on its largest part; what is only a rim is none."""
    if cv2.countNonZero(area) < least * art:
        return None
    solid = cv2.morphologyEx(area, cv2.MORPH_OPEN, np.ones((width, width), np.uint8))
    total = cv2.countNonZero(solid)
    if total < least * art:
        return None
    _, labels, stats, _ = cv2.connectedComponentsWithStats(solid, connectivity=8)
    most = 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
    left, top, width, height = (int(n) for n in stats[most, :4])
    patch = np.pad((np.asarray(labels)[top : top + height, left : left + width] == most).astype(np.uint8), 1)
    _, _, _, (x, y) = cv2.minMaxLoc(cv2.distanceTransform(patch, cv2.DIST_L2, 3))
    return Doubt(kind, left + x - 1, top + y - 1, total, min(1.0, total / (art + total)))


def _leak(like: NDArray[np.bool_], ground: NDArray[np.uint8], art: int) -> Doubt | None:
    """Ground that is reached only through a narrow gap: the art's own colour may begin behind it."""
    reach = max(2, round(NECK_SHARE * min(ground.shape)))
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1,) * 2)
    wide = from_outside(np.asarray(cv2.erode(like.astype(np.uint8), kernel, borderValue=1), np.uint8))
    reached = np.asarray(cv2.dilate(wide, cv2.dilate(np.pad(kernel, 2), np.ones((5, 5), np.uint8))), np.uint8)
    return _largest("leak", ground & (1 - reached), art, LEAST_POCKET)
