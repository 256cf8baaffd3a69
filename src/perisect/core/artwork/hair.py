"""Hair and fur at the rim of a subject: strands that a graph cut leaves out, and the ground that it takes in between.

Near the rim each pixel is a mixture of the subject's colour there and the ground's, both known from a little further in
and out; its share of the one is its place between the two. That share counts only where it stands out from what the
ground's own grain makes of it, and only where there are strands at all: a smooth rim stays as it was.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Reals = NDArray[np.float32]
Mask = NDArray[np.bool_]

GUIDE_PX = 900
"""Longer side of the picture that strands are looked for in."""
REACH_SHARE = 0.09
"""Of that side: how far from the rim there may be hair."""
STRAND_SHARE = 0.012
"""Of that side: no strand is thicker."""
SURE = 2.5
"""A share stands out when it is so many standard deviations of the grain's."""
HAIRY = 0.004, 4.0
"""A rim has hair when so much of the band beside it is strands, and so many times as much as of the ground further
out."""
WITHIN_PX, BESIDE_PX = 3.0, 1.5
"""Further in and out than this the colours are the subject's and the ground's alone."""
HALF = 0.45


@dataclass(frozen=True)
class _Rim:
    """A reduced picture about the edge of its subject: distances from that edge (px, outside and inside), and of each
    pixel the share of the subject's colour, with how far the grain carries that of the ground."""

    outside: Reals
    inside: Reals
    reach: float
    share: Reals
    grain: float
    is_ground: Mask
    """Whether a pixel has a colour on the way from the ground's to the subject's, and is nearer to the ground's."""

    @property
    def further_out(self) -> Mask:
        """Where no hair reaches."""
        return _between(self.outside, self.reach, 2 * self.reach)


