"""What lies behind the art: one colour, or colours that change smoothly from edge to edge."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.cielab import lab_of

BAND_PX = 12
SMOOTHED_PX = 5
"""Grain and JPEG are averaged out over this before colours along the edge are compared."""

SAMPLES = 4000
CELLS = 64
_ORDERS = {3: 1, 6: 2, 10: 3}
"""Order of a polynomial of two variables by how many terms it has."""

LIKE_DELTA_E = 4.0
"""CIELAB distance within which averaged colours along the edge are one colour."""

GRADIENT_DELTA_E = 2.5
LEAST_GAIN = 0.1
"""A gradient is believed when it explains this much more of the edge than one colour does, or twice as well."""

EVEN_DELTA_E = 0.5
FAR_OFF = 100.0


@dataclass(frozen=True)
class Ground:
    """One colour behind the art, or a `surface`: a polynomial of the place for each of red, green and blue.

    `share` is the part of the picture's edge that is so, `spread` the CIELAB scatter of its pixels about it.
    """

    colour: tuple[int, int, int]
    share: float
    spread: float
    surface: tuple[tuple[float, float, float], ...] | None = None

    @property
    def cells(self) -> NDArray[np.float32] | None:
        """(`CELLS`, `CELLS`, 3) colours of the surface, spread over the picture; 0 to 255."""
        if self.surface is None:
            return None
        fit = np.array(self.surface)
        axis = (np.arange(CELLS) + 0.5) / CELLS * 2 - 1
        grid = np.stack(np.meshgrid(axis, axis), axis=-1).reshape(-1, 2)
        return (
            (_terms(grid, _ORDERS[len(fit)]) @ fit).reshape(CELLS, CELLS, 3).clip(0, 255).astype(np.float32)
        )


def cells_of(rgb: NDArray[np.uint8], ground: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Colours of a ground that changes, taken from the pixels of (h, w, 3) known to be ground and spread smoothly
    where art hides it."""
    bare = ground.astype(np.float32)
    size = (CELLS, CELLS)
    weight = np.asarray(cv2.resize(bare, size, interpolation=cv2.INTER_AREA), np.float32)
    total = cv2.resize(rgb * bare[..., None], size, interpolation=cv2.INTER_AREA)
    return _spread(np.asarray(total, np.float32), weight)


def _spread(total: NDArray[np.float32], weight: NDArray[np.float32]) -> NDArray[np.float32]:
    """Means of cells, those without any filled from their surroundings (push and pull: Gortler and others 1996)."""
    if min(weight.shape) == 1:
        return np.asarray(total / np.maximum(weight[..., None], 1e-6), np.float32)
    coarse = _spread(np.asarray(cv2.pyrDown(total)), np.asarray(cv2.pyrDown(weight)))
    size = weight.shape[::-1]
    behind = np.asarray(cv2.resize(coarse.reshape(*coarse.shape[:2], 3), size, interpolation=cv2.INTER_CUBIC))
    part = np.minimum(weight * 4, 1)[..., None]
    mean = total / np.maximum(weight[..., None], 1e-6)
    return np.asarray(mean * part + behind * (1 - part), np.float32)


@dataclass(frozen=True)
class _Edge:
    """Samples along the picture's edge: places from -1 to 1, colours averaged over grain, and scatter about them."""

    places: NDArray[np.float64]
    colours: NDArray[np.float32]
    lab: NDArray[np.float32]
    grain: NDArray[np.float32]


def find_ground(rgb: NDArray[np.uint8]) -> Ground:
    """What most of the edge of an (h, w, 3) picture has in common: look at `share` before believing it."""
    edge = _edge(rgb)
    middle = _main_colour(edge.lab)
    apart = np.linalg.norm(edge.lab - edge.lab[middle], axis=1)
    near = apart < LIKE_DELTA_E
    # Once more about the median, so that the share does not hang on the sample that was picked.
    median = np.median(edge.colours[near], axis=0)
    apart = np.linalg.norm(edge.lab - lab_of(median[None].round().astype(np.uint8)), axis=1)
    near = apart < LIKE_DELTA_E
    colour = _colour(median)
    spread = float(np.percentile(edge.grain[near], 90)) if near.any() else 0.0
    plain = Ground(colour, float(near.mean()), spread)
    even = float(np.percentile(apart[near], 75)) if near.any() else FAR_OFF
    if even < EVEN_DELTA_E and plain.share > 1 - LEAST_GAIN:
        return plain
    fit, off = _gradient(edge, near)
    along = off < GRADIENT_DELTA_E
    bent = float(np.percentile(off[along], 75)) if along.any() else FAR_OFF
    gained, twice_as_well = along.mean() >= plain.share + LEAST_GAIN, even >= max(EVEN_DELTA_E, 2 * bent)
    if along.mean() < max(0.5, plain.share - 0.05) or not (gained or twice_as_well):
        return plain
    return Ground(
        _colour(np.median(edge.colours[along], axis=0)),
        float(along.mean()),
        float(np.percentile(edge.grain[along], 90)),
        tuple((float(r), float(g), float(b)) for r, g, b in fit),
    )


