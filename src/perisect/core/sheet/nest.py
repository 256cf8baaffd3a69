"""True-shape nesting on one sheet after another: pieces turned into each other's hollows."""

import hashlib
import json
import time
from collections import Counter
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core import ENGINE_VERSION
from perisect.core.sheet.clear import keep_clear
from perisect.core.sheet.grid import clear_band
from perisect.core.sheet.pocket import Pockets, fill_pockets
from perisect.core.sheet.strip import Corners, Laid, Strip, search_strip, turned
from perisect.core.sheet.turns import Turns
from perisect.core.sheet.usable import UsableArea

SIMPLIFY_MM = 0.1
HAIR_MM = 0.02
USUAL_SHARE = 0.62
"""Share of a sheet that nested pieces with half their gaps usually cover."""
LEAST_SECONDS = 2
HOLLOW_MM = 25.0
"""How far the two parts of a strip may move into each other."""
MOST_CUTS = 60

Said = Callable[[str], None]


@dataclass(frozen=True)
class Nested:
    """A piece on sheet number `sheet` from 0: its turn in degrees clockwise about the design's origin, then its
    shift in mm."""

    key: str
    sheet: int
    turn_deg: float
    x_mm: float
    y_mm: float


@dataclass(frozen=True)
class NestQuestion:
    """What is to be nested; the answer is kept under its `key`.

    `shapes` is what each piece takes, by design, in design mm; `wanted` the copies, or None to fill one
    sheet; `fixed` are pieces that keep their place.
    """

    area: UsableArea
    shapes: Mapping[str, shapely.Polygon]
    wanted: Mapping[str, int] | None
    gap_mm: float
    turns: Turns
    seconds: int
    seed: int
    most_sheets: int
    fixed: tuple[Nested, ...] = ()

    @cached_property
    def key(self) -> str:
        """Hash of everything the answer follows from."""
        told = {
            "engine": ENGINE_VERSION,
            "area": shapely.to_wkt(self.area.polygon, rounding_precision=4),
            "shapes": {k: shapely.to_wkt(s, rounding_precision=4) for k, s in self.shapes.items()},
            "wanted": None if self.wanted is None else dict(self.wanted),
            "how": [self.gap_mm, self.turns, self.seconds, self.seed, self.most_sheets],
            "fixed": [[f.key, f.sheet, f.turn_deg, f.x_mm, f.y_mm] for f in self.fixed],
        }
        return hashlib.sha256(json.dumps(told, sort_keys=True).encode()).hexdigest()


def nest(
    question: NestQuestion, said: Said = lambda _: None, stopping: Callable[[], bool] = lambda: False
) -> list[Nested]:
    """Nest within the question's time; when it is up, or on `stopping`, the best so far stands.

    A sheet that was found is repeated as long as there are copies for it.

    Args:
        said: hears how far the search is, about every second.
    """
    if question.area.polygon.is_empty:
        return []
    search = _Search(question, said, stopping)
    placed = list(question.fixed)
    left = Counter(search.demand())
    left.subtract(Counter(piece.key for piece in question.fixed))
    sheet = 0
    while sheet < question.most_sheets and any(count > 0 for count in left.values()):
        fixed = [piece for piece in question.fixed if piece.sheet == sheet]
        several = question.most_sheets > 1 and search.sheets_for(left) > 1.2
        seconds = (search.end - time.monotonic()) * (0.6 if several else 1.0)
        found = search.one_sheet(left, fixed, seconds, sheet)
        if not found and not fixed:
            break
        in_pattern = Counter(piece.key for piece in found)
        placed += [Nested(p.key, sheet, p.turn_deg, p.x_mm, p.y_mm) for p in found]
        left -= in_pattern
        sheet += 1
        # A sheet with fixed pieces is not a pattern for others.
        while not fixed and not any(f.sheet == sheet for f in question.fixed):
            if sheet >= question.most_sheets or any(left[key] < n for key, n in in_pattern.items()):
                break
            placed += [Nested(p.key, sheet, p.turn_deg, p.x_mm, p.y_mm) for p in found]
            left -= in_pattern
            sheet += 1
    return placed


