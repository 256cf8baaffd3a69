"""A scan or a photo of a sheet laid flat: its marks found whatever the scale, turn and tilt, perspective taken out,
light evened.

Marks are looked for by normalised cross-correlation on a small picture, in several sizes and turns; where they do not
stand out, in those of a picture that lies on its side as well. Of the peaks those four are taken that stand as the
sheet's corner marks do, with the ring at the first; then each mark is refined in the picture laid flat so far, as
the plotter's sensor refines it, and the plane map (a homography) is solved from all of them.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.sensing import MarkNotFound, find_mark
from perisect.core.cutting.view import View
from perisect.core.sheet.mark_shape import SHAPES, mark_picture
from perisect.core.sheet.marks import Mark, MarkSettings

PX_PER_MM = 12.0
SMALL_PX = 1000
LEAST_SMALL_PX = 16
"""A picture whose shorter side is less, once it is small, is a strip."""
PEAK, PLAIN, MOST_PEAKS = 0.5, 0.8, 12
SHARES = np.geomspace(0.45, 1.02, 9)
"""Of the picture that the sheet may fill, along its tighter side."""
TURNS_DEG = (-14.0, -7.0, 0.0, 7.0, 14.0)
LEAST_PX_PER_MM = 3.5
"""Of a picture with less nobody can tell where a cut lies."""
FIT_MM = 0.35
LEANS = 1.75
"""A mm may be so much longer at one side of a tilted sheet; a sheet of A4 taken for one on its side is twice so."""
WINDOW_MM = 16.0

Grey = NDArray[np.uint8]


class NotTheSheet(ValueError):
    """The picture does not show the sheet whole; the text says what to do."""


@dataclass(frozen=True)
class FlatSheet:
    """The sheet at PX_PER_MM: (h, w) float, paper near 255; how many px a mm had in the picture, and what is left over
    at the mark that fits worst, mm."""

    grey: NDArray[np.float32]
    seen_px_per_mm: float
    off_mm: float


def flatten(
    grey: Grey, marks: Sequence[Mark], settings: MarkSettings, width_mm: float, height_mm: float
) -> FlatSheet:
    """Of an (h, w) picture of a sheet.

    Raises:
        NotTheSheet: fewer than four of its marks are found, or they stand otherwise.
    """
    sheet_to_px, off_mm = located(grey, marks, settings, width_mm, height_mm)
    size = round(width_mm * PX_PER_MM), round(height_mm * PX_PER_MM)
    warp = sheet_to_px @ _centred(PX_PER_MM)
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    flat = cv2.warpPerspective(grey, warp, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
    seen = _scale(sheet_to_px, width_mm / 2, height_mm / 2)
    return FlatSheet(_evened(np.asarray(flat, np.float32)), seen, off_mm)


def located(
    grey: Grey, marks: Sequence[Mark], settings: MarkSettings, width_mm: float, height_mm: float
) -> tuple[NDArray[np.float64], float]:
    """The plane map (3, 3) from mm of a sheet to pixels of an (h, w) picture, a pixel's middle at whole numbers; and
    what is left over at the mark that fits worst, mm.

    Raises:
        NotTheSheet: as `flatten`.
    """
    if len(marks) < 4:
        raise NotTheSheet(
            "This plotter's sheets have three marks, and a picture is read by four: measure by ruler."
        )
    sheet_to_px = _coarse(grey, marks, settings, width_mm, height_mm)
    for _ in range(2):
        sheet_to_px, off_mm = _refined(grey, marks, settings, sheet_to_px)
    if off_mm > FIT_MM:
        raise NotTheSheet(
            f"The marks do not lie in one plane: {off_mm:.2f} mm are left over. Lay the sheet flat and take it again."
        )
    return sheet_to_px, off_mm


def located_however(
    grey: Grey, marks: Sequence[Mark], settings: MarkSettings, width_mm: float, height_mm: float
) -> tuple[Grey, NDArray[np.float64]]:
    """An (h, w) picture turned as the sheet stands, in quarters, and the plane map (3, 3) from mm to its pixels.

    Raises:
        NotTheSheet: as `flatten`, for how it was given.
    """
    failed: NotTheSheet | None = None
    for quarters in (0, 2, 1, 3):
        turned = np.ascontiguousarray(np.rot90(grey, quarters))
        try:
            return turned, located(turned, marks, settings, width_mm, height_mm)[0]
        except NotTheSheet as error:
            failed = failed or error
    assert failed is not None
    raise failed


def _centred(k: float) -> NDArray[np.float64]:
    """From pixels of a picture of the sheet to its mm: pixel 0 is the first pixel's middle."""
    return np.array([[1 / k, 0, 0.5 / k], [0, 1 / k, 0.5 / k], [0, 0, 1]])


def _scale(matrix: NDArray[np.float64], x: float, y: float) -> float:
    """Pixels a mm about a place, the lesser of both ways."""
    at = _through(matrix, np.array([(x, y), (x + 1, y), (x, y + 1)]))
    return float(np.hypot(*(at[1:] - at[0]).T).min())


