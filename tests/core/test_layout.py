"""Places set by hand: they are what is cut, they are watched, and locked ones stay when the rest is filled."""

import subprocess
import sys
from dataclasses import replace

import pytest
import shapely

from perisect.core.job import JobPlan, JobRecipe, plan_job
from perisect.core.job.findings import findings_of
from perisect.core.sheet.layout import as_recipes
from perisect.core.sheet.nest import Nest, nest
from tests.core.test_sheet import CLEAR, Background, Outline, PictureFacts, TracedArtwork, planned, rectangle

ARTWORKS = {f"{n:064x}": rectangle(400, 300) for n in range(2)}


def with_sheet(plan: JobPlan, nested=lambda question: None, **sheet: object) -> JobPlan:
    recipe = plan.recipe.model_dump()
    recipe["sheet"] |= sheet
    return plan_job(JobRecipe.model_validate(recipe), ARTWORKS, nested=nested)


def stand(x: float, y: float, turn: float = 0.0, design: str = "d0", **more: object) -> dict:
    return {"design": design, "x_mm": x, "y_mm": y, "rotation_deg": turn, **more}


PAIR = planned((400, 300, 40.0), (400, 300, 40.0), border_mm=1.0, copies=3, fill=False)


def test_a_piece_is_cut_where_it_was_put_and_turned() -> None:
    plan = with_sheet(PAIR, method="hand", placements=[stand(60, 90, 30.0)])
    (placement,) = plan.sheets.sheets[0]
    line = plan.placed_lines(placement)["kiss"]
    assert shapely.centroid(line).coords[0] == pytest.approx((60, 90), abs=0.01)
    # 42 × 32 turned by 30 degrees is 42 cos 30 + 32 sin 30 wide, less what the rounded corners give.
    left, _, right, _ = line.bounds
    assert right - left == pytest.approx(42 * 0.8660 + 32 * 0.5, abs=0.8)
    assert plan.sheets.missing == {"d0": 2, "d1": 3}


def test_nested_places_written_down_are_the_same_places() -> None:
    turned = with_sheet(PAIR, method="hand", placements=[stand(60, 90, 200.0), stand(120, 90, 75.0, "d1")])
    again = with_sheet(
        turned, method="hand", placements=[s.model_dump() for s in as_recipes(turned.sheets.sheets[0])]
    )
    assert again.sheets == turned.sheets


def codes(plan: JobPlan) -> list[tuple[str, str]]:
    return [(f.code, f.severity) for f in findings_of(plan) if f.code in ("outside", "overlap", "close")]


def test_hand_set_pieces_that_meet_come_too_close_or_leave_the_area_are_told() -> None:
    # 42 wide with borders: at 50 they overlap by nothing until the centres are nearer than 42.
    assert codes(with_sheet(PAIR, method="hand", placements=[stand(60, 90), stand(104, 90)])) == []
    assert codes(with_sheet(PAIR, method="hand", placements=[stand(60, 90), stand(103.5, 90)])) == [
        ("close", "look")
    ]
    assert codes(with_sheet(PAIR, method="hand", placements=[stand(60, 90), stand(95, 90)])) == [
        ("overlap", "stop")
    ]
    assert codes(with_sheet(PAIR, method="hand", placements=[stand(20, 90)])) == [("outside", "stop")]
    assert codes(with_sheet(PAIR, method="hand", placements=[stand(28, 24)])) == [
        ("outside", "stop")
    ]  # a mark
    (close,) = [
        f
        for f in findings_of(with_sheet(PAIR, method="hand", placements=[stand(60, 90), stand(103.5, 90)]))
        if f.code == "close"
    ]
    assert close.measured == pytest.approx(1.5, abs=0.02)
    assert close.where_mm == pytest.approx((103.5, 90), abs=0.01)
    assert close.sheet == 0


@pytest.mark.parametrize("fill", [True, False])
def test_rows_give_way_to_what_is_locked(fill: bool) -> None:
    locked = stand(100, 150, 45.0, locked=True)
    plan = with_sheet(PAIR, method="rows", fill=fill, placements=[locked, stand(60, 60)])
    placements = [p for sheet in plan.sheets.sheets for p in sheet]
    assert [p.locked for p in placements].count(True) == 1
    assert codes(plan) == []
    for sheet in plan.sheets.sheets:
        shapes = [plan.placed_lines(p)["kiss"] for p in sheet]
        for n, one in enumerate(shapes):
            assert all(one.distance(other) > 2 - 0.02 for other in shapes[n + 1 :])
    if not fill:
        assert plan.sheets.count == 6
        assert not plan.sheets.missing


