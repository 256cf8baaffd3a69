"""What is behind the art: clear, one colour, a painted checkerboard, or a photograph all over."""

from dataclasses import dataclass
from enum import StrEnum

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.checker import Checker, find_checker
from perisect.core.artwork.ground import Ground, find_ground
from perisect.core.artwork.picture import alpha_of, rgb_of

CLEAR_SHARE = 0.002
"""Less clear than this is a flaw of the picture, not its background."""

FEATHERED_PX = 3.0
"""Soft edges wider than this make the outline vague."""

PLAIN_SHARE = 0.6
"""A colour that holds this share of the picture's edge is its background; the rest is art cut by the edge."""

SURE_APART = 0.2
"""A share this far from it leaves hardly a doubt."""


class Verdict(StrEnum):
    """Kinds of background."""

    CLEAR = "clear"
    FEATHERED = "feathered"
    PLAIN = "plain"
    CHECKERBOARD = "checkerboard"
    PHOTOGRAPH = "photograph"


@dataclass(frozen=True)
class Judged:
    """A verdict with its reason, how sure it is (0 to 1), and what removal needs to know."""

    verdict: Verdict
    reason: str
    confidence: float
    ground: Ground | None = None
    checker: Checker | None = None
    soft_edge_px: float = 0.0


def judge(rgba: NDArray[np.uint8]) -> Judged:
    """Verdict on an (h, w, 4) picture, from its alpha or from a band of pixels along its edge."""
    alpha = alpha_of(rgba)
    clear = 1 - cv2.countNonZero(cv2.inRange(alpha, 128, 255)) / alpha.size
    if clear >= CLEAR_SHARE:
        return _clear(alpha, clear)
    rgb = rgb_of(rgba)
    checker = find_checker(rgb)
    if checker is not None:
        light, dark = checker.light, checker.dark
        return Judged(
            Verdict.CHECKERBOARD,
            f"Squares of {checker.square_px} px in two greys ({dark[0]} and {light[0]} of 255) are painted "
            "into the picture: a fake transparency.",
            checker.agreement,
            checker=checker,
        )
    ground = find_ground(rgb)
    if ground.share >= PLAIN_SHARE:
        told = "one colour" if ground.surface is None else "one colour that changes gently"
        return Judged(
            Verdict.PLAIN,
            f"{100 * ground.share:.0f} % of the picture's edge is {told}.",
            _sure(ground.share),
            ground=ground,
        )
    return Judged(
        Verdict.PHOTOGRAPH,
        f"The picture's edge has no one colour: the commonest holds {100 * ground.share:.0f} % of it.",
        _sure(ground.share),
    )


def _sure(share: float) -> float:
    """How sure a verdict is that hangs on a share of the edge: a toss-up at the limit, all but certain far from it."""
    return 0.5 + 0.49 * min(1.0, abs(share - PLAIN_SHARE) / SURE_APART)


def _clear(alpha: NDArray[np.uint8], share: float) -> Judged:
    """Soft edge: half-covered area over the length of the outline it lies along.

    The mean length of all iso-lines of the alpha is the sum of its gradient (the coarea formula).
    """
    soft = cv2.countNonZero(cv2.inRange(alpha, 16, 239))
    across = cv2.Sobel(alpha, cv2.CV_32F, 1, 0, ksize=1, scale=0.5)
    along = cv2.Sobel(alpha, cv2.CV_32F, 0, 1, ksize=1, scale=0.5)
    length = max(float(cv2.magnitude(across, along).sum()) / 255, 1.0)
    width = soft / length
    if width > FEATHERED_PX:
        return Judged(
            Verdict.FEATHERED,
            f"Its edges fade over {width:.1f} px, so where the art ends is vague.",
            min(1.0, width / (2 * FEATHERED_PX)),
            soft_edge_px=width,
        )
    return Judged(Verdict.CLEAR, f"{100 * share:.0f} % of the picture is clear.", 1.0, soft_edge_px=width)
