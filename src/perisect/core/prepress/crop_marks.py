"""A sheet on a larger page, with crop marks, for whoever prints on larger paper and trims."""

import io

import pikepdf

from perisect.core.prepress.page import VERSION
from perisect.core.units import POINTS_PER_MM

BLEED_MM = 3.0
LONG_MM = 5.0
AROUND_MM = BLEED_MM + LONG_MM + 1.0
"""The page reaches so far past the sheet on each side."""
LINE_PT = 0.25


def with_crop_marks(pdf: bytes) -> bytes:
    """The pages of a sheet's file, each larger than the sheet; its trim box is the sheet still, its bleed box 3 mm past
    it, and the marks stand outside of that (ISO 32000-2, 14.11.2)."""
    k = POINTS_PER_MM
    with pikepdf.open(io.BytesIO(pdf)) as file:
        for page in file.pages:
            left, low, right, high = (float(side) for side in page.mediabox)
            page.obj.TrimBox = pikepdf.Array(page.mediabox)
            for box, mm in (("/MediaBox", AROUND_MM), ("/BleedBox", BLEED_MM)):
                page.obj[box] = pikepdf.Array([left - mm * k, low - mm * k, right + mm * k, high + mm * k])
            page.contents_add(_marks(left, low, right, high).encode())
        out = io.BytesIO()
        file.save(out, deterministic_id=True, min_version=VERSION)
        return out.getvalue()


def _marks(left: float, low: float, right: float, high: float) -> str:
    """Two strokes at each corner, along its edges and clear of the bleed."""
    near, far = BLEED_MM * POINTS_PER_MM, (BLEED_MM + LONG_MM) * POINTS_PER_MM
    strokes = [f"q 0 G {LINE_PT} w"]
    for x, out_x in ((left, -1), (right, 1)):
        for y, out_y in ((low, -1), (high, 1)):
            strokes.append(f"{x + out_x * near:.4f} {y:.4f} m {x + out_x * far:.4f} {y:.4f} l S")
            strokes.append(f"{x:.4f} {y + out_y * near:.4f} m {x:.4f} {y + out_y * far:.4f} l S")
    return "\n".join([*strokes, "Q"])
