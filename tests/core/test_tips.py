"""A sharp tip ends where its flanks meet, whichever way it points."""

import numpy as np
import pytest
import shapely
from shapely import affinity

from perisect.core.lines import SizedArt, trace
from tests.core import drawings


@pytest.mark.parametrize("turn", range(0, 72, 9))
def test_a_tip_of_36_degrees_is_found_within_a_pixel(turn: int) -> None:
    star = affinity.rotate(drawings.star(300, 300 * 0.382), turn)
    alpha, true = drawings.coverage(star)
    found = shapely.get_coordinates(trace(alpha).shape)
    tips = shapely.get_coordinates(true)[:10:2]
    away = [np.hypot(*(found - tip).T).min() for tip in tips]
    assert max(away) < 1


def test_a_round_end_stays_round() -> None:
    bar = shapely.LineString([(0, 0), (300, 40)]).buffer(4, quad_segs=60)
    alpha, true = drawings.coverage(bar)
    outline = trace(alpha).shape
    assert shapely.hausdorff_distance(outline, true) < 0.6
    assert outline.area == pytest.approx(true.area, rel=0.01)


def wedge(half_angle_deg: float, radius_px: float = 0.0) -> shapely.Polygon:
    """120 px long, its tip round."""
    slope = np.tan(np.radians(half_angle_deg))
    sharp = shapely.Polygon([(0, 0), (-120, 120 * slope), (-120, -120 * slope)])
    return sharp.buffer(-radius_px).buffer(radius_px, quad_segs=32)


@pytest.mark.parametrize("turn", [0, 17, 45, 71])
@pytest.mark.parametrize("half_angle_deg", [4, 6, 8.5, 15, 25])
def test_a_slim_tip_ends_where_its_coverage_does(half_angle_deg: float, turn: float) -> None:
    """Half coverage ends up to seven pixels before it."""
    alpha, true = drawings.coverage(affinity.rotate(wedge(half_angle_deg), turn, origin=(0, 0)))
    tip = shapely.get_coordinates(true)[0]
    found = shapely.get_coordinates(trace(alpha).shape)
    assert np.hypot(*(found - tip).T).min() < 0.4


@pytest.mark.parametrize("half_angle_deg", [4, 8.5, 20])
@pytest.mark.parametrize("radius_px", [2, 3])
def test_a_tip_that_is_round_is_not_drawn_out(half_angle_deg: float, radius_px: float) -> None:
    """A sharp one would end 1.9 px or more further out."""
    for turn in (0, 17, 45, 71):
        shape = affinity.rotate(wedge(half_angle_deg, radius_px), turn, origin=(0, 0))
        alpha, true = drawings.coverage(shape)
        along = np.array([np.cos(np.radians(turn)), np.sin(np.radians(turn))])
        found, wanted = ((shapely.get_coordinates(each) @ along).max() for each in (trace(alpha).shape, true))
        assert found == pytest.approx(wanted, abs=0.4)


def leaf(half_width: float, length_px: float) -> shapely.Polygon:
    """Between two arcs that meet in its tips."""
    radius = (1 + half_width**2) / (2 * half_width)
    upper, lower = (
        shapely.Point(0, way * (radius - half_width)).buffer(radius, quad_segs=2000) for way in (1, -1)
    )
    return affinity.scale(upper & lower, length_px / 2, length_px / 2, origin=(0, 0))


@pytest.mark.parametrize("turn", [3, 29, 52])
@pytest.mark.parametrize("half_width", [0.12, 0.2, 0.35])
def test_a_tip_between_bent_flanks_is_found(half_width: float, turn: float) -> None:
    alpha, true = drawings.coverage(affinity.rotate(leaf(half_width, 400), turn, origin=(0, 0)))
    outline = shapely.segmentize(trace(alpha).shape, 0.5)
    assert shapely.hausdorff_distance(outline, shapely.segmentize(true, 0.5)) < 0.75


