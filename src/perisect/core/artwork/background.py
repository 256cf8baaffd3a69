"""What is behind the art: clear, one plain colour, a painted checkerboard, or a photograph all over."""

from dataclasses import dataclass
from enum import StrEnum

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.checker import Checker, find_checker
from perisect.core.artwork.picture import alpha_of

CLEAR_SHARE = 0.002
"""Less clear than this is a flaw of the picture, not its background."""

FEATHERED_PX = 3.0
"""Soft edges wider than this make the outline vague."""

PLAIN_DELTA_E = 9.0
PLAIN_SHARE = 0.6
"""A colour that holds this share of the picture's edge is its background; the rest is art cut by the edge."""

EDGE_PX = 3
EDGE_SAMPLES = 6000


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
    colour: tuple[int, int, int] | None = None
    checker: Checker | None = None
    soft_edge_px: float = 0.0


def lab_of(rgb: NDArray[np.uint8]) -> NDArray[np.float32]:
    """CIELAB of (…, 3) colours, from 8-bit steps (0.4 in L), float32 of the same shape."""
    flat = np.ascontiguousarray(rgb).reshape(1, -1, 3)
    lab = np.asarray(cv2.cvtColor(flat, cv2.COLOR_RGB2LAB)).astype(np.float32)
    lab[..., 0] *= 100 / 255
    lab[..., 1:] -= 128
    return lab.reshape(rgb.shape)


def judge(rgba: NDArray[np.uint8]) -> Judged:
    """Verdict on an (h, w, 4) picture, from its alpha or from a band of pixels along its edge."""
    alpha = alpha_of(rgba)
    clear = 1 - cv2.countNonZero(cv2.inRange(alpha, 128, 255)) / alpha.size
    if clear >= CLEAR_SHARE:
        return _clear(alpha, clear)
    edge = _edge_pixels(rgba)
    lab = lab_of(edge)
    checker = find_checker(rgba[..., :3])
    if checker is not None:
        light, dark = checker.light, checker.dark
        return Judged(
            Verdict.CHECKERBOARD,
            f"Squares of {checker.square_px} px in two greys ({dark[0]} and {light[0]} of 255) are painted "
            "into the picture: a fake transparency.",
            checker.agreement,
            checker=checker,
        )
    middle = _main_colour(lab)
    near = float(np.mean(np.linalg.norm(lab - lab[middle], axis=1) < PLAIN_DELTA_E))
    if near >= PLAIN_SHARE:
        colour = tuple(
            int(c) for c in np.median(edge[np.linalg.norm(lab - lab[middle], axis=1) < PLAIN_DELTA_E], axis=0)
        )
        return Judged(
            Verdict.PLAIN,
            f"{100 * near:.0f} % of the picture's edge is one colour.",
            near,
            colour=(colour[0], colour[1], colour[2]),
        )
    return Judged(
        Verdict.PHOTOGRAPH,
        f"The picture's edge has no one colour: the commonest holds {100 * near:.0f} % of it.",
        1 - near / (2 * PLAIN_SHARE),
    )


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


def _edge_pixels(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(n, 3) colours of a band along all four sides, thinned evenly."""
    rgb = rgba[..., :3]
    band = min(EDGE_PX, max(1, min(rgb.shape[:2]) // 8))
    sides = [rgb[:band], rgb[-band:], rgb[:, :band], rgb[:, -band:]]
    edge = np.concatenate([side.reshape(-1, 3) for side in sides])
    return edge[:: max(1, len(edge) // EDGE_SAMPLES)]


def _main_colour(lab: NDArray[np.float32]) -> int:
    """Index of the sample with most others near it, looked for among a few dozen."""
    candidates = np.linspace(0, len(lab) - 1, 48).astype(int)
    near = np.linalg.norm(lab[candidates, None] - lab[None, ::4], axis=2) < PLAIN_DELTA_E
    return int(candidates[near.sum(axis=1).argmax()])