def with_hair(rgb: NDArray[np.uint8], alpha: NDArray[np.uint8], said: Mask) -> NDArray[np.uint8] | None:
    """(h, w) coverage of a subject with its strands, and without the ground between them; None where its rim is smooth.

    Args:
        rgb: (h, w, 3).
        alpha: (h, w) coverage by a cut that knows nothing of hair.
        said: (any h, any w) what a person has said of, and stays as it is.
    """
    height, width = alpha.shape
    fewer = min(1.0, GUIDE_PX / max(height, width))
    size = max(8, round(width * fewer)), max(8, round(height * fewer))
    small = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), np.float32)
    cover = np.asarray(cv2.resize(alpha, size, interpolation=cv2.INTER_AREA), np.float32) / np.float32(255)
    core = cover > 0.5
    if not core.any() or core.all():
        return None
    rim = _rim_of(small, core)
    strands = _strands(rim, core)
    if strands is None:
        return None
    share = np.clip(rim.share, 0, 1)
    found = np.where(strands, np.maximum(cover, share), cover)
    between = _between_strands(rim, core)
    found = np.where(between & ~strands, np.minimum(cover, share), found)
    off = cv2.resize(said.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST)
    change = np.where(off > 0, 0, found - cover).astype(np.float32)
    more = np.asarray(cv2.resize(change, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)
    return np.asarray(np.clip(np.rint(alpha + more * 255), 0, 255), np.uint8)


def _between(distance: Reals, least: float, most: float) -> Mask:
    return np.asarray((distance > least) & (distance < most))


def _rim_of(small: Reals, core: Mask) -> _Rim:
    longest = max(small.shape[:2])
    reach = REACH_SHARE * longest
    outside, inside = (
        np.asarray(cv2.distanceTransform(np.asarray(each, np.uint8), cv2.DIST_L2, 5), np.float32)
        for each in (~core, core)
    )
    subject = _spread(small, _between(inside, WITHIN_PX, reach), reach / 2)
    ground = _spread(small, _between(outside, 0.9 * reach, 2 * reach), reach / 2)
    # What is ground in the band itself tells its colour there better than what is far out.
    for _ in range(2):
        like = (_share(small, ground, subject) < 0.3) & _between(outside, BESIDE_PX, 2 * reach)
        ground = _spread(small, like, reach / 6)
    share = np.clip(_share(small, ground, subject), -1, 1)
    beside = small - ground - share[..., None] * (subject - ground)
    off_way = np.sqrt(np.square(beside).sum(axis=-1))
    out = _between(outside, reach, 2 * reach)
    if not out.any():
        return _Rim(outside, inside, reach, share, np.inf, np.zeros_like(core))
    grain = float(np.sqrt(np.square(share[out]).mean()))
    usual = float(np.sqrt(np.square(off_way[out]).mean()))
    return _Rim(outside, inside, reach, share, grain, (share < HALF) & (off_way < 3 * usual))


def _spread(small: Reals, known: Mask, far_px: float) -> Reals:
    """(h, w, 3) the mean colour of what is known nearby, or of what is nearest where nothing is; in a picture a quarter
    as large, for nothing of it is finer."""
    weight = known.astype(np.float32)
    weighed = np.dstack([small * weight[..., None], weight])
    fewer = cv2.resize(weighed, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA)
    near, wide = (cv2.GaussianBlur(fewer, (0, 0), far) for far in (far_px / 4, far_px))
    # The wider one reaches everywhere; so little of it counts only where nothing nearer is known.
    total = near + 1e-3 * wide
    mean = np.asarray(total[..., :3] / np.maximum(total[..., 3:], 1e-9), np.float32)
    return np.asarray(cv2.resize(mean, small.shape[1::-1], interpolation=cv2.INTER_LINEAR), np.float32)


def _share(small: Reals, ground: Reals, subject: Reals) -> Reals:
    """How far each colour lies on the way from the ground's to the subject's."""
    way = subject - ground
    length = np.maximum(np.square(way).sum(axis=-1), 1)
    return np.asarray(((small - ground) * way).sum(axis=-1) / length, np.float32)


def _strands(rim: _Rim, core: Mask) -> Mask | None:
    """Thin lines of the subject's colour that hang together with it; None where the rim has no hair."""
    thin = rim.share - np.asarray(cv2.morphologyEx(rim.share, cv2.MORPH_OPEN, _disc(core)), np.float32)
    sure = (rim.share > SURE * rim.grain) & (thin > 2 * rim.grain)
    near = _between(rim.outside, 1, rim.reach / 3)
    amount = np.where(sure, (rim.share - SURE * rim.grain) / max(1 - SURE * rim.grain, 0.1), 0)
    here, there = (float(amount[each].mean()) if each.any() else 0.0 for each in (near, rim.further_out))
    if here < max(HAIRY[0], HAIRY[1] * there):
        return None
    clear = sure & (amount > 0.15) & _between(rim.outside, 0, rim.reach)
    _, names = cv2.connectedComponents(np.asarray(clear | core, np.uint8), connectivity=8)
    held = np.zeros(int(names.max()) + 1, bool)
    held[names[core]] = True
    held[0] = False
    # The soft sides of a strand go with it.
    mine = np.asarray(cv2.dilate(np.asarray(held[names] & clear, np.uint8), np.ones((3, 3), np.uint8)), bool)
    return np.asarray(mine & sure & ~core)


def _between_strands(rim: _Rim, core: Mask) -> Mask:
    """Ground that the cut took for subject, as far as it hangs together with the ground outside but for strands that
    cross it. None of it where the subject's own grain looks like the ground: there a gap is no different from a fleck.
    """
    beside = rim.is_ground & ~core & (rim.outside < rim.reach)
    deep = rim.inside > rim.reach / 2
    own = float(np.sqrt(np.square(rim.share[deep] - 1).mean())) if deep.any() else 0.0
    if SURE * max(own, rim.grain) > HALF:
        return beside
    ground = (rim.is_ground & _between(rim.inside, 0, rim.reach)) | ~core
    over_strands = cv2.dilate(np.asarray(ground, np.uint8), _disc(core))
    _, names = cv2.connectedComponents(over_strands, connectivity=4)
    is_open = np.zeros(int(names.max()) + 1, bool)
    is_open[names[rim.outside > rim.reach]] = True
    found = is_open[names] & core & ground
    soft = np.asarray(cv2.dilate(np.asarray(found, np.uint8), np.ones((3, 3), np.uint8)), bool) & core
    return found | soft | beside


def _disc(core: Mask) -> NDArray[np.uint8]:
    """What no strand is wider than."""
    size = max(3, round(STRAND_SHARE * max(core.shape)) | 1)
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size)), np.uint8)