def test_rows_stand_until_a_nest_is_searched_and_when_they_hold_more() -> None:
    waiting = with_sheet(PAIR, method="nest")
    assert waiting.layout.waiting
    assert waiting.sheets == with_sheet(PAIR, method="rows").sheets
    assert "nest_waiting" in [f.code for f in findings_of(waiting)]
    poor = with_sheet(PAIR, lambda question: Nest(()), method="nest")
    assert not poor.layout.waiting
    assert poor.sheets.count == 6


def test_what_is_printed_keeps_its_places() -> None:
    found = with_sheet(PAIR, method="nest")
    frozen = found.frozen()
    assert frozen.sheet.method == "hand"
    again = plan_job(frozen, ARTWORKS)
    assert [len(s) for s in again.sheets.sheets] == [len(s) for s in found.sheets.sheets]
    assert PAIR.frozen() == PAIR.recipe


def test_a_piece_that_left_the_job_stands_nowhere() -> None:
    plan = with_sheet(PAIR, method="hand", placements=[stand(60, 90), stand(100, 90, design="gone")])
    assert plan.sheets.count == 1


def on_roll(plan: JobPlan, nested=lambda question: None, **sheet: object) -> JobPlan:
    from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS, EXAMPLE_STOCKS

    roll = next(stock for stock in EXAMPLE_STOCKS if stock.kind == "roll")
    things = {
        "paper": roll.recipe,
        "printer": EXAMPLE_PRINTERS[1].recipe,
        "plotter": EXAMPLE_PLOTTERS[1].recipe,
    }
    return with_sheet(plan, nested, **{name: thing.model_dump() for name, thing in things.items()}, **sheet)


def test_a_nest_on_a_roll_is_printed_on_the_panel_it_was_planned_on() -> None:
    found = on_roll(PAIR, method="nest")
    again = plan_job(found.frozen(), ARTWORKS)
    assert again.area.stock == found.area.stock
    assert again.area.marks == found.area.marks
    assert again.sheets.sheets == found.sheets.sheets


@pytest.mark.parametrize("method", ["rows", "nest", "hand"])
def test_a_panel_is_never_too_short_for_its_own_marks(method: str) -> None:
    """One piece of 22 x 17 mm would do with a panel on which the marks run into each other."""
    small = planned((400, 300, 20.0), (400, 300, 20.0), border_mm=1.0, copies=1, fill=False)
    set_by_hand = [stand(120, 60)] if method == "hand" else []
    found = on_roll(
        small, lambda question: nest(replace(question, seconds=2)), method=method, placements=set_by_hand
    )
    told = {finding.code for finding in findings_of(found)}
    assert found.sheets.count >= 1
    assert not told & {"marks_lost", "marks_close", "outside"}


def test_a_nest_on_a_roll_takes_the_length_that_it_takes() -> None:
    """Six pieces of 42 x 32 stand in one row of a roll of 320 mm: as a nest they need no longer panel than as rows,
    whatever share nests usually have of one."""
    rows = on_roll(PAIR, method="rows")
    assert on_roll(PAIR, method="nest").area.stock == rows.area.stock  # rows stand until it is searched
    found = on_roll(PAIR, nest, method="nest", nest_s=2)
    assert found.sheets.count == 6
    assert found.area.stock.height_mm <= rows.area.stock.height_mm
    assert found.sheets.used_share >= rows.sheets.used_share
    assert codes(found) == []
    again = plan_job(found.frozen(), ARTWORKS)
    assert again.area.stock == found.area.stock
    for one, other in zip(again.sheets.sheets[0], found.sheets.sheets[0], strict=True):
        assert (one.key, one.rotation_deg) == (other.key, other.rotation_deg)
        assert (one.x_mm, one.y_mm) == pytest.approx((other.x_mm, other.y_mm), abs=1e-9)