class _Search:
    """The search of one question."""

    def __init__(self, question: NestQuestion, said: Said, stopping: Callable[[], bool]) -> None:
        self.question, self.said, self.stopping = question, said, stopping
        half = question.gap_mm / 2
        self.grown = {key: _simple(shape, half) for key, shape in question.shapes.items()}
        self.sheet_mm2 = question.area.polygon.area
        self.end = time.monotonic() + question.seconds

    def demand(self) -> Mapping[str, int]:
        """Copies wanted; for one full sheet, more of each than it can hold, in equal numbers."""
        if self.question.wanted is not None:
            return self.question.wanted
        each = int(self.sheet_mm2 / sum(s.area for s in self.question.shapes.values())) + 2
        return dict.fromkeys(self.question.shapes, each)

    def sheets_for(self, left: Mapping[str, int]) -> float:
        """About how many sheets copies take."""
        area = sum(self.grown[key].area * max(0, count) for key, count in left.items())
        return area / (self.sheet_mm2 * USUAL_SHARE)

    def one_sheet(
        self, left: Mapping[str, int], fixed: list[Nested], seconds: float, sheet: int
    ) -> list[Laid]:
        """Pieces for one sheet out of those that are left."""
        standing = [Laid(f.key, f.turn_deg, f.x_mm, f.y_mm) for f in fixed]
        if fixed:
            return self._round(standing, left, seconds, sheet)
        laid: list[Laid] = []
        if seconds >= LEAST_SECONDS and not self.stopping():
            laid = self._by_strips(left, seconds, sheet)
        rest = {k: left[k] - sum(p.key == k for p in laid) for k in left}
        by_size = sorted(rest, key=lambda key: -self.question.shapes[key].area)
        queue = [key for key in by_size for _ in range(max(0, rest[key]))]
        return laid + fill_pockets(self._pockets(laid), queue, self.stopping)

    def _pockets(self, standing: list[Laid]) -> Pockets:
        question = self.question
        pockets = Pockets(question.area, question.shapes, question.gap_mm, question.turns)
        pockets.occupy([turned(question.shapes[p.key], p) for p in standing])
        return pockets

    def _round(self, standing: list[Laid], left: Mapping[str, int], seconds: float, sheet: int) -> list[Laid]:
        """Pieces round those that keep their place: one after the other where there is room, in one order after
        the other until the time is up."""
        rng = np.random.default_rng(self.question.seed + sheet)
        queue = [
            key for key in sorted(left, key=lambda k: -self.grown[k].area) for _ in range(max(0, left[key]))
        ]
        bare = self._pockets(standing)
        end = time.monotonic() + seconds
        best: list[Laid] = []
        while not best or (time.monotonic() < end and not self.stopping()):
            left_s = max(0.0, self.end - time.monotonic())
            self.said(f"Nesting, {left_s:.0f} of {self.question.seconds} s left")
            found = fill_pockets(bare.copy(), queue, self.stopping)
            if self._area(found) > self._area(best) or not best:
                best = found
            if not queue:
                break
            queue = [queue[n] for n in rng.permutation(len(queue))]
        return best

    def _area(self, laid: list[Laid]) -> float:
        return sum(self.grown[piece.key].area for piece in laid)

    def _by_strips(self, left: Mapping[str, int], seconds: float, sheet: int) -> list[Laid]:
        """Two searches at a time: along and across the sheet, then twice the better way with a better guess
        of how many pieces it takes."""
        question = self.question
        ways = [_Way(question.area, question.gap_mm, across) for across in (False, True)]
        ways = [way for way in ways if way.possible] or []
        if not ways:
            return []
        first = max(LEAST_SECONDS, round(seconds * 0.3))
        second = int(seconds - first + 0.5)
        guess = USUAL_SHARE * self.sheet_mm2
        tried = self._both([(way, guess) for way in ways], left, first, sheet)
        best = max(tried, key=lambda each: each.area_mm2)
        if second >= LEAST_SECONDS and not self.stopping():
            fit = max(tried, key=lambda each: each.promise_mm2)
            mean = best.mean_mm2
            more = [(fit.way, fit.promise_mm2 + mean * extra) for extra in (-0.6, 0.4)]
            tried = self._both(more, left, second, sheet + 7)
            best = max([best, *tried], key=lambda each: each.area_mm2)
        return best.laid

    def _both(
        self, asked: list[tuple["_Way", float]], left: Mapping[str, int], seconds: int, seed: int
    ) -> list["_Found"]:
        question = self.question
        with ThreadPoolExecutor(len(asked)) as threads:
            jobs = [
                threads.submit(self._one_strip, way, area, left, seconds, seed + n)
                for n, (way, area) in enumerate(asked)
            ]
            while not all(job.done() for job in jobs):
                left_s = max(0.0, self.end - time.monotonic())
                self.said(f"Nesting, {left_s:.0f} of {question.seconds} s left")
                time.sleep(0.1)
        return [job.result() for job in jobs]

    def _one_strip(
        self, way: "_Way", area_mm2: float, left: Mapping[str, int], seconds: int, seed: int
    ) -> "_Found":
        demand = self._some(left, area_mm2)
        shapes = {key: way.turned(shape) for key, shape in self.grown.items()}
        strip = search_strip(
            shapes,
            demand,
            way.height_mm,
            way.corners,
            self.question.turns,
            seconds,
            self.question.seed + seed,
            self.stopping,
        )
        asked = sum(self.grown[key].area * count for key, count in demand.items())
        mean = asked / max(1, sum(demand.values()))
        if strip is None:
            return _Found(way, [], 0.0, 0.0, mean)
        exact = {key: way.turned(shape) for key, shape in self.question.shapes.items()}
        laid = keep_clear(
            self.question.area, self.question.shapes, way.fitted(strip, exact), self.question.gap_mm
        )
        kept = sum(self.grown[piece.key].area for piece in laid)
        return _Found(way, laid, kept, asked * way.length_mm / max(strip.length_mm, 1.0), mean)

    def _some(self, left: Mapping[str, int], area_mm2: float) -> dict[str, int]:
        """Out of what is left, in proportion, pieces of so much area in all; every design that is left is in."""
        total = sum(self.grown[key].area * max(0, count) for key, count in left.items())
        share = min(1.0, area_mm2 / max(total, 1e-9))
        exact = {key: max(0, count) * share for key, count in left.items()}
        some = {key: int(count) for key, count in exact.items()}
        room = area_mm2 - sum(self.grown[key].area * count for key, count in some.items())
        for key in sorted(exact, key=lambda k: (some[k] - exact[k], k)):
            if some[key] < left[key] and room > 0:
                some[key] += 1
                room -= self.grown[key].area
        return {key: count for key, count in some.items() if count > 0}


