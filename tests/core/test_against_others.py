"""Array formulas against the plain way of computing the same, or against another program."""

import itertools

import cv2
import numpy as np
import pypdfium2
import pytest
import shapely
from scipy.integrate import solve_ivp

from perisect.core.artwork.checker import Checker, find_checker
from perisect.core.cutting.carriage import Carriage, path_seconds
from perisect.core.formats import CutSheet, rings_of
from perisect.core.job.files import line_totals
from perisect.core.lines import trace
from perisect.core.prepress.print_file import write_print_pdf
from perisect.core.sheet import A4, MarkSettings, marks_for
from perisect.core.sheet.mark_shape import mark_picture, mark_shape
from perisect.stand_ins.drag import Blade

pytestmark = pytest.mark.slow


def a_path(seed: int, points: int = 30) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return np.cumsum(rng.uniform(-4, 4, (points, 2)), axis=0)


@pytest.mark.parametrize("seed", range(4))
def test_the_trailing_tip_is_that_of_the_differential_equation(seed: int) -> None:
    path, offset = a_path(seed, 8), 0.4
    heading = 0.7
    ours = Blade(offset, heading)
    ours.follow(path)
    for start, end in itertools.pairwise(path):
        way = np.arctan2(*(end - start)[::-1])
        length = float(np.hypot(*(end - start)))
        # The blade turns towards the way at sin(angle) / offset a millimetre.
        solved = solve_ivp(
            lambda _, h, way=way: -np.sin(h - way) / offset, (0, length), [heading], rtol=1e-9, atol=1e-10
        )
        heading = float(solved.y[0, -1])
    turn = (ours.heading - heading + np.pi) % (2 * np.pi) - np.pi
    assert turn == pytest.approx(0, abs=1e-5)


@pytest.mark.parametrize("seed", range(6))
def test_motion_is_that_of_two_passes_over_the_corners(seed: int) -> None:
    motion = Carriage()
    path = a_path(seed) * (1 + seed)
    length = np.hypot(*np.diff(path, axis=0).T)
    unit = np.diff(path, axis=0) / length[:, None]
    speeds = [0.0]
    for before, after in itertools.pairwise(unit):
        half = np.sqrt((1 + np.clip(before @ after, -1, 1)) / 2)
        corner = motion.acceleration_mm_s2 * motion.junction_mm * half / max(1 - half, 1e-12)
        speeds.append(min(corner, motion.speed_mm_s**2))
    speeds.append(0.0)
    reach = 2 * motion.acceleration_mm_s2 * length
    for i in range(len(length)):
        speeds[i + 1] = min(speeds[i + 1], speeds[i] + reach[i])
    for i in reversed(range(len(length))):
        speeds[i] = min(speeds[i], speeds[i + 1] + reach[i])
    total = 0.0
    for i, s in enumerate(length):
        v0, v1, a = np.sqrt(speeds[i]), np.sqrt(speeds[i + 1]), motion.acceleration_mm_s2
        peak = min(np.sqrt((v0**2 + v1**2) / 2 + a * s), motion.speed_mm_s)
        ramps = (2 * peak**2 - v0**2 - v1**2) / (2 * a)
        total += (2 * peak - v0 - v1) / a + max(0, s - ramps) / peak
    assert path_seconds(path, motion).sum() == pytest.approx(total)
    assert (path_seconds(path, motion) > 0).all()


@pytest.mark.parametrize("seed", range(6))
def test_any_noise_gives_valid_pieces_with_the_area_it_covers(seed: int) -> None:
    rng = np.random.default_rng(seed)
    noise = np.asarray(cv2.GaussianBlur(rng.random((200, 260)).astype(np.float32), (0, 0), 4 + seed))
    alpha = (255 * (noise - noise.min()) / (noise.max() - noise.min())).astype(np.uint8)
    shape = trace(alpha).shape
    assert shape.is_valid
    assert shape.area == pytest.approx((alpha > 127).sum(), rel=0.05)


def test_a_saddle_keeps_its_two_corners_apart() -> None:
    alpha = np.zeros((40, 40), np.uint8)
    alpha[5:20, 5:20] = alpha[20:35, 20:35] = 255
    shape = trace(alpha).shape
    assert shape.is_valid
    assert len(shape.geoms) == 2


