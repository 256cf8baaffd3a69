"""Photos of drawn subjects over noise, gradients and texture, their coverage known, and a hand that marks them."""

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.artwork.recipe import Mark, SubjectRecipe
from perisect.core.artwork.subject import subject_alpha

SIDE = 640


def _blob(rng: np.random.Generator, centre: NDArray[np.float64], radius: float) -> NDArray[np.float64]:
    turn = np.linspace(0, 2 * np.pi, 240, endpoint=False)
    reach = np.ones_like(turn)
    for n in range(2, 7):
        reach += rng.normal(0, 0.16 / n) * np.cos(n * turn + rng.uniform(0, 6.28))
    return np.asarray(centre + radius * reach[:, None] * np.column_stack([np.cos(turn), np.sin(turn)]))


def _texture(rng: np.random.Generator, colour: NDArray[np.float64], rough: float) -> NDArray[np.float64]:
    """A colour with light falling over it, and grain of several sizes."""
    y, x = np.mgrid[0:SIDE, 0:SIDE] / SIDE
    slope = rng.normal(0, 26, (2, 1, 1))
    out = colour + (slope[0] * x + slope[1] * y)[..., None]
    for size in (4, 14, 60):
        grain = rng.normal(0, rough, (SIDE // size + 2, SIDE // size + 2)).astype(np.float32)
        out = out + cv2.resize(grain, (SIDE, SIDE), interpolation=cv2.INTER_CUBIC)[..., None]
    return np.asarray(out)


def photo(seed: int) -> tuple[NDArray[np.uint8], NDArray[np.float64]]:
    """(h, w, 3) picture and (h, w) coverage of its subject, 0 to 1: a body of two colours over a ground unlike both."""
    rng = np.random.default_rng(seed)
    ground = rng.uniform(40, 215, 3)
    body = ground + rng.choice([-1, 1], 3) * rng.uniform(45, 110, 3)
    mark = ground + rng.choice([-1, 1], 3) * rng.uniform(45, 120, 3)
    centre = SIDE / 2 + rng.uniform(-60, 60, 2)
    fine, shift = 4, 2
    alpha = np.zeros((SIDE * fine // 2, SIDE * fine // 2), np.uint8)
    second = np.zeros_like(alpha)

    def fill(into: NDArray[np.uint8], points: NDArray[np.float64]) -> None:
        cv2.fillPoly(into, [np.round(points * fine / 2 * (1 << shift)).astype(np.int32)], 255, shift=shift)

    fill(alpha, _blob(rng, centre, rng.uniform(110, 170)))
    angle = rng.uniform(0, 6.28)
    head = centre + 150 * np.array([np.cos(angle), np.sin(angle)])
    fill(alpha, _blob(rng, head, rng.uniform(50, 80)))
    fill(second, _blob(rng, centre + rng.uniform(-40, 40, 2), rng.uniform(40, 70)))
    coverage, spot = (
        cv2.resize(each, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float64)[..., None] / 255
        for each in (alpha, np.minimum(second, alpha))
    )
    rough = rng.uniform(2, 9)
    drawn = _texture(rng, body, rng.uniform(2, 7)) * (1 - spot) + _texture(rng, mark, 3) * spot
    picture = _texture(rng, ground, rough) * (1 - coverage) + drawn * coverage
    soft = cv2.GaussianBlur(picture + rng.normal(0, 3, picture.shape), (0, 0), 0.7)
    return np.clip(np.round(soft), 0, 255).astype(np.uint8), coverage[..., 0]


def furry_photo(
    seed: int, strands: int = 200, blades: int = 0, contrast: tuple[float, float] = (45, 110)
) -> tuple[NDArray[np.uint8], NDArray[np.float64]]:
    """(h, w, 3) picture and (h, w) coverage of a body with so many strands of hair at its rim, before a ground with so
    many blades of its own; each channel differs by something within the contrast."""
    rng = np.random.default_rng(seed)
    ground = rng.uniform(40, 215, 3)
    body = ground + rng.choice([-1, 1], 3) * rng.uniform(*contrast, 3)
    centre = SIDE / 2 + rng.uniform(-60, 60, 2)
    fine, shift = 4, 4
    alpha, grass = (np.zeros((SIDE * fine, SIDE * fine), np.uint8) for _ in range(2))
    rim = _blob(rng, centre, rng.uniform(110, 150))
    cv2.fillPoly(alpha, [np.round(rim * fine * 16).astype(np.int32)], 255, shift=shift)

    def strand(
        into: NDArray[np.uint8], root: NDArray[np.float64], out: NDArray[np.float64], long: float
    ) -> None:
        side = np.array([-out[1], out[0]])
        t = np.linspace(0, 1, 20)[:, None]
        line = root + long * (t * (out + rng.normal(0, 0.5) * side) + t * t * rng.normal(0, 0.4) * side)
        points = np.round(line * fine * 16).astype(np.int32)
        thick = rng.uniform(1.6, 3.2) * fine * (1 - 0.8 * t[:-1, 0])
        for a, b, width in zip(points[:-1], points[1:], thick, strict=True):
            cv2.line(into, a.tolist(), b.tolist(), 255, max(1, round(float(width))), cv2.LINE_AA, shift)

    for _ in range(strands):
        root = rim[rng.integers(len(rim))]
        out = (root - centre) / np.hypot(*(root - centre))
        strand(alpha, root - 4 * out, out, rng.uniform(15, 50))
    for _ in range(blades):
        strand(grass, rng.uniform(0, SIDE, 2), np.array([0.0, -1.0]), rng.uniform(15, 50))
    coverage, blade = (
        cv2.resize(each, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float64)[..., None] / 255
        for each in (alpha, grass)
    )
    behind = _texture(rng, ground, rng.uniform(2, 7)) + blade * rng.normal(0, 40, 3)
    picture = behind * (1 - coverage) + _texture(rng, body, rng.uniform(2, 7)) * coverage
    soft = cv2.GaussianBlur(picture + rng.normal(0, 3, picture.shape), (0, 0), 0.7)
    return np.clip(np.round(soft), 0, 255).astype(np.uint8), coverage[..., 0]


def as_jpeg(picture: NDArray[np.uint8], quality: int) -> NDArray[np.uint8]:
    """A picture as a camera keeps it: grain gone, colours at half the resolution."""
    done, data = cv2.imencode(".jpg", picture[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])
    assert done
    kept = cv2.imdecode(data, cv2.IMREAD_COLOR)
    assert kept is not None
    return np.ascontiguousarray(kept[..., ::-1], np.uint8)


def iou(alpha: NDArray[np.uint8], truth: NDArray[np.float64]) -> float:
    """Of what is more than half covered."""
    found, real = alpha > 127, truth > 0.5
    return float((found & real).sum() / max((found | real).sum(), 1))


def marked(picture: NDArray[np.uint8], truth: NDArray[np.float64], strokes: int = 3) -> SubjectRecipe:
    """What a person does: a box a little wider than the subject, then a stroke along what is worst, up to so many."""
    ys, xs = np.nonzero(truth > 0.5)
    box = (float(xs.min() - 12), float(ys.min() - 12), float(xs.max() + 12), float(ys.max() + 12))
    recipe = SubjectRecipe(box=box)
    for _ in range(strokes):
        alpha = subject_alpha(picture, recipe)
        if iou(alpha, truth) > 0.985:
            break
        wrong = (alpha > 127) != (truth > 0.5)
        deep = cv2.distanceTransform(np.asarray(wrong, np.uint8), cv2.DIST_L2, 5)
        y, x = np.unravel_index(int(deep.argmax()), deep.shape)
        radius = float(np.clip(deep[y, x] * 0.6, 2, 14))
        # Along the longer way of the patch that is wrong, as far as it is deep enough.
        _, labels = cv2.connectedComponents(np.asarray(deep > radius, np.uint8))
        patch = np.column_stack(np.nonzero(labels == labels[y, x])[::-1]).astype(float)
        way = (
            np.linalg.svd(patch - patch.mean(axis=0), full_matrices=False)[2][0]
            if len(patch) > 2
            else np.array([1.0, 0])
        )
        along = (patch - (x, y)) @ way
        near = np.abs((patch - (x, y)) @ np.array([-way[1], way[0]])) < 3
        ends = (
            patch[near][[along[near].argmin(), along[near].argmax()]]
            if near.any()
            else np.array([[x, y], [x, y]])
        )
        points = [tuple(map(float, ends[0])), (float(x), float(y)), tuple(map(float, ends[1]))]
        stroke = Mark(radius_px=radius, points=points)  # type: ignore[arg-type]
        which = "keep" if truth[y, x] > 0.5 else "drop"
        recipe = recipe.model_copy(update={which: (*getattr(recipe, which), stroke)})
    return recipe