@dataclass(frozen=True)
class _Found:
    """What one strip brought: pieces on the sheet, their area, and the area that would have fitted at its
    density."""

    way: "_Way"
    laid: list[Laid]
    area_mm2: float
    promise_mm2: float
    mean_mm2: float


class _Way:
    """The sheet as a strip, along it or across: for the latter the world is turned a quarter clockwise, so
    that (x, y) becomes (bottom - y, x - left)."""

    def __init__(self, area: UsableArea, gap_mm: float, across: bool) -> None:
        self.across, self.half = across, gap_mm / 2
        self.left, self.top, self.right, self.bottom = _room(area)
        width, height = self.right - self.left, self.bottom - self.top
        notches = _corner_notches(area, (self.left, self.top, self.right, self.bottom))
        if across:
            width, height = height, width
            quarter = {"tl": "bl", "tr": "tl", "bl": "br", "br": "tr"}
            notches = {corner: notches[was][::-1] for corner, was in quarter.items()}
        # Pieces come with half a gap, so the sheet grows by as much; a mark's corner shrinks by less, for
        # a grown piece meets a corner before its straight sides.
        self.length_mm, self.height_mm = width + gap_mm, height + gap_mm
        slack = self.half - self.half * (1 - 0.5**0.5)
        self.corners = Corners(
            *(
                (w + self.half - slack, h + self.half - slack) if w > 0 and h > 0 else (0.0, 0.0)
                for w, h in (notches[corner] for corner in ("tl", "tr", "bl", "br"))
            )
        )

    @property
    def possible(self) -> bool:
        """Whether there is any room."""
        return self.length_mm > 1 and self.height_mm > 1

    def turned(self, shape: shapely.Polygon) -> shapely.Polygon:
        """A shape in the strip's world."""
        return shapely.transform(shape, lambda xy: xy[:, ::-1] * (-1, 1)) if self.across else shape

    def fitted(self, strip: Strip, shapes: Mapping[str, shapely.Polygon]) -> list[Laid]:
        """The pieces of a strip that the sheet's length takes, on the sheet. Those that lie where the two parts
        of the strip meet are left out, as few of them as will do; the parts move into each other's hollows.

        Args:
            shapes: without their gaps, in the strip's world.
        """
        first = _Part([(p, turned(shapes[p.key], p)) for p in strip.from_left], self.half)
        second = _Part([(p, turned(shapes[p.key], p)) for p in strip.to_right], self.half)
        ends, kept_first = first.ends()
        begins, kept_second = second.begins()
        kept = kept_first[:, None] + kept_second[None, :]
        over = ends[:, None] - begins[None, :] - self.length_mm
        tried = np.argwhere(over < HOLLOW_MM)
        for n in np.argsort(-kept[over < HOLLOW_MM], kind="stable")[:MOST_CUTS]:
            i, j = tried[n]
            left, right = first.up_to(ends[i]), second.moved(begins[j], self.length_mm)
            if over[i, j] <= HAIR_MM or _apart(left, right, 2 * self.half):
                return [self._on_sheet(p) for p, _ in (*left, *right)]
        return []

    def _on_sheet(self, piece: Laid) -> Laid:
        x, y = piece.x_mm - self.half, piece.y_mm - self.half
        if self.across:
            return Laid(piece.key, piece.turn_deg % 360, self.left + y, self.bottom - x)
        return Laid(piece.key, piece.turn_deg % 360, self.left + x, self.top + y)