@pytest.mark.parametrize("square", [4, 5, 7, 8, 12, 16, 25, 33, 48, 64])
@pytest.mark.parametrize("phase", [(0, 0), (3, 1), (2, 7)])
def test_a_checkerboard_is_read_as_it_was_painted(square: int, phase: tuple[int, int]) -> None:
    height, width = 300, 340
    column, row = (np.arange(width) + phase[0]) // square, (np.arange(height) + phase[1]) // square
    light = (column[None, :] + row[:, None]) % 2 == 0
    picture = np.where(light[..., None], 255, 204).astype(np.uint8).repeat(3, axis=2)
    picture[90:200, 100:240] = (40, 90, 160)
    found = find_checker(picture)
    assert found is not None
    assert found.square_px == square
    assert (found.light, found.dark) == ((255,) * 3, (204,) * 3)
    assert found.agreement > 0.99
    seen = found.is_light(slice(0, height), slice(0, width)).astype(bool)
    assert (seen == light).mean() > 0.999


@pytest.mark.parametrize(
    "picture",
    [
        np.full((200, 200, 3), 255, np.uint8),
        np.tile(np.linspace(150, 255, 200).astype(np.uint8)[None, :, None], (200, 1, 3)),
        np.where(np.arange(200)[None, :, None] // 10 % 2 == 0, 255, 200).astype(np.uint8)
        * np.ones((200, 1, 3), np.uint8),
        np.random.default_rng(1).choice([200, 255], (200, 200, 1)).astype(np.uint8).repeat(3, axis=2),
    ],
    ids=["white", "gradient", "stripes", "noise"],
)
def test_what_is_no_checkerboard_is_not_taken_for_one(picture: np.ndarray) -> None:
    assert find_checker(picture) is None


def test_windows_of_a_checkerboard_agree_with_the_whole() -> None:
    checker = Checker(7, 3, 5, False, (255,) * 3, (204,) * 3, 1.0)
    whole = checker.is_light(slice(0, 60), slice(0, 80))
    part = checker.is_light(slice(20, 41), slice(33, 70))
    assert (whole[20:41, 33:70] == part).all()
    assert whole[5, 3] == 0
    assert whole[5, 10] == 1


def test_the_mark_in_the_file_is_the_mark_the_sensor_looks_for() -> None:
    settings, marks = MarkSettings(), marks_for(A4, MarkSettings())
    page = np.asarray(
        pypdfium2.PdfDocument(write_print_pdf(A4, marks, settings, [], {}))[0]
        .render(scale=600 / 72)
        .to_numpy()
    )[..., 0]
    k = np.array([page.shape[1] / 210, page.shape[0] / 297])
    for mark in marks:
        picture = mark_picture(settings, mark.kind == "ringed", 10.0, 5.0)
        axis = np.arange(-50, 51) / 10
        x = ((mark.x_mm + axis) * k[0] - 0.5).astype(np.float32)
        y = ((mark.y_mm + axis) * k[1] - 0.5).astype(np.float32)
        seen = cv2.remap(page, *np.meshgrid(x, y), cv2.INTER_LINEAR) / 255
        assert np.abs(seen - picture).mean() < 0.02
        # And the shape shown on the screen has the area of the ink.
        ink = (1 - picture).sum() / 100
        assert mark_shape(mark, settings).area == pytest.approx(ink, rel=0.02)


def test_line_totals_are_counts_and_lengths() -> None:
    square = np.array([(0, 0), (10, 0), (10, 10), (0, 10)], float)
    sheet = CutSheet(210, 297, {"kiss": [square, 2 * square], "through": [3 * square]}, {}, [])
    totals = line_totals(sheet)
    assert (totals["kiss"].count, totals["kiss"].length_mm) == (2, 120)
    assert (totals["through"].count, totals["through"].length_mm) == (1, 120)


def test_rings_come_inner_first_and_open() -> None:
    shape = shapely.box(0, 0, 10, 10).difference(shapely.box(4, 4, 6, 6))
    inner, outer = rings_of(shapely.multipolygons([shape]))
    assert inner.shape == outer.shape == (4, 2)
    assert np.ptp(inner, axis=0).tolist() == [2, 2]