@pytest.mark.parametrize(("tips", "inner", "turn"), [(8, 0.15, 5), (6, 0.2, 31), (5, 0.18, 62)])
def test_a_border_round_slim_tips_is_within_a_twentieth_of_a_millimetre(
    tips: int, inner: float, turn: float
) -> None:
    """Tips of 8 to 17 degrees at 300 ppi."""
    angle = np.arange(2 * tips) * np.pi / tips
    radius = np.where(np.arange(2 * tips) % 2 == 0, 260, 260 * inner)
    star = shapely.Polygon(np.column_stack([radius * np.cos(angle), radius * np.sin(angle)]))
    assert border_off_mm(affinity.rotate(star, turn, origin=(0, 0))) < 0.05


def border_off_mm(shape: shapely.Polygon) -> float:
    """How far a border of 2 mm round a shape (pixels of 300 ppi) is from the exact one, grown by Shapely."""
    alpha, true = drawings.coverage(shape)
    outline = trace(alpha)
    mm = 25.4 / 300
    art = SizedArt(outline, outline.longest_px * mm)
    left, top, *_ = outline.box_px
    exact = shapely.transform(true, lambda at: (at - (left, top)) * mm).buffer(2, quad_segs=200)
    border = art.lines(2.0).own_line.shape
    return float(
        shapely.hausdorff_distance(
            shapely.segmentize(border.boundary, 0.05), shapely.segmentize(exact.boundary, 0.05)
        )
    )


def flame(lobes: int, bend: float, skew: float, turn: float) -> shapely.Polygon:
    """Lobes 150 px long whose flanks bend towards their tips, one longer than the other."""
    tips = (np.arange(lobes) + skew) * 2 * np.pi / lobes
    angle = np.unique(np.concatenate([np.linspace(0, 2 * np.pi, 4000, endpoint=False), tips]))
    along = angle * lobes / (2 * np.pi) % 1
    rising = np.where(along < skew, along / skew, (1 - along) / (1 - skew))
    radius = 150 * (0.35 + 0.65 * np.where(np.abs(along - skew) < 1e-9, 1, rising) ** bend)
    points = np.column_stack([np.cos(angle) * radius, np.sin(angle) * radius])
    return affinity.rotate(shapely.Polygon(points), turn, origin=(0, 0))


@pytest.mark.parametrize(
    ("lobes", "bend", "skew", "turn"),
    [(3, 2.36, 0.6, 84), (4, 2.0, 0.6, 72), (4, 2.36, 0.6, 42), (3, 2.0, 0.5, 60)],
)
def test_a_tip_that_bent_flanks_lead_to_is_drawn_out_no_further_than_it_goes(
    lobes: int, bend: float, skew: float, turn: float
) -> None:
    """Straight on, the flanks meet up to a pixel further out; those of 80 degrees at the tip are seen four times."""
    assert border_off_mm(flame(lobes, bend, skew, turn)) < 0.05


def petals(count: int, half_width: float, turn: float) -> shapely.Polygon:
    """Round a middle, each between two arcs that meet at its end."""
    one = affinity.translate(leaf(half_width, 260), 120, 0)
    whole = shapely.union_all([affinity.rotate(one, 360 * n / count, origin=(0, 0)) for n in range(count)])
    return affinity.rotate(shapely.Polygon(whole.exterior), turn, origin=(0, 0))


@pytest.mark.parametrize(("count", "half_width", "turn"), [(3, 0.4, 7), (3, 0.4, 23), (4, 0.35, 38)])
def test_a_border_round_corners_of_eighty_degrees_is_within_a_twentieth_of_a_millimetre(
    count: int, half_width: float, turn: float
) -> None:
    """Arcs of this width meet at 77 and 87 degrees, four times its arc tangent; a pixel inwards they look wider."""
    assert border_off_mm(petals(count, half_width, turn)) < 0.05
