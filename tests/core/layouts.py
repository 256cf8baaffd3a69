"""Random jobs, and what their exported cut files say: every pair measured, with nothing of the planner's own."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import shapely
from shapely import affinity

from perisect.core.artwork import Background, Judged, PictureFacts, Verdict
from perisect.core.formats.svg import write_svg
from perisect.core.job import DesignRecipe, JobPlan, JobRecipe, TracedArtwork, plan_job
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.lines import Outline
from perisect.core.sheet.nest import nest
from tests.core.reading import read_svg
from tests.core.shapes import disc, gear, star

PX_PER_MM = 20.0
FIT_MM = 0.03
"""What the fit of two lines may take of a gap."""

FORMS = (
    star(25, 11),
    disc(18),
    gear(10, 20, 16),
    shapely.box(0, 0, 50, 18).union(shapely.box(0, 0, 18, 50)),
    shapely.Polygon([(0, 0), (44, 0), (12, 30)]),
)

LOCKED = {"design": "d0", "x_mm": 100, "y_mm": 140, "rotation_deg": 40, "locked": True}
METHODS: dict[str, dict[str, object]] = {
    "rows": {"method": "rows"},
    "half turn": {"method": "rows", "rows": "half_turn"},
    "half step": {"method": "rows", "rows": "half_step"},
    "shelves": {"method": "rows"},
    "nest": {"method": "nest"},
    "locked": {"method": "rows", "placements": [LOCKED]},
}


def traced(form: shapely.Polygon) -> TracedArtwork:
    """A form as artwork."""
    left, top, right, bottom = form.bounds
    shape = affinity.scale(affinity.translate(form, 1 - left, 1 - top), PX_PER_MM, PX_PER_MM, origin=(0, 0))
    size = (int((right - left + 2) * PX_PER_MM), int((bottom - top + 2) * PX_PER_MM))
    facts = PictureFacts(*size, Background.CLEAR, 0.1)
    return TracedArtwork(facts, Outline(shapely.multipolygons([shape]), 0), Judged(Verdict.CLEAR, "", 1.0))


def random_plan(method: str, seed: int, seconds: int = 0) -> JobPlan:
    """One piece, or three on shelves and in nests, of random forms, sizes, gaps and stocks."""
    rng = np.random.default_rng(seed)
    count = 3 if method in ("shelves", "nest") else 1
    forms = [FORMS[n] for n in rng.integers(0, len(FORMS), count)]
    artworks = {f"{n:064x}": traced(form) for n, form in enumerate(forms)}
    designs = tuple(
        DesignRecipe(
            id=f"d{n}",
            name=f"Piece {n}",
            artwork=f"{n:064x}",
            longest_mm=float(rng.uniform(28, 62)),
            border_mm=float(rng.choice([0.0, 1.0, 2.5])),
            copies=int(rng.integers(1, 12)),
        )
        for n in range(count)
    )
    sheet = {
        "stock": "a4" if seed % 2 else "letter",
        "gap_mm": float(rng.choice([0.5, 2.0, 4.0])),
        "fill": method not in ("shelves", "nest"),
        "turns": "free" if seed % 3 else "half",
        "seed": seed,
    }
    recipe = JobRecipe.model_validate({"designs": designs, "sheet": sheet | METHODS[method]})
    return plan_job(recipe, artworks, nested=lambda question: nest(replace(question, seconds=seconds)))


def outer_lines(svg: str) -> np.ndarray:
    """(n,) pieces of a cut file: its kiss lines, without those inside another."""
    shapes = np.array([shapely.Polygon(ring) for ring in read_svg(svg)["kiss"]])
    inside, around = shapely.STRtree(shapes).query(shapes, predicate="within")
    return np.delete(shapes, np.unique(inside[inside != around]))


def wrong_pieces(plan: JobPlan, told: Callable[[str], None] = lambda _: None) -> tuple[int, int]:
    """How many pieces of a plan's exported files leave the printable and held area, touch a mark or come nearer to
    another than their gap; and how many there are."""
    wrong = count = 0
    stock, gap = plan.area.stock, plan.recipe.sheet.gap_mm
    # Margins and grip of the desk machines, by hand: 6 mm at the sides and above, 9 below.
    held = shapely.box(6, 6, stock.width_mm - 6, stock.height_mm - 9).buffer(FIT_MM)
    # Marks as the desk plotter has them: 11 mm from the sides, 12 from above, 15 from the foot, 5.5 round each bare.
    places = [(x, y) for x in (11, stock.width_mm - 11) for y in (12, stock.height_mm - 15)]
    centres = shapely.multipoints(places)
    for number in range(len(plan.sheets.sheets)):
        shapes = outer_lines(write_svg(cut_sheet(plan, number)))
        if len(shapes) != len(plan.sheets.sheets[number]):
            told(f"sheet {number} has {len(shapes)} pieces")
            wrong += 1
        one, other = shapely.STRtree(shapes).query(shapes, predicate="dwithin", distance=gap - FIT_MM)
        bad = ~shapely.covers(held, shapes) | (shapely.distance(shapes, centres) < 5.5 - FIT_MM)
        bad[one[one != other]] = True
        wrong, count = wrong + int(bad.sum()), count + len(shapes)
    return wrong, count
