"""How large film is cut to laminate a sheet: clear of the marks, for shine blinds the sensor, and smaller than it."""

from collections.abc import Sequence

import numpy as np

from perisect.core.sheet.usable import UsableArea

FilmMm = tuple[float, float]
INSIDE_MM = 2.0
"""Film that reaches past a sheet sticks to the rollers."""


def film_box(area: UsableArea) -> tuple[float, float, float, float] | None:
    """Left, top, right, bottom of the largest film that leaves every mark and its clear zone bare, sheet mm; None where
    none does.

    It lies between the marks' columns, or between their rows: whichever is larger.
    """
    stock = area.stock
    middle_x, middle_y = stock.width_mm / 2, stock.height_mm / 2
    columns = [INSIDE_MM, INSIDE_MM, stock.width_mm - INSIDE_MM, stock.height_mm - INSIDE_MM]
    rows = list(columns)
    for left, top, right, bottom in area.notches:
        if (left + right) / 2 < middle_x:
            columns[0] = max(columns[0], right)
        else:
            columns[2] = min(columns[2], left)
        if (top + bottom) / 2 < middle_y:
            rows[1] = max(rows[1], bottom)
        else:
            rows[3] = min(rows[3], top)
    best = max((columns, rows), key=_area)
    return (best[0], best[1], best[2], best[3]) if _area(best) > 0 else None


def film_size(area: UsableArea) -> FilmMm | None:
    """Width and length of that film, mm."""
    box = film_box(area)
    return None if box is None else (box[2] - box[0], box[3] - box[1])


def outside_film(area: UsableArea, boxes: Sequence[tuple[float, float, float, float]]) -> int:
    """How many of the boxes, left, top, right, bottom in sheet mm, reach out of that film; none where there is none."""
    film = film_box(area)
    if film is None or not boxes:
        return 0
    low, high = np.array(film[:2]), np.array(film[2:])
    sides = np.asarray(boxes)
    return int(((sides[:, :2] < low).any(axis=1) | (sides[:, 2:] > high).any(axis=1)).sum())


def _area(box: list[float]) -> float:
    width, height = box[2] - box[0], box[3] - box[1]
    return width * height if min(width, height) > 0 else -1.0
