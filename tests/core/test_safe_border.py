"""The border that the log calls safe, and the error that it lets expect, against shops whose truth is known."""

from dataclasses import replace

import numpy as np
import pytest

from perisect.core.cutting.error_map import NO_HISTORY, predicted_error
from perisect.core.cutting.trueing import Trueing
from perisect.core.ledger.calibration import SheetSlips
from perisect.core.ledger.machine_history import history_of
from perisect.core.ledger.measured_slips import MeasuredSheet
from perisect.core.ledger.safe_border import safe_border
from tests.core.test_calibration import MARKS, MIDDLE, Shop


class Sheets:
    """Sheets of a shop with an offset, sheets that lie differently, and stickers that scatter: how much of each is the
    shop's own."""

    def __init__(self, seed: int) -> None:
        self._rng = rng = np.random.default_rng(seed)
        self._bias = rng.normal(0, rng.uniform(0, 0.15), 2)
        self._sheet, self._sticker, self._shear = rng.uniform((0.01, 0.01, 0), (0.15, 0.12, 0.0006))

    def __call__(self, count: int, many: int | None = None, noise: float = 0.0) -> list[MeasuredSheet]:
        """Sheets as they are measured with this noise each way, mm."""
        rng, found = self._rng, []
        for _ in range(count):
            stickers = many or int(rng.integers(6, 20))
            places = rng.uniform((-85, -120), (85, 120), (stickers, 2))
            off = self._bias + rng.normal(0, self._sheet, 2) + places @ rng.normal(0, self._shear, (2, 2))
            off = off + rng.normal(0, self._sticker, (stickers, 2)) + rng.normal(0, noise, (stickers, 2))
            found.append(MeasuredSheet(off, np.full(stickers, noise)))
        return found


def sizes(sheets: list[MeasuredSheet]) -> np.ndarray:
    """How far all stickers slip, mm."""
    return np.concatenate([np.hypot(*sheet.slips_mm.T) for sheet in sheets])


def along_x(slips_mm: list[float]) -> MeasuredSheet:
    """A sheet whose stickers slip so much along one axis."""
    return MeasuredSheet(np.column_stack([slips_mm, np.zeros(len(slips_mm))]), np.zeros(len(slips_mm)))


@pytest.mark.long
@pytest.mark.parametrize(("sheets", "noise"), [(10, 0.0), (30, 0.0), (20, 0.06)])
def test_a_safe_border_keeps_ninety_five_of_a_hundred_in_ninety_five_shops_of_a_hundred(
    sheets: int, noise: float
) -> None:
    """100 shops: by chance 95 of them with a deviation of 2.2; 400 shops for each number of sheets are in bench."""
    kept = 0
    for seed in range(100):
        shop = Sheets(seed)
        found = safe_border(shop(sheets, noise=noise))
        assert found is not None
        kept += float((sizes(shop(300, 12)) <= found.border_mm).mean()) >= 0.95
    assert 88 <= kept <= 99


def test_with_a_hundred_sheets_it_is_hardly_more_than_full_knowledge_would_take() -> None:
    more = []
    for seed in range(20):
        shop = Sheets(seed)
        found = safe_border(shop(100))
        assert found is not None
        more.append(found.border_mm / np.quantile(sizes(shop(800, 12)), 0.95))
    assert np.quantile(more, 0.95) < 1.3


def test_what_another_border_costs_is_what_a_normal_slip_would_lose() -> None:
    """Slips whose root is normal with 0.5 and 0.1: beyond 0.36 mm, of root 0.6, lie 15.9 of 100."""
    rng = np.random.default_rng(2)
    found = safe_border([along_x((np.abs(rng.normal(0.5, 0.1, 40)) ** 2).tolist()) for _ in range(200)])
    assert found is not None
    assert found.lost_at(0.36) == pytest.approx(0.159, abs=0.02)
    assert found.lost_at(0.0) == 1.0


def test_a_plotter_that_is_finer_than_was_believed_is_believed_after_thirty_sheets() -> None:
    """Marks seen to 0.003 mm and a scatter of 0.012: 17 micrometres at the middle, a little more at the corners."""
    places = np.array([(25.0, 30.0), (105, 150), (185, 265), (60, 220), (150, 60)])
    corners = np.column_stack([MARKS - MARKS.mean(axis=0), np.ones(len(MARKS))])
    at = np.column_stack([places - MARKS.mean(axis=0), np.ones(len(places))])
    sensed = np.einsum("ni,ij,nj->n", at, np.linalg.inv(corners.T @ corners), at)
    true = np.sqrt(2 * (0.003**2 * sensed + 0.012**2))
    told = []
    for seed in range(12):
        shop = Shop(seed, Trueing(shift_x=0.1, turn=0.0003), 0.012, sensing_mm=0.003)
        logged = [shop.sheet() for _ in range(30)]
        pairs = tuple((float(x), float(y)) for x, y in MARKS)
        logged = [type(s)(s.places_mm, s.slips_mm, s.middle_mm, s.trued, pairs) for s in logged]
        history = history_of(logged, history_of(logged).bias)
        told.append(predicted_error(pairs, places, history, MIDDLE) / true)
    assert np.mean(told) == pytest.approx(1, abs=0.07)
    assert (np.abs(np.array(told) - 1) < 0.15).mean() >= 0.9


