"""The cut error that a plan lets expect at each of its stickers."""

import tracemalloc

import numpy as np
import pytest
from numpy.typing import NDArray

from perisect.core.cutting.error_map import History, predicted_error
from perisect.core.job.cut_errors import MOST_IN_ORDER, sheet_errors
from tests.core.test_sheet import planned


def test_the_error_of_many_places_is_worked_out_place_by_place() -> None:
    """20,000 of them: a matrix of each with each would take 3.2 GB."""
    marks = [(11.0, 12.0), (199.0, 12.0), (11.0, 285.0), (199.0, 285.0)]
    places = np.random.default_rng(1).uniform((0, 0), (210, 297), (20_000, 2))
    tracemalloc.start()
    all_of_them = predicted_error(marks, places, History(0.05))
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert most < 20e6
    assert all_of_them[:50] == pytest.approx(predicted_error(marks, places[:50], History(0.05)))


def creeping(sheet: int) -> NDArray[np.int64]:
    """The last one of a sheet is cut first."""
    return np.arange(6, 0, -1)


def test_a_sheet_that_creeps_is_worst_where_it_is_cut_last() -> None:
    """Of six stickers in one row the variance grows by the line's number; without the order each has the mean."""
    plan = planned((400, 300, 28.0), copies=6, fill=False)
    history = History(sensing_mm=0.0, creep_mm=0.01)
    (in_order,) = sheet_errors(plan, history, creeping).by_sheet
    assert in_order == pytest.approx(0.01 * np.sqrt(2 * np.arange(6, 0, -1)), abs=1e-4)
    (without,) = sheet_errors(plan, history).by_sheet
    assert without == pytest.approx([0.01 * np.sqrt(2 * 3.5)] * 6, abs=1e-4)
    assert sheet_errors(plan, History(0.02), creeping).by_sheet == sheet_errors(plan, History(0.02)).by_sheet


def test_of_very_many_stickers_the_order_is_not_searched_for() -> None:
    plan = planned((400, 300, 12.0))
    assert len(plan.sheets.sheets[0]) > MOST_IN_ORDER

    def never(sheet: int) -> NDArray[np.int64]:
        raise AssertionError(sheet)

    errors = sheet_errors(plan, History(creep_mm=0.01), never)
    assert errors.worst_mm is not None
