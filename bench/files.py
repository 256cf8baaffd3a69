"""A full A4 sheet of one 2000 x 2000 px picture."""

import io
from collections.abc import Iterator

import numpy as np
from PIL import Image

from bench.art import PICTURES
from bench.figure import Figure, seconds
from perisect.core.artwork import decode
from perisect.core.job import DesignRecipe, JobRecipe, plan_job, trace_artwork
from perisect.core.job.files import print_pdf
from perisect.core.prepress.print_file import encode_picture

HASH = "0" * 64


def full_sheet() -> Iterator[Figure]:
    """Size of the print file against the picture stored once as PNG, and the time from pixels to file."""
    for name, png in PICTURES.items():
        artwork, rgba = trace_artwork(decode(png))
        design = DesignRecipe(id="d1", name="Bench", artwork=HASH, longest_mm=30, peel_mm=2)
        plan = plan_job(JobRecipe(designs=(design,)), {HASH: artwork})
        pdf = print_pdf(plan, 0, {HASH: encode_picture(rgba)})
        once = len(_stored_once(rgba))
        up = plan.sheets.count
        size = Figure(
            f"print.pdf, {up} up, {name}", len(pdf) / 1e6, once / 1e6, "MB", "PNG once     ", 1.2 * once / 1e6
        )
        yield size
        ours = seconds(lambda: print_pdf(plan, 0, {HASH: encode_picture(rgba)}), 3)  # noqa: B023
        base = seconds(lambda: _stored_once(rgba), 3)  # noqa: B023
        yield Figure(f"time of print.pdf, {name}", ours, base, "s", "PNG once     ", 2.0)


def _stored_once(rgba: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(rgba).save(file, "PNG", compress_level=6)
    return file.getvalue()
