"""A sheet as a strip: along it or across, the marks in its corners, and a strip's pieces back on the sheet."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.sheet.grid import clear_band
from perisect.core.sheet.nest_strip import Corners, Strip
from perisect.core.sheet.placement import Placement, placed, pose
from perisect.core.sheet.turns import ANGLES, Turns
from perisect.core.sheet.usable import UsableArea

HAIR_MM = 0.02
HOLLOW_MM = 25.0
"""How far the two parts of a strip may move into each other."""
MOST_CUTS = 60


class StripFrame:
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

    def takes(self, shape: shapely.Polygon, turns: Turns) -> bool:
        """Whether a shape in the strip's world fits at all, turned as it may be."""
        laid = [placed(shape, pose("", angle, 0.0, 0.0)).bounds for angle in ANGLES[turns]]
        left, top, right, bottom = np.array(laid).T
        return bool(((right - left <= self.length_mm) & (bottom - top <= self.height_mm)).any())

    def to_strip(self, shape: shapely.Polygon) -> shapely.Polygon:
        """A shape in the strip's world."""
        return shapely.transform(shape, lambda xy: xy[:, ::-1] * (-1, 1)) if self.across else shape

    def fitted(self, strip: Strip, shapes: Mapping[str, shapely.Polygon]) -> list[Placement]:
        """The pieces of a strip that the sheet's length takes, on the sheet. Those that lie where the two parts
        of the strip meet are left out, as few of them as will do; the parts move into each other's hollows.

        Args:
            shapes: without their gaps, in the strip's world.
        """
        first = _Part([(p, placed(shapes[p.key], p)) for p in strip.from_left], self.half)
        second = _Part([(p, placed(shapes[p.key], p)) for p in strip.to_right], self.half)
        ends, kept_first = first.ends()
        begins, kept_second = second.begins()
        kept = kept_first[:, None] + kept_second[None, :]
        over = ends[:, None] - begins[None, :] - self.length_mm
        tried = np.argwhere(over < HOLLOW_MM)
        for n in np.argsort(-kept[over < HOLLOW_MM], kind="stable")[:MOST_CUTS]:
            i, j = tried[n]
            left, right = first.up_to(ends[i]), second.moved(begins[j], self.length_mm)
            # No empty band across the sheet: what is left is in one piece, at its end. The marks at the other end
            # are not come near.
            band = min(-over[i, j], self.length_mm + begins[j] - self.corners.left_mm)
            if band > HAIR_MM:
                right = second.moved(begins[j], self.length_mm - float(band))
            if over[i, j] <= HAIR_MM or _apart(left, right, 2 * self.half):
                return [self._on_sheet(p) for p, _ in (*left, *right)]
        return []

    def shortened(
        self, strip: Strip, shapes: Mapping[str, shapely.Polygon], step_mm: float
    ) -> tuple[list[Placement], float]:
        """The pieces of a strip on a panel that is cut shorter by as many steps as it may be, and by how much: the
        marks at the strip's beginning, and the pieces there, come nearer to its end, but not between the marks there.
        Of a strip that is longer than the panel, what the panel takes.

        Args:
            shapes: without their gaps, in the strip's world.
        """
        first = _Part([(p, placed(shapes[p.key], p)) for p in strip.from_left], self.half)
        second = _Part([(p, placed(shapes[p.key], p)) for p in strip.to_right], self.half)
        right = _moved(second.pieces, self.length_mm)
        end = float(first.end.max(initial=0.0))
        between = self.length_mm + float(second.begin.min(initial=0.0)) - end
        most = min(between + HOLLOW_MM, self.length_mm - self.corners.right_mm - end)
        for steps in range(int(most // step_mm), -1, -1):
            left = _moved(first.pieces, steps * step_mm)
            if steps * step_mm <= between + HAIR_MM or _apart(left, right, 2 * self.half):
                return [self._on_sheet(p) for p, _ in (*left, *right)], steps * step_mm
        return self.fitted(strip, shapes), 0.0

    def _on_sheet(self, piece: Placement) -> Placement:
        x, y = piece.x_mm - self.half, piece.y_mm - self.half
        if self.across:
            return pose(piece.key, piece.rotation_deg % 360, self.left + y, self.bottom - x)
        return pose(piece.key, piece.rotation_deg % 360, self.left + x, self.top + y)


class _Part:
    """Pieces on one side of the place where a strip was cut."""

    def __init__(self, pieces: list[tuple[Placement, shapely.Polygon]], half_mm: float) -> None:
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

    def up_to(self, end: float) -> list[tuple[Placement, shapely.Polygon]]:
        """The pieces that end by then."""
        return [piece for piece, at in zip(self.pieces, self.end, strict=True) if at <= end]

    def moved(self, begin: float, by_mm: float) -> list[tuple[Placement, shapely.Polygon]]:
        """The pieces that begin from there on, moved along."""
        return _moved(
            [piece for piece, at in zip(self.pieces, self.begin, strict=True) if at >= begin], by_mm
        )


def _moved(
    pieces: list[tuple[Placement, shapely.Polygon]], by_mm: float
) -> list[tuple[Placement, shapely.Polygon]]:
    return [
        (replace(laid, x_mm=laid.x_mm + by_mm), shapely.transform(shape, lambda xy: xy + (by_mm, 0)))
        for laid, shape in pieces
    ]


def _apart(
    left: list[tuple[Placement, shapely.Polygon]],
    right: list[tuple[Placement, shapely.Polygon]],
    gap_mm: float,
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