def _colour(rgb: NDArray[np.floating]) -> tuple[int, int, int]:
    r, g, b = (round(float(c)) for c in rgb)
    return r, g, b


def _edge(rgb: NDArray[np.uint8]) -> _Edge:
    height, width = rgb.shape[:2]
    band = min(BAND_PX, max(1, min(height, width) // 8))
    window = min(SMOOTHED_PX, band)
    places, colours, exact = [], [], []
    for left, top, right, bottom in (
        (0, 0, width, band),
        (0, height - band, width, height),
        (0, 0, band, height),
        (width - band, 0, width, height),
    ):
        strip = np.ascontiguousarray(rgb[top:bottom, left:right])
        mean = cv2.blur(strip.astype(np.float32), (window, window), borderType=cv2.BORDER_REPLICATE)
        x, y = np.meshgrid(np.arange(left, right), np.arange(top, bottom))
        places.append(np.column_stack([x.ravel() / width, y.ravel() / height]) * 2 - 1)
        colours.append(np.asarray(mean, np.float32).reshape(-1, 3))
        exact.append(strip.reshape(-1, 3))
    at = np.concatenate(places)
    step = max(1, len(at) // SAMPLES)
    averaged, own = np.concatenate(colours)[::step], np.concatenate(exact)[::step]
    lab = lab_of(averaged)
    return _Edge(at[::step], averaged, lab, np.linalg.norm(lab_of(own.astype(np.float32)) - lab, axis=1))


def _main_colour(lab: NDArray[np.float32]) -> int:
    """Index of the sample with most others near it, looked for among a few dozen."""
    candidates = np.linspace(0, len(lab) - 1, 64).astype(int)
    near = np.linalg.norm(lab[candidates, None] - lab[None, ::4], axis=2) < LIKE_DELTA_E
    return int(candidates[near.sum(axis=1).argmax()])


def _terms(places: NDArray[np.float64], order: int) -> NDArray[np.float64]:
    """Monomials of x and y up to an order: on a rectangle's border they are independent up to the third."""
    x, y = places.T
    return np.column_stack([x**i * y ** (n - i) for n in range(order + 1) for i in range(n + 1)])


def _gradient(edge: _Edge, near: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The smooth surface that most of the edge lies on: coefficients (terms, 3), and each sample's distance from it.

    Planes through three samples drawn at random (RANSAC: Fischler and Bolles 1981), the best of them bent and fitted
    to what lies near it.
    """
    rng = np.random.default_rng(1)
    count, some = len(edge.lab), slice(None, None, max(1, len(edge.lab) // 600))
    flat = _terms(edge.places, 1)
    drawn = rng.integers(0, count, (160, 3))
    spans = np.abs(np.linalg.det(flat[drawn]))
    drawn = drawn[spans > 0.3]
    best = near
    if len(drawn):
        planes = np.linalg.solve(flat[drawn], edge.colours[drawn].astype(float))
        off = np.abs(flat[some] @ planes - edge.colours[some]).max(axis=2)
        counted = (off < 6).sum(axis=1)
        most = planes[int(counted.argmax())]
        inside = np.abs(flat @ most - edge.colours).max(axis=1) < 8
        best = inside if inside.sum() > near.sum() else near
    fit, distance = np.zeros((6, 3)), np.full(count, 1e3)
    for order in (1, 2, 2, 3):
        if best.sum() < 40:
            break
        terms = _terms(edge.places, order)
        fit = np.linalg.lstsq(terms[best], edge.colours[best].astype(float), rcond=None)[0]
        distance = np.linalg.norm(
            lab_of((terms @ fit).clip(0, 255).astype(np.float32)) - edge.lab, axis=1
        ).astype(float)
        best = distance < 2 * GRADIENT_DELTA_E
    return fit, distance
