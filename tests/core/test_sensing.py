"""Marks of every shape on sheets that lie askew."""

import numpy as np
import pytest
from bench.sensing import Laid, MarkedSheet


@pytest.mark.long
@pytest.mark.parametrize("shape", ["quartered", "square", "angle", "frame_corner"])
def test_a_sheet_that_lies_askew_is_sensed_to_a_hundredth_of_a_pixel(shape: str) -> None:
    """A picture of a mark that does not turn with the sheet is off by up to 30 um at a degree."""
    sheet, rng = MarkedSheet(shape), np.random.default_rng(5)
    for turn_deg in (-1.0, 0.0, 0.6):
        beside = sheet.found_beside_mm(Laid(0.2, -0.3, np.radians(turn_deg)), rng, noise=0.0)
        assert np.abs(beside).max() <= 0.001
