"""Slip read from pictures of a cut sheet: where the cuts truly are, and what is no picture of the sheet."""

from collections.abc import Callable

import cv2
import numpy as np
import pytest

from perisect.core.ledger.cut_scan import noise_of, read_cuts
from perisect.core.ledger.flat_sheet import FlatSheet, NotTheSheet, flatten
from perisect.core.sheet import A4, MarkSettings
from perisect.stand_ins import cut_photo
from tests.core.cut_sheets import MARKS, K, cut, grey, off_by, sheet


def laid_flat(picture: np.ndarray) -> FlatSheet:
    return flatten(grey(picture), MARKS, MarkSettings(), A4.width_mm, A4.height_mm)


@pytest.mark.long
@pytest.mark.parametrize(
    ("take", "seed", "within_mm"),
    [
        (cut_photo.scan, 1, 0.04),
        (cut_photo.photo, 3, 0.08),
    ],
)
def test_the_slip_of_every_sticker_is_read_and_how_sure_it_is(
    take: Callable, seed: int, within_mm: float
) -> None:
    printed, wanted = sheet(seed)
    lies, true = cut(printed, wanted, seed)
    found = read_cuts(laid_flat(take(lies, K, seed)), grey(printed), wanted)
    assert all(each.slip_mm is not None for each in found)
    off = np.hypot(*(np.array([(each.dx_mm, each.dy_mm) for each in found]) - true).T)
    assert np.quantile(off, 0.95) < within_mm
    assert np.mean(off <= [each.sure_mm for each in found]) >= 0.85


def test_what_is_allowed_for_the_print_is_no_noise_of_a_reading() -> None:
    """The squares of 0.025 and of 1.96 x 0.01 are added."""
    sure = np.array([0.025, np.hypot(0.025, 0.0196), 0.0])
    assert noise_of(sure) == pytest.approx([0, 0.01, 0])


@pytest.fixture(scope="module")
def scanned() -> np.ndarray:
    """A scan of a cut sheet."""
    printed, wanted = sheet(4)
    return cut_photo.scan(cut(printed, wanted, 4)[0], K, 4)


@pytest.mark.long
def test_a_picture_that_lies_on_its_side_or_head_is_the_same_sheet(scanned: np.ndarray) -> None:
    printed, wanted = sheet(4)
    true = off_by(wanted, 4)
    for turns in (1, 2):
        found = read_cuts(laid_flat(np.ascontiguousarray(np.rot90(scanned, turns))), grey(printed), wanted)
        off = np.hypot(*(np.array([(each.dx_mm, each.dy_mm) for each in found]) - true).T)
        assert np.quantile(off, 0.95) < 0.04


@pytest.mark.long
def test_a_sheet_that_is_not_cut_shows_no_cut() -> None:
    printed, wanted = sheet(4)
    bare = cut_photo.cut_sheet(printed, K, [], 5)
    found = read_cuts(laid_flat(cut_photo.scan(bare, K, 5)), grey(printed), wanted)
    assert sum(each.slip_mm is not None for each in found) <= 1


@pytest.mark.long
@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda picture: np.full((900, 700, 3), 255, np.uint8), "corner marks are not all seen"),
        (lambda picture: picture[: len(picture) // 2], "marks"),
        (
            lambda picture: cv2.resize(picture, None, fx=0.2, fy=0.2, interpolation=cv2.INTER_AREA),
            "too small",
        ),
        (lambda picture: cv2.GaussianBlur(picture, (0, 0), 25), "marks|too small"),
        (
            lambda picture: np.random.default_rng(1).integers(0, 255, (1200, 900, 3)).astype(np.uint8),
            "marks",
        ),
    ],
)
def test_what_is_no_picture_of_the_sheet_is_said(spoil: Callable, says: str, scanned: np.ndarray) -> None:
    with pytest.raises(NotTheSheet, match=says):
        laid_flat(np.ascontiguousarray(spoil(scanned)))
