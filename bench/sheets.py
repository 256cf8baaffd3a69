"""Layouts: how full, how fast, and whether anything ever leaves its place."""

import time
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path

import numpy as np
import shapely
from tests.core import layouts

from bench.figure import Figure, seconds
from bench.strips import shortest_strip
from perisect import sandbox
from perisect.core.artwork import decode
from perisect.core.job import trace_artwork
from perisect.core.lines import cut_lines
from perisect.core.sheet import A4, Footprint, fill_sheets, usable_area
from perisect.core.sheet.footprints import one_shape
from perisect.core.sheet.grid import best_grid
from perisect.core.sheet.nest import NestQuestion, nest
from perisect.core.sheet.placement import Placement, placed, pose
from perisect.core.sheet.shelves import Item, best_pack

DEMO = Path("src/perisect/demo/artwork")
GAP_MM = 2.0
AREA = usable_area(A4)
SECONDS = 8


@cache
def demo_shapes() -> dict[str, shapely.Polygon]:
    """What demo pieces take at 60 mm with a border of 2."""
    found = {}
    for name in ("heron", "lantern", "rope-knot", "paddle-boat", "honey-jar"):
        traced, _ = trace_artwork(decode((DEMO / f"{name}.png").read_bytes()), longest_mm=60.0)
        taken = cut_lines(traced.outline, 60.0, 2.0, None).taken
        found[name] = one_shape(shapely.polygons(shapely.get_exterior_ring(shapely.get_parts(taken))))
    return found


def sets() -> dict[str, dict[str, shapely.Polygon]]:
    """Eight sets of irregular pieces."""
    demo = demo_shapes()
    turn = np.arange(10) * np.pi / 5
    star = shapely.Polygon(np.where(np.arange(10) % 2, 11, 27)[:, None] * np.c_[np.cos(turn), np.sin(turn)])
    ell = shapely.box(0, 0, 60, 20).union(shapely.box(0, 0, 20, 60))
    single = {name: {name: shape} for name, shape in demo.items()}
    return single | {"ell": {"ell": ell}, "star": {"star": star}, "mixed": demo}


def footprint(key: str, shape: shapely.Polygon, copies: int = 1) -> Footprint:
    """A piece without anything round it."""
    left, top, right, bottom = shape.bounds
    return Footprint(key, right - left, bottom - top, left, top, right, bottom, shape.area, copies, shape)


def random_sets() -> dict[str, dict[str, shapely.Polygon]]:
    """Twenty sets of one to four pieces: stars, combs, crescents and blobs of any proportion, 20 to 80 mm."""
    return {f"random {seed}": _random_set(np.random.default_rng(seed)) for seed in range(20)}


def _random_set(rng: np.random.Generator) -> dict[str, shapely.Polygon]:
    turn = np.sort(rng.uniform(0, 2 * np.pi, (4, 40)))
    round_ = np.arange(40) * np.pi / 20
    kinds = {
        "star": np.where(np.arange(40) % 8 < 4, 1.0, rng.uniform(0.35, 0.7))[:, None]
        * np.c_[np.cos(round_), np.sin(round_)],
        "blob": rng.uniform(0.5, 1, 40)[:, None] * np.c_[np.cos(turn[1]), np.sin(turn[1])],
    }
    shapes = {name: shapely.Polygon(points).buffer(0) for name, points in kinds.items()}
    shapes["crescent"] = (
        shapely.Point(0, 0)
        .buffer(1)
        .difference(shapely.Point(rng.uniform(0.3, 0.9), 0).buffer(rng.uniform(0.6, 0.95)))
    )
    teeth = [shapely.box(n / 3, 0, n / 3 + 0.17, rng.uniform(0.4, 1)) for n in range(4)]
    shapes["comb"] = shapely.union_all([shapely.box(0, 0, 1.17, 0.2), *teeth])
    found = {}
    for name in rng.permutation(list(shapes))[: rng.integers(1, 5)].tolist():
        piece = max(shapely.get_parts(shapes[name]), key=lambda part: part.area)
        left, top, right, bottom = piece.bounds
        size = rng.uniform(20, 80) / max(right - left, bottom - top) * np.array([1, rng.uniform(0.5, 1)])
        found[name] = shapely.transform(piece, lambda xy, size=size: xy * size)
    return found


def nests_of_random_sets() -> Iterator[Figure]:
    """As below, of twenty sets that nobody chose."""
    yield from _beside_the_raw_packer(random_sets())


def nests_beside_the_raw_packer() -> Iterator[Figure]:
    """Used share of one A4 sheet, as ours minus the marks' share has to reach: the strip packer is given the same
    time and knows of no marks. And sheets for a hundred of each set."""
    yield from _beside_the_raw_packer(sets())


def _nested(question: NestQuestion) -> Sequence[Placement]:
    """Nest as the application does: two processes, and a clock that ends a search on a slow machine."""
    return nest(question, together=sandbox.beside, clock=time.monotonic).placements


