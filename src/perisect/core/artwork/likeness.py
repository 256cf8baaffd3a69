"""Which pixels are like the ground behind the art: how far each is from it, and what of that is only grain."""

from dataclasses import dataclass
from functools import cached_property
from math import ceil

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.cielab import lab_of, lab_per_level
from perisect.core.artwork.flood import from_outside
from perisect.core.artwork.ground import SMOOTHED_PX, Ground
from perisect.core.artwork.picture import flat_nonzero

CLEAN = 2.5
"""CIELAB distance from a ground without grain that is art: hardly more than the eye can see."""

MOST_MEAN, MOST_SINGLE = 7.0, 16.0
FAR = 1000.0
OWN = 28.0
"""Distances up to this are measured once for all tolerances."""

LARGE_PX = 1000
STRONG = 14.0
"""Further from the ground than this is art beyond doubt, about which a picture's grain is measured."""

RINGS = 2.0
RING_PX = (2, 9)
RING_SAMPLES = 20_000


@dataclass(frozen=True)
class Tolerance:
    """CIELAB distances up to which the mean about a pixel, and the pixel itself, is ground: grain is averaged out."""

    mean: float
    single: float

    @property
    def grainy(self) -> bool:
        """Whether single pixels are allowed more than their mean."""
        return self.single > 1.2 * self.mean

    def times(self, factor: float) -> "Tolerance":
        """As much stricter or looser."""
        return Tolerance(self.mean * factor, self.single * factor)

    @staticmethod
    def for_spread(spread: float, rings: float = 0.0) -> "Tolerance":
        """For the scatter that nine in ten pixels keep within, and that of eight in ten about the art.

        Nine in ten is about 2.5 standard deviations of even grain, of which a mean of 25 pixels keeps a fifth.
        """
        single = CLEAN + 2 * max(spread, RINGS * rings)
        return Tolerance(min(CLEAN + 0.5 * max(spread, rings), MOST_MEAN), min(single, MOST_SINGLE))

    def at(self, mean: float | None) -> "Tolerance":
        """The same allowance for grain at a tolerance that a person has set."""
        return self if mean is None else self.times(mean / self.mean)


@dataclass(frozen=True)
class Likeness:
    """(h, w, 3) colours held against a ground; where it changes, `cells` are its colours spread over the picture."""

    rgb: NDArray[np.uint8]
    ground: Ground
    cells: NDArray[np.float32] | None = None

    def field(self, height: int, width: int) -> NDArray[np.float32]:
        """Colours of the ground in a picture of a size: (3,) where it is one colour, else (h, w, 3)."""
        if self.cells is None:
            return np.array(self.ground.colour, np.float32)
        return np.asarray(cv2.resize(self.cells, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)

    @cached_property
    def behind(self) -> NDArray[np.float32]:
        """Colours of the ground in the picture."""
        return self.field(*self.rgb.shape[:2])

    def distance(self, tolerance: Tolerance, reach: float = 1.0) -> NDArray[np.float32]:
        """(h, w) distance from the ground, in which a pixel up to `tolerance.mean` is ground.

        What is further than `reach` times that may be told only as `FAR`.
        """
        even = tolerance.mean / tolerance.single
        own = (
            self._own_far if tolerance.single * reach <= OWN else self._own(tolerance.single * reach)
        ) * np.float32(even)
        return own if even > 0.999 else np.maximum(own, self._mean(own <= tolerance.mean * reach))

    @cached_property
    def _own_far(self) -> NDArray[np.float32]:
        return self._own(OWN)

    def _own(self, most: float) -> NDArray[np.float32]:
        """Each pixel by itself."""
        if self.cells is not None:
            return _length(self._off(self.rgb, self.behind))
        # Most pixels are the ground itself or far from it, and only the others are measured.
        near = np.array(self.ground.colour, int)
        same = np.asarray(cv2.inRange(self.rgb, (near - 1).clip(0), (near + 1).clip(0, 255)))
        # A box that holds the ball, with room for CIELAB not being straight.
        inverse = np.linalg.inv(lab_per_level(self.ground.colour).astype(float))
        reach = np.ceil(1.5 * most * np.linalg.norm(inverse, axis=1) + 2).astype(int)
        box = np.asarray(cv2.inRange(self.rgb, (near - reach).clip(0), (near + reach).clip(0, 255)))
        out = cv2.LUT(same, _SAME_OR_FAR)
        maybe = flat_nonzero(np.asarray(cv2.subtract(box, same)))
        if len(maybe):
            lab = lab_of(self.rgb.reshape(-1, 3)[maybe]) - lab_of(near[None])
            out.ravel()[maybe] = np.sqrt(np.einsum("ij,ij->i", lab, lab))
        return np.asarray(out, np.float32)

    def _mean(self, grain: NDArray[np.bool_]) -> NDArray[np.float32]:
        """The mean about each pixel of those that are grain; of large pictures at half the size, which holds as much
        of it."""
        height, width = grain.shape
        half = min(height, width) > LARGE_PX
        size = (width // 2, height // 2) if half else (width, height)
        rgb, behind, part = self.rgb, self.behind, grain.astype(np.float32)
        if half:
            rgb = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_NEAREST), np.uint8)
            part = np.asarray(cv2.resize(part, size, interpolation=cv2.INTER_NEAREST), np.float32)
            behind = self.field(*part.shape)
        off = self._off(rgb, behind) * part[..., None]
        window = (SMOOTHED_PX, SMOOTHED_PX)
        total = cv2.boxFilter(off, -1, window, normalize=False, borderType=cv2.BORDER_REPLICATE)
        count = cv2.boxFilter(part, -1, window, normalize=False, borderType=cv2.BORDER_REPLICATE)
        mean = _length(np.asarray(total)) / np.maximum(count, 1)
        return np.asarray(cv2.resize(mean, (width, height), interpolation=cv2.INTER_LINEAR) if half else mean)

    def _off(self, rgb: NDArray[np.uint8], behind: NDArray[np.float32]) -> NDArray[np.float32]:
        """(…, 3) CIELAB difference from the ground, as far as CIELAB is straight about the ground's colour."""
        matrix = lab_per_level(self.ground.colour)
        if behind.ndim == 1:
            return np.asarray(
                cv2.transform(rgb.astype(np.float32), np.column_stack([matrix, -matrix @ behind]))
            )
        return np.asarray(cv2.transform(cv2.subtract(rgb.astype(np.float32), behind), matrix))


