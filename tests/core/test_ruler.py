"""Slip by ruler at a few stickers, and a flat drawing enlarged without halos."""

import cv2
import numpy as np
import pytest

from perisect.core.artwork.enlarge import enlarged_flat
from perisect.core.artwork.mend import _resized
from perisect.core.ledger.ruler import RULER_MM, Reading, RulerImpossible, ruler_slips, to_measure

GRID = np.array([(x, y) for y in range(30, 290, 40) for x in range(30, 200, 40)], float)


def read(true: np.ndarray, numbers: list[int], border: float = 2.0) -> list[Reading]:
    """What a ruler says that is read to a quarter of a millimetre."""

    def mark(mm: float) -> float:
        return round(mm / RULER_MM) * RULER_MM

    return [
        Reading(n, mark(border - dx), mark(border + dx), mark(border - dy), mark(border + dy))
        for n, (dx, dy) in zip(numbers, true[numbers].tolist(), strict=True)
    ]


def test_the_stickers_to_measure_are_those_far_from_each_other() -> None:
    chosen = to_measure(GRID, 4)
    corners = {(30.0, 30.0), (190.0, 30.0), (30.0, 270.0), (190.0, 270.0)}
    assert {tuple(GRID[n]) for n in chosen} == corners


def test_slip_by_ruler_is_within_what_it_states_in_95_of_100() -> None:
    """Three hundred sheets, shifted, turned and stretched, whose stickers scatter as is usual."""
    rng = np.random.default_rng(8)
    within, sure = [], []
    for _ in range(300):
        middle = (GRID.min(axis=0) + GRID.max(axis=0)) / 2
        x, y = (GRID - middle).T
        shift, turn, scale = rng.normal(0, 0.4, 2), rng.normal(0, 0.002), rng.normal(0, 0.002, 2)
        true = np.column_stack([shift[0] - turn * y + scale[0] * x, shift[1] + turn * x + scale[1] * y])
        true += rng.normal(0, 0.05, true.shape)
        found = ruler_slips(read(true, to_measure(GRID, int(rng.integers(3, 6)))), GRID)
        within.append(np.abs(found.slips_mm - true) <= found.sure_mm)
        sure.append(found.sure_mm.mean())
    assert 0.94 <= np.mean(within) <= 0.99
    assert np.mean(sure) < 0.25


def test_readings_that_cannot_be_are_refused() -> None:
    still = np.zeros_like(GRID)
    good = read(still, to_measure(GRID))
    for wrong, says in (
        (good[:2], "three|3 stickers"),
        ([good[0], *good], "once"),
        ([*good[:3], Reading(999, 2, 2, 2, 2)], "one of the sheet"),
        ([*good[:3], Reading(5, 30, 2, 2, 2)], "came loose"),
    ):
        with pytest.raises(RulerImpossible, match=says):
            ruler_slips(wrong, GRID)
    assert np.abs(ruler_slips(good, GRID).slips_mm).max() < 1e-9


def drawn(side: int, times: int = 1) -> np.ndarray:
    """A red disc and a dark wedge on clear, drawn with sixteen samples each way in a pixel."""
    fine = 16 // times
    y, x = (np.mgrid[0 : side * 16, 0 : side * 16] + 0.5) / 16
    disc = np.hypot(x - 0.45 * side, y - 0.5 * side) < 0.3 * side
    wedge = (
        (y > 0.35 * side) & (y - 0.35 * side < (x - 0.3 * side) * 0.8) & (x < 0.9 * side) & (y < 0.8 * side)
    )
    colour = np.where(wedge[..., None], (30, 40, 70), (205, 50, 45)).astype(np.float32)
    cover = (disc | wedge).astype(np.float32)
    size = (side * 16 // fine, side * 16 // fine)
    alpha = cv2.resize(cover, size, interpolation=cv2.INTER_AREA)
    ink = cv2.resize(colour * cover[..., None], size, interpolation=cv2.INTER_AREA)
    rgb = ink / np.maximum(alpha, 1e-6)[..., None]
    return np.dstack([rgb, alpha * 255]).round().clip(0, 255).astype(np.uint8)


def on_white(rgba: np.ndarray) -> np.ndarray:
    alpha = rgba[..., 3:].astype(float) / 255
    return rgba[..., :3] * alpha + 255 * (1 - alpha)


def test_a_flat_drawing_four_times_as_large_has_half_the_error_at_its_edges() -> None:
    small, truth = drawn(64), on_white(drawn(64, 4))
    errors = [
        np.abs(on_white(large) - truth).mean() for large in (enlarged_flat(small, 4), _resized(small, 4, 4))
    ]
    assert errors[0] <= errors[1] / 2
    # And no halo: no level beyond those that are in the drawing.
    ours = on_white(enlarged_flat(small, 4))
    assert ours.min() >= on_white(small).min() - 1