class _Part:
    """Pieces on one side of the place where a strip was cut."""

    def __init__(self, pieces: list[tuple[Laid, shapely.Polygon]], half_mm: float) -> None:
        self.pieces, self.half = pieces, half_mm
        bounds = shapely.bounds([shape for _, shape in pieces]).reshape(-1, 4)
        self.begin, self.end = bounds[:, 0] - half_mm, bounds[:, 2] + half_mm
        self.areas = shapely.area([shape for _, shape in pieces])

    def ends(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """(n + 1,) lengths at which the part may be cut, and the area that is then left of it."""
        order = np.argsort(self.end)
        return np.append(0.0, self.end[order]), np.append(0.0, np.cumsum(self.areas[order]))

    def begins(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """The same of a part that lies before x = 0."""
        order = np.argsort(-self.begin)
        return np.append(0.0, self.begin[order]), np.append(0.0, np.cumsum(self.areas[order]))

    def up_to(self, end: float) -> list[tuple[Laid, shapely.Polygon]]:
        """The pieces that end by then."""
        return [piece for piece, at in zip(self.pieces, self.end, strict=True) if at <= end]

    def moved(self, begin: float, by_mm: float) -> list[tuple[Laid, shapely.Polygon]]:
        """The pieces that begin from there on, moved along."""
        return [
            (replace(laid, x_mm=laid.x_mm + by_mm), shapely.transform(shape, lambda xy: xy + (by_mm, 0)))
            for (laid, shape), at in zip(self.pieces, self.begin, strict=True)
            if at >= begin
        ]


def _apart(
    left: list[tuple[Laid, shapely.Polygon]], right: list[tuple[Laid, shapely.Polygon]], gap_mm: float
) -> bool:
    if not left or not right:
        return True
    a, b = (np.array([shape for _, shape in part]) for part in (left, right))
    return bool(shapely.distance(a[:, None], b[None, :]).min() > gap_mm)


def _room(area: UsableArea) -> tuple[float, float, float, float]:
    """The box whose marks, if any, stand in its corners: left, top, right, bottom."""
    corners = [n for n in area.notches if _is_corner(area, n)]
    if len(corners) == len(area.notches):
        return area.left_mm, area.top_mm, area.right_mm, area.bottom_mm
    left, right = area.span_at(area.top_mm, area.bottom_mm)
    top, bottom = clear_band(area)
    beside = (left, area.top_mm, right, area.bottom_mm)
    between = (area.left_mm, top, area.right_mm, bottom)
    return max(beside, between, key=lambda box: max(0.0, box[2] - box[0]) * max(0.0, box[3] - box[1]))


def _is_corner(area: UsableArea, notch: tuple[float, float, float, float]) -> bool:
    left, top, right, bottom = notch
    sideways = left <= area.left_mm or right >= area.right_mm
    return sideways and (top <= area.top_mm or bottom >= area.bottom_mm)


def _corner_notches(
    area: UsableArea, box: tuple[float, float, float, float]
) -> dict[str, tuple[float, float]]:
    """Width and height that marks take of each corner of a box."""
    left, top, right, bottom = box
    taken = dict.fromkeys(("tl", "tr", "bl", "br"), (0.0, 0.0))
    for notch in area.notches:
        if not _is_corner(area, notch):
            continue
        at_left, at_top = notch[0] <= area.left_mm, notch[1] <= area.top_mm
        width = notch[2] - left if at_left else right - notch[0]
        height = notch[3] - top if at_top else bottom - notch[1]
        if width > 0 and height > 0:
            taken[("t" if at_top else "b") + ("l" if at_left else "r")] = (width, height)
    return taken


def _simple(shape: shapely.Polygon, half_gap_mm: float) -> shapely.Polygon:
    """A shape grown by half the gap, with few nodes, never smaller than it should be."""
    grown = shapely.buffer(shape, half_gap_mm + SIMPLIFY_MM, quad_segs=8)
    simple = shapely.simplify(grown, SIMPLIFY_MM)
    return shapely.Polygon(np.asarray(simple.exterior.coords))
