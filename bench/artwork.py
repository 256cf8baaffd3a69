"""Backgrounds: verdicts and removal on pictures made here."""

from collections.abc import Iterator

import cv2
import numpy as np
from tests.core import pictures
from tests.core.test_artwork import saved
from tests.core.test_background import backgrounds, without_background

from bench.figure import Figure, seconds
from perisect.core.artwork import MendRecipe, decode_rgba, judge, mend

EACH = 100


def backgrounds_judged_and_removed() -> Iterator[Figure]:
    """Share of wrong verdicts on 400 pictures, and what removal misses of the true art."""
    wrong, missed = 0, {"plain": [], "checkerboard": []}  # type: ignore[var-annotated]
    for seed in range(1000, 1000 + EACH):
        for wanted, picture, art in backgrounds(seed):
            judged = judge(picture)
            wrong += judged.verdict is not wanted
            if judged.verdict.value in missed and judged.verdict is wanted:
                ours, true = without_background(picture, judged)[..., 3] > 127, art[..., 3] > 127
                missed[judged.verdict.value].append(1 - (ours & true).sum() / (ours | true).sum())
    yield Figure(f"wrong verdicts of {4 * EACH}", wrong / (4 * EACH), 0.75, "  ", "by guessing  ", 0.02)
    for kind, bar in (("plain", 0.01), ("checkerboard", 0.02)):
        yield Figure(
            f"1 - mean overlap, {kind}", float(np.mean(missed[kind])), bar, "  ", "allowed      ", bar
        )


def time_of_a_verdict_and_removal() -> Iterator[Figure]:
    """Judge and remove for 2000 x 2000 px, against decoding the same picture."""
    from PIL import Image

    rng = np.random.default_rng(5)
    art = pictures.art(rng, 2000)
    for kind, behind in (("plain", pictures.plain(rng, 2000)), ("checkerboard", pictures.squares(rng, 2000))):
        png = saved(Image.fromarray(pictures.solid(pictures.over(art, behind))))
        rgba = decode_rgba(png)
        recipe = MendRecipe(background=kind)  # type: ignore[arg-type]
        ours = seconds(lambda: mend(rgba, judge(rgba), recipe), 5)  # noqa: B023
        base = seconds(lambda: cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_UNCHANGED), 5)  # noqa: B023
        yield Figure(f"verdict and removal, {kind}", ours, base, "s", "OpenCV decode", min(0.6, 4 * base))
