"""Fill sheets: how many, where each stands, how much of the sheet is used."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from perisect.core.sheet.grid import best_grid
from perisect.core.sheet.placement import Placement
from perisect.core.sheet.shelves import Cell, Item, best_pack, fill_equally
from perisect.core.sheet.usable import UsableArea

MAX_SHEETS = 60


@dataclass(frozen=True)
class Footprint:
    """What one copy of a design takes of a sheet, mm, in the design's own coordinates.

    `left_mm` … `bottom_mm` bound the outermost line; the outline's box starts at (0, 0) and is
    `width_mm` by `height_mm`. `area_mm2` is the area inside the outermost line.
    """

    key: str
    width_mm: float
    height_mm: float
    left_mm: float
    top_mm: float
    right_mm: float
    bottom_mm: float
    area_mm2: float
    copies: int
    shape: shapely.Polygon | None = None
    """What it takes, without holes; None for its whole box."""

    @property
    def outline(self) -> shapely.Polygon:
        """What one copy takes."""
        if self.shape is not None:
            return self.shape
        return shapely.box(self.left_mm, self.top_mm, self.right_mm, self.bottom_mm)


@dataclass(frozen=True)
class SheetPlan:
    """Sheets in order, each a tuple of placements; how many of each design stand nowhere."""

    sheets: tuple[tuple[Placement, ...], ...]
    missing: dict[str, int]
    used_share: float
    """Share of the area of all sheets that lies inside the outermost lines."""

    @property
    def count(self) -> int:
        """Stickers on all sheets."""
        return sum(len(sheet) for sheet in self.sheets)

    @property
    def cost(self) -> tuple[float, ...]:
        """What the better of two has less of: missing pieces first, then sheets, then what is left of them."""
        return sum(self.missing.values()), len(self.sheets) or 99, -round(self.used_share, 6)


def fill_sheets(area: UsableArea, footprints: list[Footprint], gap_mm: float, fill: bool) -> SheetPlan:
    """Place designs by number, or fill a sheet with them, or as many sheets as one of each takes.

    One design stands in rows and columns in the better of two orientations, several on shelves.
    Filling with several takes the largest equal number of each that fits, then on one sheet one more of
    each in turn while there is room. `copies` is not used when filling.
    """
    if not footprints:
        return SheetPlan((), {}, 0.0)
    kinds = [Item(f.key, f.right_mm - f.left_mm, f.bottom_mm - f.top_mm) for f in footprints]
    if len(footprints) == 1:
        cells, missing = _one_design(area, footprints[0], gap_mm, fill)
    elif fill:
        cells, missing = fill_equally(area, kinds, gap_mm, MAX_SHEETS)
    else:
        items = [kind for kind, f in zip(kinds, footprints, strict=True) for _ in range(f.copies)]
        cells, left = best_pack(area, items, gap_mm, MAX_SHEETS)
        missing = dict(Counter(item.key for item in left))
    by_key = {f.key: f for f in footprints}
    standing = [_placement(by_key[cell.key], cell) for cell in cells]
    return sheet_plan(area, footprints, standing, missing)


def sheet_plan(
    area: UsableArea,
    footprints: Sequence[Footprint],
    standing: Sequence[Placement],
    missing: dict[str, int],
) -> SheetPlan:
    """The plan of what stands on which sheet; empty sheets at the end are left off."""
    sheets: list[list[Placement]] = [
        [] for _ in range(max((placement.sheet for placement in standing), default=-1) + 1)
    ]
    for placement in standing:
        sheets[placement.sheet].append(placement)
    areas = {f.key: f.area_mm2 for f in footprints}
    used = sum(areas[placement.key] for placement in standing)
    share = used / (len(sheets) * area.stock.area_mm2) if sheets else 0.0
    return SheetPlan(tuple(tuple(sheet) for sheet in sheets), missing, share)


def _one_design(
    area: UsableArea, footprint: Footprint, gap: float, fill: bool
) -> tuple[list[Cell], dict[str, int]]:
    grid = best_grid(
        area, footprint.right_mm - footprint.left_mm, footprint.bottom_mm - footprint.top_mm, gap
    )
    if grid.count == 0:
        return [], {footprint.key: 1 if fill else footprint.copies}
    wanted = grid.count if fill else footprint.copies
    placed = min(wanted, grid.count * MAX_SHEETS)
    cells = [
        Cell(footprint.key, n // grid.count, x, y, grid.turned)
        for n in range(placed)
        for x, y in [grid.corners_mm[n % grid.count].tolist()]
    ]
    return cells, {footprint.key: wanted - placed} if wanted > placed else {}


def _placement(footprint: Footprint, cell: Cell) -> Placement:
    """The outline's box for a footprint that stands with its top left corner at the cell's."""
    width, height = footprint.width_mm, footprint.height_mm
    if not cell.turned:
        x, y, turn = cell.x_mm - footprint.left_mm, cell.y_mm - footprint.top_mm, 0.0
    else:
        # A quarter turn clockwise about the box's centre takes (u, v) from it to (-v, u).
        centre_x = cell.x_mm + (footprint.bottom_mm - height / 2)
        centre_y = cell.y_mm - (footprint.left_mm - width / 2)
        x, y, turn = centre_x - width / 2, centre_y - height / 2, 90.0
    return Placement(footprint.key, x, y, width, height, turn, sheet=cell.sheet)