def test_a_sheet_that_creeps_along_its_cut_is_expected_to() -> None:
    """24 stickers, one after the other; at each line the sheet moves by 6 micrometres each way: the last one varies by
    24 times as much of that as the first."""
    rng = np.random.default_rng(12)
    places = np.array([(x, y) for y in range(35, 270, 40) for x in range(30, 190, 45)], float)
    pairs = tuple((float(x), float(y)) for x, y in MARKS)
    turns = rng.permutation(24) + 1
    corners = np.column_stack([MARKS - MARKS.mean(axis=0), np.ones(len(MARKS))])
    at = np.column_stack([places - MARKS.mean(axis=0), np.ones(len(places))])
    sensed = np.einsum("ni,ij,nj->n", at, np.linalg.inv(corners.T @ corners), at)
    true = np.sqrt(2 * (0.01**2 * sensed + 0.015**2 + 0.006**2 * turns))
    told = []
    for seed in range(12):
        shop, logged = Shop(seed, Trueing(), 0.015, sensing_mm=0.01), []
        for _ in range(30):
            steps = rng.normal(0, 0.006, (24, 2)).cumsum(axis=0)[turns - 1]
            slips = shop.slips_at(places, rng) + steps
            logged.append(SheetSlips(places, slips, MIDDLE, Trueing(), pairs, turns))
        history = history_of(logged, history_of(logged).bias)
        told.append(predicted_error(pairs, places, history, MIDDLE, turns) / true)
        assert history.creep_mm == pytest.approx(0.006, abs=0.0015)
    assert np.mean(told) == pytest.approx(1, abs=0.07)
    assert (np.abs(np.array(told) - 1) < 0.15).mean() >= 0.9
    # Where nobody kept the order, no creep is told.
    assert history_of([replace(sheet, turns=None) for sheet in logged]).creep_mm == 0


def test_too_few_sheets_say_nothing() -> None:
    assert safe_border([along_x([0.1] * 30)] * 4) is None
    assert safe_border([along_x([0.1])] * 10) is None
    assert safe_border([]) is None
    assert safe_border([along_x([])] * 30) is None


def test_what_the_measuring_adds_is_no_slip() -> None:
    """Slips of 0.03 mm each way read to 0.04: as measured 0.05 each way, whose 95th of a hundred is 0.122 mm (Rayleigh:
    deviation times the root of 2 ln 20); as they are 0.073."""
    rng = np.random.default_rng(4)
    seen = [rng.normal(0, 0.03, (40, 2)) + rng.normal(0, 0.04, (40, 2)) for _ in range(100)]
    exact = safe_border([MeasuredSheet(each, np.zeros(40)) for each in seen])
    freed = safe_border([MeasuredSheet(each, np.full(40, 0.04)) for each in seen])
    assert exact is not None
    assert freed is not None
    assert exact.border_mm == pytest.approx(0.05 * np.sqrt(2 * np.log(20)), rel=0.05)
    assert freed.border_mm == pytest.approx(0.03 * np.sqrt(2 * np.log(20)), rel=0.09)


def test_where_nothing_but_noise_was_seen_the_border_stands_on_what_is_left() -> None:
    """A whole shift of 0.3 mm, stickers and sheets beside it as far as they are read: hardly more than the shift."""
    rng = np.random.default_rng(5)
    sheets = [MeasuredSheet((0.3, 0) + rng.normal(0, 0.05, (20, 2)), np.full(20, 0.05)) for _ in range(40)]
    found = safe_border(sheets)
    assert found is not None
    assert 0.3 < found.border_mm < 0.34
    still = safe_border([MeasuredSheet(np.full((20, 2), 0.1), np.full(20, 0.05)) for _ in range(10)])
    assert still is not None
    assert still.border_mm == pytest.approx(0.1 * np.sqrt(2), abs=0.005)


@pytest.mark.parametrize(
    ("scatter", "bias"), [(0.02, Trueing()), (0.08, Trueing(shift_x=0.2, scale_y=0.0008))]
)
def test_after_thirty_sheets_the_expected_error_is_that_of_four_hundred_more(
    scatter: float, bias: Trueing
) -> None:
    """Each figure of 400 sheets is itself good to 2.5 %, two thirds of the time."""
    shop = Shop(8, bias, scatter)
    marks = tuple((float(x), float(y)) for x, y in MARKS)
    logged = [shop.sheet() for _ in range(30)]
    history = history_of([type(s)(s.places_mm, s.slips_mm, s.middle_mm, s.trued, marks) for s in logged])
    assert history.sheets == 30
    places = np.array([(25.0, 30.0), (105, 150), (185, 265), (60, 220), (150, 60)])
    rng = np.random.default_rng(9)
    squares = np.zeros(len(places))
    for _ in range(400):
        squares += (shop.slips_at(places, rng) ** 2).sum(axis=1) / 400
    assert predicted_error(marks, places, history, MIDDLE) == pytest.approx(np.sqrt(squares), rel=0.15)
    # What is taken out is not expected any more.
    trued = history_of(
        [type(s)(s.places_mm, s.slips_mm, s.middle_mm, s.trued, marks) for s in logged], history.bias
    )
    assert np.abs(trued.bias.vector).max() < 1e-12
    assert history_of([]) == NO_HISTORY
