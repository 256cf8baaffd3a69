"""A sharp tip ends where its flanks meet, whichever way it points."""

import numpy as np
import pytest
import shapely
from shapely import affinity

from perisect.core.lines import trace
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
