"""Station 2: the outline runs at half coverage, the kiss line a border outside of it."""

import itertools

import contourpy
import cv2
import numpy as np
import pytest
import shapely

from perisect.core.lines import cut_lines, trace
from tests.core import drawings

SHAPES = {
    "disc": drawings.disc(330),
    "star": drawings.star(340, 140),
    "ring": drawings.ring(330, 170),
}


def edge_distance(lines: shapely.Geometry, true: shapely.Geometry) -> np.ndarray:
    """Distance of points every 0.05 mm of `lines` from the edge of `true`, mm."""
    points = shapely.points(shapely.get_coordinates(shapely.segmentize(lines, 0.05)))
    edge = true.boundary
    shapely.prepare(edge)
    return shapely.distance(points, edge)


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("border_mm", [0.0, 2.0, 6.0])
def test_the_kiss_line_is_the_true_outline_plus_the_border(name: str, border_mm: float) -> None:
    alpha, true_px = drawings.coverage(SHAPES[name])
    outline = trace(alpha)
    longest_mm = outline.longest_px / drawings.PX_PER_MM
    lines = cut_lines(outline, longest_mm, border_mm)
    left, top, _, _ = outline.box_px
    true = shapely.transform(true_px, lambda xy: (xy - (left, top)) / drawings.PX_PER_MM)
    wanted = true.buffer(border_mm, quad_segs=200) if border_mm else true
    away = edge_distance(lines.kiss, wanted)
    tips = np.zeros(len(away), bool)
    if name == "star":
        corners = shapely.multipoints(shapely.get_coordinates(true))
        points = shapely.points(shapely.get_coordinates(shapely.segmentize(lines.kiss, 0.05)))
        tips = shapely.distance(points, corners) < border_mm + 0.3
    assert away[~tips].max() < 0.05
    assert away.max() < 1 / drawings.PX_PER_MM
    # And nothing of the true line is missing.
    assert edge_distance(wanted, lines.kiss).max() < (1.0 if name == "star" else 0.6) / drawings.PX_PER_MM


def test_the_outline_agrees_with_another_marching_squares() -> None:
    rng = np.random.default_rng(5)
    noise = cv2.GaussianBlur(rng.random((160, 220), np.float32), (0, 0), 5)
    alpha = cv2.normalize(noise, None, 0, 255, cv2.NORM_MINMAX).astype(np.uint8)
    alpha[[0, -1]] = alpha[:, [0, -1]] = 0
    ours = trace(alpha).shape
    filled, offsets = contourpy.contour_generator(z=alpha.astype(float), fill_type="OuterOffset").filled(
        127.5, 1e9
    )
    theirs = shapely.union_all(
        [
            shapely.Polygon(
                points[o[0] : o[1]] + 0.5,
                [points[a:b] + 0.5 for a, b in itertools.pairwise(o[1:])],
            )
            for points, o in zip(filled, offsets, strict=True)
        ]
    )
    assert ours.is_valid
    assert shapely.area(ours.symmetric_difference(theirs)) < 0.07 * theirs.length + 12 * 3


def wedge(half_angle_deg: float, radius_px: float, apex: tuple[float, float]) -> shapely.Polygon:
    """A wedge that points to the right, 120 px long, its tip rounded."""
    slope = np.tan(np.radians(half_angle_deg))
    x, y = apex
    sharp = shapely.Polygon([(x, y), (x - 120, y + 120 * slope), (x - 120, y - 120 * slope)])
    return sharp.buffer(-radius_px).buffer(radius_px, quad_segs=32) if radius_px else sharp


def covered(shape: shapely.Polygon, fine: int = 16) -> np.ndarray:
    """Coverage of a (100, 160) picture, each pixel by `fine` times as many samples across."""
    large = np.zeros((100 * fine, 160 * fine), np.uint8)
    points = np.round(shapely.get_coordinates(shape.exterior) * fine - 0.5).astype(np.int32)
    cv2.fillPoly(large, [points], 255)
    return cv2.resize(large, (160, 100), interpolation=cv2.INTER_AREA)


@pytest.mark.parametrize("row", [50.1, 50.4])
def test_a_slim_tip_is_carried_on_and_a_round_one_is_not(row: float) -> None:
    slim = trace(covered(wedge(8.5, 0, (140.0, row)))).shape
    # Half coverage ends where it is a pixel wide or half a pixel: 1.7 to 3.3 px short, by where the rows lie.
    assert slim.bounds[2] == pytest.approx(140, abs=1.2)
    blunt = wedge(20, 1.4, (140.0, row))
    found = trace(covered(blunt)).shape
    # Where its flanks meet is 2.7 px beyond its round end.
    assert found.bounds[2] == pytest.approx(blunt.bounds[2], abs=0.5)


def test_size_is_the_outline_not_the_canvas() -> None:
    alpha = np.zeros((300, 500), np.uint8)
    alpha[100:150, 200:400] = 255
    lines = cut_lines(trace(alpha), longest_mm=60, border_mm=1)
    assert (lines.width_mm, lines.height_mm) == pytest.approx((60, 15))
    assert lines.kiss.bounds == pytest.approx((-1, -1, 61, 16), abs=0.01)


def test_art_cut_flat_by_the_edge_of_the_picture_closes_there() -> None:
    alpha = np.full((40, 80), 255, np.uint8)
    outline = trace(alpha)
    assert outline.box_px == pytest.approx((-0.0, -0.0, 80.0, 40.0), abs=0.01)


def test_a_border_that_joins_leaves_one_piece() -> None:
    alpha = np.zeros((200, 420), np.uint8)
    alpha[50:150, 50:150] = alpha[50:150, 270:370] = 255  # 120 px apart, 320 px long in all
    outline = trace(alpha)
    gap_mm = 120 * 64 / 320  # 24 mm when the whole is 64 mm long
    assert cut_lines(outline, 64, gap_mm / 2 - 0.1).pieces == 2
    assert cut_lines(outline, 64, gap_mm / 2 + 0.1).pieces == 1


def test_a_ring_keeps_its_hole_until_the_border_fills_it() -> None:
    alpha, _ = drawings.coverage(drawings.ring(200, 100))
    outline = trace(alpha)
    assert cut_lines(outline, 40, 2).holes == 1
    assert cut_lines(outline, 40, 10.2).holes == 0  # the hole is 20 mm across


def test_the_through_line_is_the_kiss_line_plus_the_peel_margin() -> None:
    alpha, _ = drawings.coverage(drawings.disc(200))
    lines = cut_lines(trace(alpha), 40, 2, peel_mm=3)
    true = shapely.Point(20, 20).buffer(25, quad_segs=200)
    assert edge_distance(lines.through, true).max() < 0.05


def test_dust_is_left_out_and_counted() -> None:
    alpha, _ = drawings.coverage(drawings.disc(60))
    alpha[2:4, 2:5] = 255
    outline = trace(alpha)
    assert outline.specks == 1
    assert len(outline.shape.geoms) == 1


def test_nothing_covered_gives_an_empty_outline() -> None:
    assert trace(np.full((30, 30), 127, np.uint8)).shape.is_empty


def test_pieces_inside_holes_keep_their_own_holes() -> None:
    alpha, _ = drawings.coverage(shapely.union(drawings.ring(200, 150), drawings.ring(100, 50)))
    shape = trace(alpha).shape
    assert shape.is_valid
    assert sorted(len(part.interiors) for part in shape.geoms) == [1, 1]
    assert shape.area == pytest.approx(np.pi * (200**2 - 150**2 + 100**2 - 50**2), rel=3e-3)
