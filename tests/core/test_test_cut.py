"""The test cut: what is believed after answers, what is proposed, and how often that is right."""

import json
import subprocess
import sys

import numpy as np
import pytest

from perisect.core.cutting.belief import (
    ANSWERS,
    NoLiner,
    Prior,
    Tried,
    believe,
    next_ladder,
    prior_of,
    propose,
    trouble,
)
from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.ladder import LadderPlace, ladder_program, ladder_size
from perisect.core.cutting.program import Cut, Tool
from perisect.core.cutting.setting import CutSetting
from perisect.core.process import process
from perisect.core.sheet.force import ForceScale
from perisect.core.sheet.shop_records import EXAMPLE_STOCKS
from perisect.offline.dialogue import play_test_cut
from perisect.stand_ins.bite import Bite
from perisect.stand_ins.plotter import Plotter
from perisect.stand_ins.plotter_truth import Truth

STEPS = ForceScale(least=1, most=33, step=1, unit="steps")
GRAMS = ForceScale(least=10, most=600, step=5)


def tried(*pairs: tuple[float, str]) -> list[Tried]:
    return [Tried(force, answer) for force, answer in pairs]  # type: ignore[arg-type]


def test_clean_steps_between_ragged_and_marked_ones_are_where_it_is_proposed() -> None:
    seen = tried(
        (5, "not_through"),
        (7, "ragged"),
        (9, "clean"),
        (11, "clean"),
        (13, "clean"),
        (16, "liner_marked"),
        (20, "cut_through"),
    )
    belief = believe(Prior(8), seen)
    proposal = propose(belief, STEPS)
    assert proposal.force in (10, 11, 12)
    assert proposal.is_sure
    assert sum(proposal.answers) == pytest.approx(1)
    low, high = belief.window()
    assert 7 < low < 10
    assert 12 < high < 16


def test_nothing_is_sure_before_the_first_answer_and_a_ladder_spans_what_is_not_known() -> None:
    belief = believe(Prior(90), [])
    assert propose(belief, GRAMS).probability_clean < 0.8
    ladder = next_ladder(belief, GRAMS)
    assert len(ladder) == len(set(ladder)) == 7
    assert ladder == sorted(ladder)
    assert ladder[0] < 65
    assert ladder[-1] > 120
    assert set(ladder) <= set(GRAMS.forces)
    # After answers that leave one edge open the next ladder stands about that edge.
    belief = believe(
        Prior(90), tried((40, "not_through"), (60, "ragged"), (80, "clean"), (100, "clean"), (130, "clean"))
    )
    assert np.median(next_ladder(belief, GRAMS)) > 90


def test_an_answer_that_was_clicked_by_mistake_does_not_turn_the_belief_over() -> None:
    good = tried(
        (6, "ragged"), (8, "clean"), (10, "clean"), (12, "clean"), (14, "clean"), (18, "liner_marked")
    )
    once = propose(believe(Prior(10), good), STEPS)
    wrong = propose(believe(Prior(10), [*good, Tried(11, "not_through")]), STEPS)
    assert abs(wrong.force - once.force) <= 2


def test_what_no_force_of_the_plotter_cuts_is_said_with_where_to_look() -> None:
    assert "mat" in (trouble(tried((20, "not_through"), (33, "ragged")), STEPS) or "")
    assert "stand out less" in (trouble(tried((1, "cut_through")), STEPS) or "")
    assert trouble(tried((1, "not_through"), (33, "cut_through")), STEPS) is None
    with pytest.raises(NoLiner):
        prior_of(process("kiss"), 320, 0, STEPS)
    assert prior_of(process("through"), 320, 0, STEPS).must_um == 320


