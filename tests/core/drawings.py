"""Art drawn for the tests with antialiasing, beside the exact shape it was drawn from.

Coverage is found by 8 × 8 samples a pixel, which is within 0.02 of a pixel's true coverage.
"""

import io

import cv2
import numpy as np
import shapely
from PIL import Image

PX_PER_MM = 300 / 25.4


def disc(radius_px: float) -> shapely.Polygon:
    return shapely.Point(0, 0).buffer(radius_px, quad_segs=400)


def ring(outer_px: float, inner_px: float) -> shapely.Polygon:
    return disc(outer_px).difference(disc(inner_px))


def star(outer_px: float, inner_px: float) -> shapely.Polygon:
    turn = np.arange(10) * np.pi / 5 - np.pi / 2
    radius = np.where(np.arange(10) % 2 == 0, outer_px, inner_px)
    return shapely.Polygon(np.column_stack([radius * np.cos(turn), radius * np.sin(turn)]))


def coverage(shape: shapely.Geometry, samples: int = 8) -> tuple[np.ndarray, shapely.Geometry]:
    """Alpha picture of a shape with 12 clear pixels round it, and the shape moved into the picture."""
    left, top, right, bottom = shape.bounds
    moved = shapely.transform(shape, lambda xy: xy - (left - 12.37, top - 12.81))
    width, height = int(right - left) + 26, int(bottom - top) + 26
    fine = np.zeros((height * samples, width * samples), np.uint8)
    # OpenCV fills the samples on the edge too, half a sample more than the shape.
    inner = moved.buffer(-0.5 / samples, join_style="mitre", mitre_limit=10)
    for part in shapely.get_parts(inner):
        for colour, rings in ((255, [part.exterior]), (0, part.interiors)):
            for line in rings:
                # Sample k of the fine grid lies at (k + 0.5) / samples; four bits of sub-pixel place.
                points = np.round((np.asarray(line.coords) * samples - 0.5) * 16).astype(np.int32)
                cv2.fillPoly(fine, [points], colour, shift=4)
    mean = fine.reshape(height, samples, width, samples).mean(axis=(1, 3))
    return np.round(mean).astype(np.uint8), moved


def png(alpha: np.ndarray, colour: tuple[int, int, int] = (60, 120, 150)) -> bytes:
    """A PNG of one colour with this alpha."""
    rgba = np.dstack([np.full(alpha.shape, c, np.uint8) for c in colour] + [alpha])
    file = io.BytesIO()
    Image.fromarray(rgba).save(file, "PNG")
    return file.getvalue()