def _through(matrix: NDArray[np.float64], points: NDArray[np.float64]) -> NDArray[np.float64]:
    there = np.column_stack([points, np.ones(len(points))]) @ matrix.T
    return np.asarray(there[:, :2] / there[:, 2:])


def _evened(flat: NDArray[np.float32]) -> NDArray[np.float32]:
    """Paper brought to 255 everywhere: what is lightest round a place is paper there."""
    small = cv2.resize(flat, None, fx=1 / 24, fy=1 / 24, interpolation=cv2.INTER_AREA)
    paper = cv2.GaussianBlur(cv2.dilate(small, np.ones((25, 25), np.uint8)), (0, 0), 12)
    paper = cv2.resize(paper, flat.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(np.clip(flat / np.maximum(paper, 8) * 255, 0, 290), np.float32)


def _coarse(
    grey: Grey, marks: Sequence[Mark], settings: MarkSettings, width_mm: float, height_mm: float
) -> NDArray[np.float64]:
    """From sheet mm to picture px, from the best four peaks."""
    shrunk = min(1.0, SMALL_PX / max(grey.shape))
    if min(grey.shape) * shrunk < LEAST_SMALL_PX:
        raise NotTheSheet(UNSEEN)
    small = np.asarray(cv2.resize(grey, None, fx=shrunk, fy=shrunk, interpolation=cv2.INTER_AREA), np.uint8)
    best = _best_four(small, marks, settings, width_mm, height_mm, 0)
    if best is None or best[0] < 4 * PLAIN:
        on_its_side = _best_four(small, marks, settings, width_mm, height_mm, 1)
        best = max(
            (each for each in (best, on_its_side) if each is not None), key=lambda each: each[0], default=None
        )
    if best is None or best[0] < 4 * PEAK:
        raise NotTheSheet(UNSEEN)
    matrix = np.asarray(np.diag([1 / shrunk, 1 / shrunk, 1.0]) @ best[1], float)
    if _scale(matrix, width_mm / 2, height_mm / 2) < LEAST_PX_PER_MM:
        # What is hardly like a mark is none, however small it is.
        raise NotTheSheet(TOO_SMALL if best[2] >= PLAIN else UNSEEN)
    return matrix


UNSEEN = (
    "The four corner marks are not all seen. Take the whole sheet into the picture, flat and from above, evenly lit, "
    "or scan it at 300 ppi."
)
TOO_SMALL = "The picture is too small to see a cut in. Go nearer, or scan the sheet at 300 ppi."


def _best_four(
    small: Grey,
    marks: Sequence[Mark],
    settings: MarkSettings,
    width_mm: float,
    height_mm: float,
    quarter: int,
) -> tuple[float, NDArray[np.float64], float] | None:
    """How well the four peaks do that stand as the corner marks do, the map from the sheet to the small picture, and
    how much the four are like marks."""
    corners = _corner_marks(marks)
    places = np.array([(marks[n].x_mm, marks[n].y_mm) for n in corners])
    best: tuple[float, NDArray[np.float64], float] | None = None
    high, wide = small.shape
    fits = max(min(wide / width_mm, high / height_mm), min(high / width_mm, wide / height_mm))
    peaks = _peaks(small, marks[0], settings, fits, quarter)
    ring = corners.index(0) if 0 in corners else None
    for four in combinations(peaks, 4):
        points = np.array([peak[:2] for peak in four])
        middle = points.mean(axis=0)
        order = np.argsort(np.arctan2(*(points - middle).T[::-1]))
        for first in range(4):
            # Clockwise from the top left mark, as the corners are.
            chosen = points[np.roll(order, -first)]
            if not _is_convex(chosen):
                continue
            matrix = np.asarray(
                cv2.getPerspectiveTransform(places.astype(np.float32), chosen.astype(np.float32)), float
            )
            k = _scale(matrix, width_mm / 2, height_mm / 2)
            sizes = [peak[3] for peak in four]
            if not all(0.72 < size / k < 1.4 for size in sizes) or not _is_upright(
                matrix, width_mm, height_mm
            ):
                continue
            rung = 0.0 if ring is None else _ring_contrast(small, matrix, places, ring, settings)
            score = sum(peak[2] for peak in four) + 2 * rung
            if best is None or score > best[0]:
                best = score, matrix, sum(peak[2] for peak in four) / 4
    return best


def _corner_marks(marks: Sequence[Mark]) -> list[int]:
    """Numbers of the marks nearest to the sheet's corners, clockwise from the top left."""
    x, y = np.array([(mark.x_mm, mark.y_mm) for mark in marks]).T
    return [int((x + y).argmin()), int((x - y).argmax()), int((x + y).argmax()), int((y - x).argmax())]


def _peaks(
    small: Grey, mark: Mark, settings: MarkSettings, fits: float, quarter: int
) -> list[tuple[float, float, float, float]]:
    """x, y, score and px a mm of what looks most like a mark, `quarter` turns round, the best first."""
    soft = small.astype(np.float32)
    best = np.zeros(small.shape, np.float32)
    size = np.zeros(small.shape, np.float32)
    for k in fits * SHARES:
        reach = settings.radius_mm + 0.3
        corner = mark.corner if SHAPES[mark.shape].turns else (1, 1)
        upright = mark_picture(settings, False, k, reach + 1.2, mark.shape, corner)
        for turn in TURNS_DEG:
            middle = (upright.shape[0] - 1) / 2
            spun = cv2.getRotationMatrix2D((middle, middle), turn, 1.0)
            template = cv2.warpAffine(upright, spun, upright.shape[::-1], borderValue=1.0)
            inset = max(round(1.2 * k), 1)
            template = np.ascontiguousarray(np.rot90(template[inset:-inset, inset:-inset], quarter))
            if min(template.shape) < 7 or template.shape[0] >= min(small.shape):
                continue
            scores = cv2.matchTemplate(soft, template, cv2.TM_CCOEFF_NORMED)
            half = template.shape[0] // 2
            view = (slice(half, half + scores.shape[0]), slice(half, half + scores.shape[1]))
            better = scores > best[view]
            best[view] = np.where(better, scores, best[view])
            size[view] = np.where(better, k, size[view])
    found = []
    apart = round(2 * settings.radius_mm * fits * SHARES[0])
    for _ in range(MOST_PEAKS):
        _, score, _, (x, y) = cv2.minMaxLoc(best)
        if score < PEAK:
            break
        found.append((float(x), float(y), float(score), float(size[y, x])))
        cv2.circle(best, (x, y), max(apart, 6), 0.0, -1)
    return found


def _is_convex(points: NDArray[np.float64]) -> bool:
    sides = np.roll(points, -1, axis=0) - points
    turns = sides[:, 0] * np.roll(sides, -1, axis=0)[:, 1] - sides[:, 1] * np.roll(sides, -1, axis=0)[:, 0]
    return bool((turns > 0).all())


def _is_upright(matrix: NDArray[np.float64], width_mm: float, height_mm: float) -> bool:
    """Whether a mm is about as long across as along, and at one end as at the other."""
    at = _through(matrix, np.array([(0, 0), (width_mm, 0), (width_mm, height_mm), (0, height_mm)], float))
    across = np.hypot(*(at[1] - at[0])), np.hypot(*(at[2] - at[3]))
    along = np.hypot(*(at[3] - at[0])), np.hypot(*(at[2] - at[1]))
    each = [length / width_mm for length in across] + [length / height_mm for length in along]
    return bool(max(each) < LEANS * min(each))


def _ring_contrast(
    small: Grey, matrix: NDArray[np.float64], places: NDArray[np.float64], ring: int, settings: MarkSettings
) -> float:
    """By how much the ringed mark's ring is darker than the others' places of one, as a share of all levels."""
    turn = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    radius = (settings.ring_inner_mm + settings.ring_outer_mm) / 2
    circle = radius * np.column_stack([np.cos(turn), np.sin(turn)])
    level = []
    for place in places:
        at = _through(matrix, place + circle).astype(np.float32)
        seen = cv2.remap(
            small, at[None, :, 0], at[None, :, 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        )
        level.append(float(seen.mean()))
    others = [each for n, each in enumerate(level) if n != ring]
    return (float(np.mean(others)) - level[ring]) / 255


def _refined(
    grey: Grey, marks: Sequence[Mark], settings: MarkSettings, sheet_to_px: NDArray[np.float64]
) -> tuple[NDArray[np.float64], float]:
    """The plane map from every mark that is found in the picture laid flat by a first one."""
    half = round(WINDOW_MM * PX_PER_MM / 2)
    side = 2 * half + 1

    def look(x_mm: float, y_mm: float) -> View:
        # The sensor's frame has y up; here it is the sheet's own with the sign turned.
        k = PX_PER_MM
        window = np.array([[1 / k, 0, x_mm - half / k], [0, 1 / k, -y_mm - half / k], [0, 0, 1]])
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        seen = cv2.warpPerspective(
            grey, sheet_to_px @ window, (side, side), flags=flags, borderMode=cv2.BORDER_REPLICATE
        )
        return View(np.asarray(seen, np.uint8), x_mm, y_mm, k)

    there, wanted = [], []
    for number, mark in enumerate(marks):
        try:
            found = find_mark(marks, number, (mark.x_mm, -mark.y_mm), settings, look)
        except MarkNotFound:
            continue
        there.append((found.x_mm, -found.y_mm))
        wanted.append((mark.x_mm, mark.y_mm))
    if len(there) < 4:
        raise NotTheSheet(
            f"Of the {len(marks)} marks {len(there)} are seen. Take the whole sheet into the picture, flat, evenly lit."
        )
    seen = _through(sheet_to_px, np.array(there))
    found_map, _ = cv2.findHomography(np.array(wanted), seen)
    matrix = np.asarray(found_map, float)
    back = _through(np.linalg.inv(matrix), seen)
    return matrix, float(np.hypot(*(back - np.array(wanted)).T).max())
