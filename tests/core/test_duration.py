"""How long a cut takes, by the laws of motion."""

import numpy as np
import pytest

from perisect.core.cutting.carriage import Carriage
from perisect.core.cutting.duration import Duration, duration, duration_by_step
from perisect.core.cutting.program import Cut, Move, Step, Tool

CARRIAGE = Carriage(speed_mm_s=100, travel_mm_s=400, acceleration_mm_s2=1000)


def rest_to_rest(length_mm: float, top_mm_s: float, acceleration_mm_s2: float = 1000) -> float:
    """Seconds: speeding up and slowing down take v / a each, on v² / 2a; where the way is shorter, 2 sqrt(s / a)."""
    if length_mm < top_mm_s**2 / acceleration_mm_s2:
        return 2 * float(np.sqrt(length_mm / acceleration_mm_s2))
    return length_mm / top_mm_s + top_mm_s / acceleration_mm_s2


def line(*points: tuple[float, float]) -> Cut:
    return Cut(np.array(points, float))


def test_out_and_home_again() -> None:
    taken = duration([Move((300, 400)), line((300, 400), (300, 350))], CARRIAGE)
    home = float(np.hypot(300, 350))
    assert taken.travel_mm == pytest.approx(500 + home)
    assert taken.draw_mm == pytest.approx(50)
    assert taken.seconds == pytest.approx(
        rest_to_rest(500, 400) + rest_to_rest(50, 100) + rest_to_rest(home, 400)
    )


def test_a_tool_brings_its_speed_and_keeps_it() -> None:
    slow = Tool("kiss", 1, speed_cm_s=2, force=10)
    taken = duration([slow, line((0, 0), (100, 0)), line((100, 0), (0, 0))], CARRIAGE)
    assert taken.seconds == pytest.approx(2 * rest_to_rest(100, 20))


def test_a_way_too_short_for_its_speed_is_all_speeding_up_and_slowing_down() -> None:
    taken = duration([line((0, 0), (4, 0)), line((4, 0), (0, 0))], CARRIAGE)
    assert taken.seconds == pytest.approx(2 * 2 * np.sqrt(4 / 1000))


def test_a_corner_straight_on_costs_nothing_and_one_back_a_stop() -> None:
    straight = duration([line((0, 0), (50, 0), (100, 0))], CARRIAGE)
    assert straight.seconds == pytest.approx(rest_to_rest(100, 100) + rest_to_rest(100, 400))
    back = duration([line((0, 0), (50, 0), (0, 0))], CARRIAGE)
    assert back.seconds == pytest.approx(2 * rest_to_rest(50, 100))


def test_steps_begin_where_the_one_before_ended_and_none_goes_home() -> None:
    there = Step(None, (Move((60, 80)),))
    cut = Step(0, (line((60, 80), (60, 20)), Move((0, 20))))
    first, second = duration_by_step([there, cut], CARRIAGE)
    assert (first.travel_mm, first.draw_mm) == (100, 0)
    assert (second.travel_mm, second.draw_mm) == (60, 60)
    whole = duration([*there.motions, *cut.motions], CARRIAGE)
    assert whole.seconds == pytest.approx(first.seconds + second.seconds + rest_to_rest(20, 400))


def test_nothing_takes_no_time() -> None:
    assert duration([], CARRIAGE) == Duration()
    assert duration_by_step([], CARRIAGE) == []
