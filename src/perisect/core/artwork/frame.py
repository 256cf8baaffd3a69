"""Frames round whole pictures, and shapes behind clear art."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.colour import levels
from perisect.core.artwork.decode import check_size
from perisect.core.artwork.errors import ArtworkError
from perisect.core.artwork.picture import alpha_of
from perisect.core.artwork.recipe import BackingRecipe, FrameRecipe


@dataclass(frozen=True)
class Framed:
    """A picture with its frame, and where its first pixel lies in the picture before."""

    rgba: NDArray[np.uint8]
    left_px: int
    top_px: int


@dataclass(frozen=True)
class _Shape:
    """A shape by its middle and half sides in px."""

    kind: str
    x: float
    y: float
    half_width: float
    half_height: float
    radius: float = 0.0

    def grown(self, by: float) -> "_Shape":
        return _Shape(
            self.kind,
            self.x,
            self.y,
            max(self.half_width + by, 0.5),
            max(self.half_height + by, 0.5),
            max(self.radius + by, 0) if self.kind == "rounded" else 0,
        )

    def coverage(self, width: int, height: int, left: int = 0, top: int = 0) -> NDArray[np.float32]:
        """(h, w) coverage of pixels from (`left`, `top`): signed distance to the edge plus a half, clipped."""
        x = np.abs(np.arange(left, left + width, dtype=np.float32) + np.float32(0.5 - self.x))[None, :]
        y = np.abs(np.arange(top, top + height, dtype=np.float32) + np.float32(0.5 - self.y))[:, None]
        a, b = np.float32(self.half_width), np.float32(self.half_height)
        if self.kind in ("circle", "ellipse"):
            # Distance to an ellipse to first order: value over length of gradient.
            value = (x / a) ** 2 + (y / b) ** 2 - 1
            gradient = 2 * np.sqrt((x / a**2) ** 2 + (y / b**2) ** 2)
            inside = -value / np.maximum(gradient, 1e-6)
        else:
            radius = np.float32(min(self.radius, self.half_width, self.half_height))
            across, along = x - (a - radius), y - (b - radius)
            outer = np.hypot(np.maximum(across, 0), np.maximum(along, 0))
            inside = radius - outer - np.minimum(np.maximum(across, along), 0)
        return np.clip(inside + np.float32(0.5), 0, 1)


def framed(rgba: NDArray[np.uint8], frame: FrameRecipe, longest_mm: float) -> Framed:
    """The picture cut to a frame as large as it allows, with the frame's border.

    Args:
        longest_mm: longer side of the whole, border and all.

    Raises:
        ArtworkError: the border leaves no picture.
    """
    height, width = rgba.shape[:2]
    kind = frame.shape
    half = min(width, height) / 2
    a, b = (half, half) if kind == "circle" else (width / 2, height / 2)
    longest = 2 * max(a, b)
    outside = frame.border_mm if frame.border == "outside" else 0.0
    px_per_mm = longest / _room(longest_mm, outside)
    border = frame.border_mm * px_per_mm
    shape = _Shape(kind, width / 2, height / 2, a, b, frame.radius_mm * px_per_mm if kind == "rounded" else 0)
    if frame.border == "inside" and border >= half:
        raise ArtworkError("The border covers the whole picture.", "Make it narrower, or the piece larger.")
    if border == 0:
        if kind == "rectangle":
            return Framed(rgba, 0, 0)
        out = rgba.copy()
        out[..., 3] = np.round(rgba[..., 3] * shape.coverage(width, height)).astype(np.uint8)
        return Framed(out, 0, 0)
    outer, inner = (shape, shape.grown(-border)) if frame.border == "inside" else (shape.grown(border), shape)
    return _over_shape(rgba, outer, frame.colour, inner)


def backed(rgba: NDArray[np.uint8], backing: BackingRecipe, longest_mm: float) -> Framed:
    """The art on the least shape of one colour that holds it with a margin.

    A circle is the least enclosing one; an oval has the sides of the art's box and is grown about its
    middle until it holds the art; a box has the art's box inside it.

    Raises:
        ArtworkError: there is no art, or the margin leaves no room for it at this size.
    """
    covered = cv2.findNonZero(cv2.inRange(alpha_of(rgba), 128, 255))
    if covered is None:
        raise ArtworkError("Every pixel of the picture is clear.", "There is nothing to put a shape behind.")
    found = np.asarray(covered, np.float32)
    hull = np.asarray(cv2.convexHull(found)).reshape(-1, 2)
    # The hull of pixel centres misses half a pixel all round.
    (left, top), (right, bottom) = hull.min(axis=0), hull.max(axis=0) + 1
    if backing.shape == "circle":
        (x, y), radius = cv2.minEnclosingCircle(hull)
        shape = _Shape("circle", x + 0.5, y + 0.5, radius + 0.5, radius + 0.5)
    else:
        x, y, a, b = (left + right) / 2, (top + bottom) / 2, (right - left) / 2, (bottom - top) / 2
        if backing.shape == "ellipse":
            reach = float(np.sqrt((((hull + 0.5 - (x, y)) / (a, b)) ** 2).sum(axis=1).max()))
            a, b = a * reach + 0.5, b * reach + 0.5
        shape = _Shape(backing.shape, x, y, a, b)
    longest = 2 * max(shape.half_width, shape.half_height)
    px_per_mm = longest / _room(longest_mm, backing.margin_mm)
    shape = shape.grown(backing.margin_mm * px_per_mm)
    if backing.shape == "rounded":
        # A corner rounder than this would cut into the corner of the art's box.
        most = backing.margin_mm * px_per_mm * (2 + 2**0.5)
        shape = _Shape(
            "rounded",
            shape.x,
            shape.y,
            shape.half_width,
            shape.half_height,
            min(backing.radius_mm * px_per_mm, most),
        )
    return _over_shape(rgba, shape, backing.colour)


def _room(longest_mm: float, around_mm: float) -> float:
    room = longest_mm - 2 * around_mm
    if room < 2:
        raise ArtworkError(
            "The border leaves no room for the picture.",
            f"At {longest_mm:g} mm make it narrower, or the piece larger.",
        )
    return room


def _over_shape(rgba: NDArray[np.uint8], outer: _Shape, colour: str, inner: _Shape | None = None) -> Framed:
    """The picture, cut to `inner` where there is one, over `outer` filled with a colour; the canvas grows."""
    height, width = rgba.shape[:2]
    left = min(0, int(np.floor(outer.x - outer.half_width)) - 1)
    top = min(0, int(np.floor(outer.y - outer.half_height)) - 1)
    right = max(width, int(np.ceil(outer.x + outer.half_width)) + 1)
    bottom = max(height, int(np.ceil(outer.y + outer.half_height)) + 1)
    check_size(right - left, bottom - top)
    pads = ((-top, bottom - height), (-left, right - width))
    art = np.pad(rgba, (*pads, (0, 0)))
    size = (right - left, bottom - top)
    cover = art[..., 3].astype(np.float32) / 255
    if inner is not None:
        cover *= inner.coverage(*size, left, top)
    under = outer.coverage(*size, left, top)
    # Porter and Duff's "over", the shape below.
    alpha = cover + under * (1 - cover)
    base = np.array(levels(colour), np.float32)
    mixed = (art[..., :3] * cover[..., None] + base * (under * (1 - cover))[..., None]) / np.maximum(
        alpha, 1e-6
    )[..., None]
    # What reaches beyond the shape is cut off with it.
    alpha = np.minimum(alpha, under) if inner is not None else alpha
    return Framed(np.dstack([mixed, alpha * 255]).round().clip(0, 255).astype(np.uint8), left, top)