_SAME_OR_FAR = np.where(np.arange(256) > 0, 0, FAR).astype(np.float32)


def _length(vectors: NDArray[np.float32]) -> NDArray[np.float32]:
    x, y, z = cv2.split(vectors)
    return np.asarray(cv2.magnitude(cv2.magnitude(x, y), z), np.float32)


def measured_tolerance(likeness: Likeness) -> Tolerance:
    """The tolerance that the picture's own grain asks for, along its edge and about its art, where JPEG rings."""
    first = Tolerance.for_spread(likeness.ground.spread)
    distance = likeness.distance(first, STRONG / first.mean)
    height, width = distance.shape
    strong = (distance > STRONG).astype(np.uint8)
    # Cells of some pixels are enough to tell where about the art to look.
    cell = max(1, round(min(height, width) / 500))
    if cv2.countNonZero(strong) == 0:
        strong = 1 - from_outside(distance <= first.mean)
    size = (max(1, width // cell), max(1, height // cell))
    cells = np.asarray(cv2.resize(strong * np.uint8(255), size, interpolation=cv2.INTER_AREA) > 0, np.uint8)
    near, far = (
        np.asarray(
            cv2.dilate(cells, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * ceil(n / cell) + 1,) * 2))
        )
        for n in RING_PX
    )
    y, x = np.nonzero(far > near)
    if len(y) < 50:
        return first
    step = max(1, len(y) // RING_SAMPLES)
    y, x = y[::step] * cell + cell // 2, np.minimum(x[::step] * cell + cell // 2, width - 2)
    both = (distance[y, x] <= STRONG) & (distance[y, x + 1] <= STRONG)
    apart = likeness.rgb[y[both], x[both]].astype(np.float32) - likeness.rgb[y[both], x[both] + 1]
    if len(apart) < 50:
        return first
    lengths = np.linalg.norm(apart @ lab_per_level(likeness.ground.colour).T, axis=1)
    # The difference of two pixels scatters by the root of two more than each of them. Of an edge of pale art that
    # happens to lie here, a fifth of all pairs is more than it can fill.
    return Tolerance.for_spread(likeness.ground.spread, float(np.percentile(lengths, 80)) / 2**0.5)