def test_a_ladder_cuts_square_triangle_and_letter_at_each_force_beside_each_other() -> None:
    steps = ladder_program(
        "kiss", CutSetting(speed_cm_s=20, force=5), [3, 5, 8], LadderPlace(30, 40), KnifeSettings()
    )
    assert [step.line for step in steps] == [None, 0, 1, 2]
    assert [next(m for m in step.motions if isinstance(m, Tool)).force for step in steps[1:]] == [3, 5, 8]
    assert all(sum(isinstance(m, Cut) for m in step.motions) == 3 for step in steps[1:])
    places = np.vstack([m.path_mm for step in steps[1:] for m in step.motions if isinstance(m, Cut)])
    width, height = ladder_size(3)
    reach = KnifeSettings().offset_mm + 0.5
    assert (places >= np.array([30, 40]) - reach).all()
    assert (places <= np.array([30 + width, 40 + height]) + reach).all()


@pytest.mark.long
@pytest.mark.parametrize("cut", ["kiss", "through"])
def test_proposals_are_truly_clean_as_often_as_they_are_said_to_be(cut: str) -> None:
    """Forty blades and stocks; all 500 are in the bench."""
    stocks = [stock for stock in EXAMPLE_STOCKS if stock.liner_um > 0]
    right = stated = 0.0
    for seed in range(40):
        stock, scale = stocks[seed % len(stocks)], (STEPS, GRAMS)[seed % 2]
        bite = Bite(seed, stock.face_um, stock.liner_um, scale, cut)
        prior, rng, seen = (
            prior_of(process(cut), stock.face_um, stock.liner_um, scale),
            np.random.default_rng(seed),
            [],
        )
        for _ in range(2):
            seen += [Tried(f, bite.look(f, rng)) for f in next_ladder(believe(prior, seen), scale)]
        proposal = propose(believe(prior, seen), scale)
        right += bite.nominal(proposal.force) == "clean"
        stated += proposal.probability_clean
    assert right >= 37
    assert abs(right - stated) <= 3


def test_a_dull_blade_needs_more_force() -> None:
    sharp, dull = (Bite(3, 90, 80, GRAMS, wear_m=wear) for wear in (0, 200))
    assert sharp.depth_um(100) > dull.depth_um(100)
    assert ANSWERS.index(sharp.nominal(10)) <= ANSWERS.index(sharp.nominal(600))


def test_a_worn_machine_s_blade_dulls_and_its_stock_is_not_as_thick_everywhere() -> None:
    """Two lines of 100 mm, 70 mm left and right of a sheet's middle, whose face is half again as thick 100 mm right."""
    plotter = Plotter(2, truth=Truth(thicker=(0.5, 0.0), dulls=True))
    plotter.load(np.full((400, 400), 255, np.uint8), 2.0)  # 200 mm, its lower left corner at (20, 20)
    for x in (50, 190):
        plotter.move(np.array([(x, 70.0)]), False, 1, 100)
        plotter.move(np.array([(x, 170.0)]), True, 1, 100, 10)
        plotter.lift()
    left, right = (plotter.bite_of(stroke, "kiss") for stroke in plotter.unload())
    # Laid in by hand, up to 2 mm and 1 degree off.
    assert (left.face_um / 90, right.face_um / 90) == pytest.approx((0.65, 1.35), abs=0.025)
    assert (left.wear_m, right.wear_m) == pytest.approx((0.0, 0.1), abs=0.001)
    force = plotter.plate.force.most / 8
    assert ANSWERS.index(right.nominal(force)) <= ANSWERS.index(left.nominal(force))


@pytest.mark.long
def test_the_dialogue_is_played_through_the_wire_and_told_as_json() -> None:
    told = play_test_cut(4, EXAMPLE_STOCKS[0].recipe, None)
    assert told["process"] == "kiss"
    assert 1 <= len(told["ladders"]) <= 4
    assert all(
        step["answer"] in ANSWERS and step["setting"]["force"] == step["force"] for step in told["ladders"][0]
    )
    assert told["proposal"]["force"] > 0
    command = [sys.executable, "-m", "perisect.cli", "test-cut", "--seed", "4", "--stock", "a4"]
    printed = json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
    assert {**printed, "seconds": 0} == {**json.loads(json.dumps(told)), "seconds": 0}
    command[-1] = "nothing"
    assert subprocess.run(command, capture_output=True, check=False).returncode == 2
