"""Stages of long work: each is further than the one before it."""

import io

import numpy as np
import pytest
from PIL import Image

from perisect.core import stage
from perisect.core.artwork import MendRecipe
from perisect.core.artwork.decode import decode
from perisect.core.catalogue import words
from perisect.core.job.traced import trace_artwork
from perisect.core.stage import Stage
from tests.core.pictures import on


def picture() -> bytes:
    """A disc and a speck on a white ground."""
    y, x = np.mgrid[:300, :300]
    cover = np.maximum((np.hypot(x - 150, y - 150) < 90), (np.hypot(x - 20, y - 20) < 2)).astype(float)
    rgb = on(255.0, (60.0, 120.0, 150.0), cover)
    file = io.BytesIO()
    Image.fromarray(np.asarray(rgb, dtype=np.uint8)[..., :3]).save(file, "PNG")
    return file.getvalue()


@pytest.mark.parametrize(
    "mend",
    [
        {},
        {"background": "plain", "specks_px2": 40.0},
        {"background": "plain", "enlarge": 2},
        {"frame": {"shape": "rounded"}},
    ],
)
def test_no_stage_of_a_picture_goes_back(mend: dict) -> None:
    told: list[Stage] = []
    trace_artwork(decode(picture()), MendRecipe.model_validate(mend), 40.0, told.append)
    shares = [each.share for each in told]
    assert shares == sorted(shares)
    assert told[0] == stage.BACKGROUND
    assert stage.TRACING in told


def test_what_is_done_rises_from_drawing_to_drawing_and_second_to_second() -> None:
    drawings = [stage.drawing(number, 5).share for number in range(1, 6)]
    assert drawings == sorted(drawings)
    assert (drawings[0], max(drawings) < 1) == (0.4, True)
    seconds = [stage.nesting(left, 8).share for left in range(8, -1, -1)]
    assert (seconds[0], seconds[-1]) == (0.0, 1.0)
    assert seconds == sorted(seconds)
    assert words(stage.nesting(3, 8).message) == "Nesting, 3 of 8 s left"
    assert words(stage.waiting(1).message) == "Waiting behind 1 other"
    assert words(stage.waiting(2).message) == "Waiting behind 2 others"
