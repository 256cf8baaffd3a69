"""A scan or a photo of a cut sheet, as a flatbed or somebody's phone takes it: cuts are thin and a little darker."""

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
CUT_MM = 0.12
OVER = 3
"""A cut is drawn so many times finer than the print before the sheet is taken."""


def cut_sheet(printed: Picture, px_per_mm: float, strokes: list[NDArray[np.float64]], seed: int) -> Picture:
    """(h, w, 3) the printed sheet with its cuts as fine shadows, OVER times finer; strokes in sheet mm."""
    rng = np.random.default_rng([seed, 30])
    k = px_per_mm * OVER
    large = cv2.resize(printed, None, fx=OVER, fy=OVER, interpolation=cv2.INTER_LINEAR)
    shade = np.zeros(large.shape[:2], np.uint8)
    for stroke in strokes:
        points = np.round((stroke * k - 0.5) * 16).astype(np.int32)
        cv2.polylines(shade, [points], False, 255, max(round(CUT_MM * k), 1), cv2.LINE_AA, 4)
    depth = rng.uniform(0.25, 0.5)
    return np.asarray(large * (1 - depth * (shade[..., None] / np.float32(255))), np.uint8)


def scan(sheet: Picture, px_per_mm: float, seed: int, ppi: float = 300.0) -> Picture:
    """A flatbed's picture: a little turned and shifted, a little off in size, even light."""
    rng = np.random.default_rng([seed, 31])
    k, turn = ppi / 25.4, np.radians(rng.uniform(-1.5, 1.5))
    scale = k / (px_per_mm * OVER) * (1 + rng.normal(0, 0.001))
    height, width = (round(side / OVER / px_per_mm * k) + 80 for side in sheet.shape[:2])
    linear = scale * np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    middle = np.array([sheet.shape[1] / 2, sheet.shape[0] / 2])
    shift = np.array([width / 2, height / 2]) - linear @ middle + rng.uniform(-15, 15, 2)
    soft = cv2.GaussianBlur(sheet, (0, 0), 0.45 / scale)
    seen = cv2.warpAffine(
        soft, np.column_stack([linear, shift]), (width, height), borderValue=(205, 205, 205)
    ).astype(np.float32)
    seen += rng.normal(0, 1.5, seen.shape)
    return np.clip(seen, 0, 255).astype(np.uint8)


def photo(sheet: Picture, px_per_mm: float, seed: int, tilt_deg: float = 25.0) -> Picture:
    """A phone's picture of 12 million pixels: tilted by up to so much, soft, unevenly lit, on a dark table."""
    rng = np.random.default_rng([seed, 32])
    high, wide = 4000, 3000
    tall, broad = sheet.shape[0] / OVER / px_per_mm, sheet.shape[1] / OVER / px_per_mm
    tilt, way, spin = (
        np.radians(rng.uniform(0, tilt_deg)),
        rng.uniform(0, 2 * np.pi),
        np.radians(rng.uniform(-6, 6)),
    )
    axis = np.array([np.cos(way), np.sin(way), 0.0])
    turned, _ = cv2.Rodrigues(axis * tilt)
    spun = np.array([[np.cos(spin), -np.sin(spin), 0], [np.sin(spin), np.cos(spin), 0], [0, 0, 1]])
    far = 1.5 * tall
    corners = np.array([(x, y, 0) for x, y in ((0, 0), (broad, 0), (broad, tall), (0, tall))], float)
    corners[:, :2] -= (broad / 2, tall / 2)
    there = corners @ (turned @ spun).T + (0, 0, far)
    flat = there[:, :2] / there[:, 2:]
    low, top = flat.min(axis=0), flat.max(axis=0)
    fill = rng.uniform(0.86, 0.96) * min(wide / (top - low)[0], high / (top - low)[1])
    at = (flat - (low + top) / 2) * fill + np.array([wide, high]) / 2
    size = np.array(
        [(0, 0), (sheet.shape[1], 0), (sheet.shape[1], sheet.shape[0]), (0, sheet.shape[0])], np.float32
    )
    matrix = cv2.getPerspectiveTransform(size, at.astype(np.float32))
    shrink = px_per_mm * OVER / (fill / far)
    soft = cv2.GaussianBlur(sheet, (0, 0), max(0.5 * shrink, 0.5))
    seen = cv2.warpPerspective(soft, matrix, (wide, high), borderValue=(70, 62, 55)).astype(np.float32)
    seen = np.asarray(cv2.GaussianBlur(seen, (0, 0), rng.uniform(0.6, 1.1)), np.float32)
    light_way = rng.uniform(0, 2 * np.pi)
    x, y = np.meshgrid(np.linspace(-1, 1, wide), np.linspace(-1, 1, high))
    light = (
        1 + rng.uniform(0.05, 0.22) * (x * np.cos(light_way) + y * np.sin(light_way)) - 0.08 * (x * x + y * y)
    )
    seen *= (0.9 * light)[..., None].astype(np.float32)
    seen += rng.normal(0, 2.0, seen.shape)
    file = cv2.imencode(".jpg", np.clip(seen, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 90])[1]
    return np.asarray(cv2.imdecode(file, cv2.IMREAD_COLOR), np.uint8)