def test_halves_of_rectangles_take_less_of_a_roll_nested_than_in_rows() -> None:
    """Twelve right-angled triangles: in rows each takes the room of its rectangle, nested two share one."""
    shape = shapely.multipolygons([shapely.Polygon([(3, 303), (403, 303), (3, 3)])])
    facts = PictureFacts(406, 306, Background.CLEAR, 0.1)
    triangles = dict.fromkeys(ARTWORKS, TracedArtwork(facts, Outline(shape, 0), CLEAR))
    recipe = planned((400, 300, 60.0), (400, 300, 40.0), border_mm=1.0, copies=6, fill=False).recipe
    on = on_roll(PAIR, method="nest").recipe.sheet.model_copy(update={"nest_s": 3})
    nested = recipe.model_copy(update={"sheet": on})
    rows = plan_job(nested, triangles, nested=lambda question: None)
    found = plan_job(nested, triangles, nested=nest)
    assert found.sheets.count == rows.sheets.count == 12
    assert found.area.stock.height_mm <= rows.area.stock.height_mm - 25
    assert codes(found) == []
    # The lower marks are where the shorter panel ends, and nothing stands on them.
    pieces = [found.placed_lines(p)["kiss"] for p in found.sheets.sheets[0]]
    assert max(mark.y_mm for mark in found.area.marks) < found.area.stock.height_mm
    assert shapely.covers(shapely.buffer(found.area.polygon, 0.01), pieces).all()


@pytest.mark.long
@pytest.mark.parametrize("copies", [20, 190])
def test_of_one_panel_or_several_nothing_stands_on_the_marks_of_its_length(copies: int) -> None:
    """Twenty pairs fit on one panel, which ends where they end, its middle marks in its middle; several panels are all
    of one length."""
    boxes = planned((400, 300, 60.0), (400, 300, 80.0), border_mm=1.0, copies=copies, fill=False)
    found = on_roll(boxes, nest, method="nest", nest_s=3)
    assert found.sheets.count == 2 * copies
    assert codes(found) == []
    assert (len(found.sheets.sheets) == 1) == (copies == 20)
    room = shapely.buffer(found.area.polygon, 0.01)
    for sheet in found.sheets.sheets:
        assert shapely.covers(room, [found.placed_lines(p)["kiss"] for p in sheet]).all()


def test_a_panel_set_by_hand_ends_below_its_last_piece() -> None:
    short = on_roll(PAIR, method="hand", placements=[stand(120, 100)])
    long = on_roll(PAIR, method="hand", placements=[stand(120, 100), stand(120, 700)])
    assert short.area.stock.height_mm < 200
    assert 700 < long.area.stock.height_mm < 850
    assert codes(short) == codes(long) == []


def test_a_gap_of_through_lines_is_no_part_of_a_piece() -> None:
    recipe = PAIR.recipe.model_dump()
    recipe["designs"][0]["peel_mm"] = 2.0
    peeled = plan_job(JobRecipe.model_validate(recipe), ARTWORKS)

    def told(*stands: dict) -> list[tuple[str, str]]:
        return codes(with_sheet(peeled, method="hand", placements=list(stands), through_gap_mm=8.0))

    # 46 mm wide with border and peel margin: from 6 to 52 it touches the edge of the area and lies inside it.
    assert told(stand(29.2, 150)) == []
    # Two of them 8 mm apart are as far as they have to be, at 7 they are not; kiss lines keep the 2 mm.
    assert told(stand(60, 150), stand(114.1, 150)) == []
    assert told(stand(60, 150), stand(113, 150)) == [("close", "look")]
    assert told(stand(60, 150, design="d1"), stand(104.1, 150, design="d1")) == []


def test_many_threads_may_ask_one_area() -> None:
    # Plans are kept and shared, so the area of one is asked by several threads at once. A prepared polygon would
    # crash the whole process, so this runs in one of its own.
    program = (
        "import numpy as np, shapely, threading\n"
        "from perisect.core.sheet.stock import Stock\n"
        "from perisect.core.sheet.usable import Machine, usable_area\n"
        "disc = shapely.Point(100, 140).buffer(60, 200)\n"
        "for _ in range(60):\n"
        "    area = usable_area(Stock('a4', 'A4', 210, 297), Machine())\n"
        "    start = threading.Barrier(8)\n"
        "    def ask():\n"
        "        start.wait()\n"
        "        for _ in range(20):\n"
        "            assert area.holds(disc) and area.hold(np.array([disc] * 20)).all()\n"
        "    crowd = [threading.Thread(target=ask) for _ in range(8)]\n"
        "    [each.start() for each in crowd]; [each.join() for each in crowd]\n"
    )
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
