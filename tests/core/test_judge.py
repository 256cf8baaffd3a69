"""Whole simulated shops: the same shop whichever way, the advice at work, the file as it is asked for."""

import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from perisect.cli import app
from perisect.offline.judge.play import Play
from perisect.offline.judge.truth import MIDDLE, Shop, up
from perisect.offline.judge.ways import ADVICE, FIXED_BORDER_MM, HABITS

RUN = CliRunner().invoke


@pytest.mark.long
def test_the_figures_are_in_the_file_with_their_intervals(tmp_path: Path) -> None:
    out = tmp_path / "judged.json"
    done = RUN(app, ["judge", "--shops", "6", "--seed", "3", "--habit", "all", "--out", str(out)])
    assert done.exit_code == 0, done.output
    told = json.loads(out.read_text())
    assert list(told["habits"]) == ["all"]
    for way in (told["advice"], told["habits"]["all"]):
        for figure in (
            "first_sheet_yield",
            "sheets_per_100_good",
            "minutes_per_100_good",
            "test_cuts",
            "late_orders",
        ):
            low, high = way["intervals"][figure]
            assert low <= way[figure] <= high
    assert told["advice"]["first_sheet_yield"] > told["habits"]["all"]["first_sheet_yield"]
    assert told["advice"]["sheets_per_100_good"] < told["habits"]["all"]["sheets_per_100_good"]
    assert told["habits"]["all"]["test_cuts"] == 0
    assert {tuple(sorted(each)) for each in told["calibration"]} == {
        ("came_true", "n", "stated", "statement")
    }
    again = RUN(app, ["judge", "--shops", "6", "--seed", "3", "--habit", "all"])
    assert json.loads(again.stdout[again.stdout.index("{\n") :]) == told  # the same shops, the same figures


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--habit", "prayer"], "no habit prayer"),
        (["--shops", "0"], "greater than or equal"),
        (["--shops", "1", "--out", "/proc/nowhere/x.json"], "cannot be written"),
    ],
)
def test_what_cannot_be_judged_is_one_line(arguments: list[str], says: str) -> None:
    done = RUN(app, ["judge", *arguments])
    assert done.exit_code == 2
    assert says in done.output


def test_a_shop_is_the_same_whichever_way_it_works() -> None:
    assert Shop(5).orders == Shop(5).orders
    assert Shop(5).bias == Shop(5).bias
    assert Shop(5).bias != Shop(6).bias


def test_a_sheet_holds_more_the_narrower_the_border_and_the_freer_the_layout() -> None:
    straight, _ = up("star", 40.0, 2.0, False)
    narrow, _ = up("star", 40.0, 0.5, False)
    freest, _ = up("star", 40.0, 0.5, True)
    assert straight <= narrow <= freest
    assert straight < freest
    # A disc of 40 with a border of 2 is 44 wide: with a gap of 2 its line is a ring of 44.
    assert up("disc", 40.0, 2.0, False)[1] == pytest.approx(44 * np.pi, rel=0.003)


def test_advice_takes_a_sensor_that_sits_wrong_out_of_every_cut() -> None:
    bad = next(seed for seed in range(100) if abs(Shop(seed).bias.shift_x) > 1.5)
    shop = Shop(bad)
    by_advice, by_habit = Play(shop, ADVICE), Play(Shop(bad), HABITS["fixed-border"])
    advised, habit = by_advice.run(), by_habit.run()
    off = shop.bias.error_at([MIDDLE], MIDDLE)[0]
    left = off - by_advice._trueing.error_at([MIDDLE], MIDDLE)[0]
    assert np.hypot(*left) < 0.1 < np.hypot(*off)
    assert advised.delivered == sum(order.many for order in shop.orders)
    assert advised.sheets < habit.sheets
    assert by_advice._border() < FIXED_BORDER_MM
    # Of habits the others' streams are the same: what differs is the way.
    assert len(habit.first_sheets) == len(advised.first_sheets) == len(shop.orders)