def _beside_the_raw_packer(chosen: dict[str, dict[str, shapely.Polygon]]) -> Iterator[Figure]:
    marks = 1 - AREA.polygon.area / ((AREA.right_mm - AREA.left_mm) * (AREA.bottom_mm - AREA.top_mm))
    for name, shapes in chosen.items():
        asked = NestQuestion(AREA, shapes, None, GAP_MM, "quarter", SECONDS, 1, 1)
        ours = _share(shapes, [piece.key for piece in _nested(asked)])
        raw = _share(shapes, _raw(shapes, SECONDS))
        yield Figure(f"share used, {name}", ours, raw, " ", "raw, no marks", None)
        yield Figure(f"  short of raw less marks, {name}", max(0.0, raw - marks - ours), 1.0, " ", "-", 0.0)
        wanted = dict.fromkeys(shapes, 100 // len(shapes))
        order = NestQuestion(AREA, shapes, wanted, GAP_MM, "quarter", SECONDS, 1, 60)
        sheets = max(piece.sheet for piece in _nested(order)) + 1
        per_sheet = Counter(_raw(shapes, SECONDS))
        needed = -(-100 // max(1, per_sheet.total()))
        yield Figure(f"  sheets for 100, {name}", sheets, needed, " ", "raw, no marks", needed)


def nest_beside_rows() -> Iterator[Figure]:
    """Herons on a sheet against rows and columns."""
    heron = demo_shapes()["heron"]
    left, top, right, bottom = heron.bounds
    rows = best_grid(AREA, right - left, bottom - top, GAP_MM).count
    found = _nested(NestQuestion(AREA, {"h": heron}, None, GAP_MM, "quarter", SECONDS, 1, 1))
    yield Figure("rows per nested heron", rows / len(found), 1.0, " ", f"{len(found)} : {rows}", 0.8)


def _share(shapes: dict[str, shapely.Polygon], keys: list[str]) -> float:
    return sum(shapes[key].area for key in keys) / A4.area_mm2


def _raw(shapes: dict[str, shapely.Polygon], budget: int) -> list[str]:
    """Pieces that raw strips bring into the area: along and across at a time for half the budget, then both again
    with as many pieces as the first ones promised."""
    width, height = AREA.right_mm - AREA.left_mm, AREA.bottom_mm - AREA.top_mm
    grown = {
        key: shapely.buffer(shape, GAP_MM / 2, quad_segs=8).simplify(0.05) for key, shape in shapes.items()
    }
    mean = sum(shape.area for shape in grown.values()) / len(grown)
    ways = [(width + GAP_MM, height + GAP_MM), (height + GAP_MM, width + GAP_MM)]
    each = [max(1, round(0.62 * AREA.polygon.area / mean / len(grown)))] * 2
    best: list[str] = []
    for half in (1, 2):
        asked = [(dict.fromkeys(grown, each[n]), ways[n][1], half + 2 * n) for n in (0, 1)]
        with ThreadPoolExecutor(2) as threads:
            strips = list(
                threads.map(
                    lambda told: shortest_strip(grown, told[0], told[1], "quarter", budget // 2, told[2]),
                    asked,
                )
            )
        for n, strip in enumerate(strips):
            if strip is None:
                continue
            laid = [pose(p.id, p.rotation, *p.translation) for p in strip.placed_items]
            kept = [p.key for p in laid if placed(grown[p.key], p).bounds[2] <= ways[n][0]]
            best = max(best, kept, key=lambda keys: _share(shapes, keys))
            each[n] = max(1, round(each[n] * ways[n][0] / strip.width))
    return best


def plans_in_time() -> Iterator[Figure]:
    """A grid of 500, and a gang of twelve designs with quantities, against the same on shelves."""
    box = footprint("d", shapely.box(0, 0, 40, 30), 500)
    items = [Item("d", 40, 30)] * 500
    ours = seconds(lambda: fill_sheets(AREA, [box], GAP_MM, fill=False))
    base = seconds(lambda: best_pack(AREA, items, GAP_MM, 60))
    yield Figure("grid plan of 500 stickers", ours, base, "s", "shelves      ", 0.05)
    rng = np.random.default_rng(3)
    twelve = [
        footprint(f"d{n}", shapely.box(0, 0, *rng.uniform(20, 70, 2)), int(rng.integers(10, 90)))
        for n in range(12)
    ]
    gang = seconds(lambda: fill_sheets(AREA, twelve, GAP_MM, fill=False), 3)
    alone = seconds(lambda: [fill_sheets(AREA, [each], GAP_MM, fill=False) for each in twelve], 3)
    yield Figure("gang of twelve designs", gang, alone, "s", "each alone   ", 5.0)


def layouts_that_hold() -> Iterator[Figure]:
    """Random layouts by each method: pieces of their exported cut files that leave the area, stand in a mark's
    clear zone or nearer than their gap, by every pair's distance."""
    for method in layouts.METHODS:
        found = [layouts.wrong_pieces(layouts.random_plan(method, seed, 2)) for seed in range(200)]
        wrong, pieces = (sum(counts) for counts in zip(*found, strict=True))
        yield Figure(
            f"wrong pieces in 200 exported layouts, {method}", wrong, pieces, " ", "pieces       ", 0
        )
