"""Several sizes on shared sheets: rows ("shelves") filled from the tallest down."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from perisect.core.sheet.grid import EPSILON_MM
from perisect.core.sheet.usable import UsableArea


@dataclass(frozen=True)
class Item:
    """One sticker's box before turning; `key` says whose."""

    key: str
    width_mm: float
    height_mm: float


@dataclass(frozen=True)
class Cell:
    """An item's place: top left corner of its box as it cells, on sheet number `sheet` from 0."""

    key: str
    sheet: int
    x_mm: float
    y_mm: float
    turned: bool


@dataclass
class _Shelf:
    top: float
    bottom: float
    cursor: float
    right: float


def pack(
    area: UsableArea, items: list[Item], gap_mm: float, max_sheets: int
) -> tuple[list[Cell], list[Item]]:
    """Items by falling height, each on the first shelf with room, else a new one, else a new sheet.

    Returns the places, and the items for which `max_sheets` had no room. Both ways of standing the
    items (all upright, or each with its longer side across) are tried by `best_pack`.
    """
    sheets: list[list[_Shelf]] = []
    cells: list[Cell] = []
    left_over: list[Item] = []
    # Where one found no room its equals find none: they go on from where it was put, or are left over with it.
    size, place = (0.0, 0.0), None
    for item in sorted(items, key=lambda i: (-i.height_mm, -i.width_mm, i.key)):
        equal = size == (item.width_mm, item.height_mm)
        if not equal or place is not None:
            place = _find(area, sheets, item, gap_mm, max_sheets, place[0] if equal and place else 0)
        size = item.width_mm, item.height_mm
        if place is None:
            left_over.append(item)
        else:
            cells.append(Cell(item.key, *place, turned=False))
    return cells, left_over


def best_pack(
    area: UsableArea, items: list[Item], gap_mm: float, max_sheets: int
) -> tuple[list[Cell], list[Item]]:
    """The better of two orientations: fewest left over, then fewest sheets, then upright."""
    upright, upright_left = pack(area, items, gap_mm, max_sheets)
    lying = [Item(i.key, max(i.width_mm, i.height_mm), min(i.width_mm, i.height_mm)) for i in items]
    flat, flat_left = pack(area, lying, gap_mm, max_sheets)

    def cost(cells: list[Cell], left: list[Item]) -> tuple[int, int]:
        return len(left), max((s.sheet for s in cells), default=0)

    if cost(flat, flat_left) < cost(upright, upright_left):
        tall = {i.key for i in items if i.height_mm > i.width_mm}
        by_key = {i.key: i for i in items}
        turned = [Cell(s.key, s.sheet, s.x_mm, s.y_mm, s.key in tall) for s in flat]
        return turned, [by_key[i.key] for i in flat_left]
    return upright, upright_left


def fill_equally(
    area: UsableArea, kinds: Sequence[Item], gap_mm: float, max_sheets: int
) -> tuple[list[Cell], dict[str, int]]:
    """One of each kind on as few sheets as that takes, then the largest equal number of each that these hold, and on a
    single sheet one more of each in turn while there is room; of each kind that has no room at all, how many are
    missing."""
    best, left = best_pack(area, list(kinds), gap_mm, max_sheets)
    missing = Counter(item.key for item in left)
    placed = [kind for kind in kinds if not missing[kind.key]]
    sheets = max((cell.sheet for cell in best), default=0) + 1

    def attempt(wanted: Mapping[str, int]) -> list[Cell] | None:
        items = [kind for kind in placed for _ in range(wanted[kind.key])]
        cells, left = best_pack(area, items, gap_mm, sheets)
        return None if left else cells

    boxes = sum(kind.width_mm * kind.height_mm for kind in placed)
    # One more of each than their boxes' area lets these sheets hold.
    low, high = 1, int(sheets * area.polygon.area / boxes) + 1 if placed else 2
    while placed and low < high - 1:
        each = (low + high) // 2
        tried = attempt({kind.key: each for kind in placed})
        if tried is None:
            high = each
        else:
            low, best = each, tried
    counts = {kind.key: low for kind in placed}
    open_keys = list(counts) if sheets == 1 else []
    while open_keys:
        for key in list(open_keys):
            tried = attempt({**counts, key: counts[key] + 1})
            if tried is None:
                open_keys.remove(key)
            else:
                counts[key] += 1
                best = tried
    return best, dict(missing)


def _find(
    area: UsableArea, sheets: list[list[_Shelf]], item: Item, gap: float, max_sheets: int, first: int
) -> tuple[int, float, float] | None:
    for number in range(first, min(len(sheets) + 1, max_sheets)):
        if number == len(sheets):
            sheets.append([])
        for shelf in sheets[number]:
            fits = shelf.bottom - shelf.top + EPSILON_MM >= item.height_mm
            if fits and shelf.cursor + item.width_mm <= shelf.right + EPSILON_MM:
                x, shelf.cursor = shelf.cursor, shelf.cursor + item.width_mm + gap
                return number, x, shelf.top
        top = sheets[number][-1].bottom + gap if sheets[number] else area.top_mm
        opened = _open(area, top, item)
        if opened is not None:
            x, opened.cursor = opened.cursor, opened.cursor + item.width_mm + gap
            sheets[number].append(opened)
            return number, x, opened.top
        if not sheets[number]:
            sheets.pop()
            return None
    return None


def _open(area: UsableArea, top: float, item: Item) -> _Shelf | None:
    """A new shelf at or below `top`, moved below the upper marks when the item is too wide between them."""
    for start in sorted({top, *(notch[3] for notch in area.notches if notch[3] > top)}):
        bottom = start + item.height_mm
        if bottom > area.bottom_mm + EPSILON_MM:
            return None
        left, right = area.span_at(start, bottom)
        if left + item.width_mm <= right + EPSILON_MM:
            return _Shelf(start, bottom, left, right)
    return None
