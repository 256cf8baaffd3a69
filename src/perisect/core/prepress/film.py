"""How large film is cut to laminate a sheet: clear of the marks, for shine blinds the sensor, and smaller than it."""

from perisect.core.sheet.usable import UsableArea

FilmMm = tuple[float, float]
INSIDE_MM = 2.0
"""Film that reaches past a sheet sticks to the rollers."""


def film_size(area: UsableArea) -> FilmMm | None:
    """Width and length of the largest film that leaves every mark and its clear zone bare, mm; None where none does.

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
    sizes = [(box[2] - box[0], box[3] - box[1]) for box in (columns, rows)]
    best = max(sizes, key=lambda size: size[0] * size[1] if min(size) > 0 else -1.0)
    return best if min(best) > 0 else None
