"""Pictures of twelve kinds whose true alpha is known, as people bring them: drawn here from a seed."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.art import as_jpeg
from bench.figure import Figure
from perisect.core.artwork import MendRecipe, Verdict, judge, mend

FINE = 4
"""Drawn this many times as fine, then averaged: edges are antialiased as a drawing program would."""

Rgb = NDArray[np.float32]


@dataclass(frozen=True)
class Stranger:
    """A picture (h, w, 4), the verdict it should get, and the art it holds; None where nobody could tell."""

    name: str
    kind: str
    rgba: NDArray[np.uint8]
    verdict: str
    art: NDArray[np.bool_] | None


def _blob(rng: np.random.Generator, centre: NDArray[np.float64], radius: float) -> NDArray[np.int32]:
    turn = np.linspace(0, 2 * np.pi, 240, endpoint=False)
    waves = np.zeros_like(turn)
    for k in range(2, 8):
        waves += rng.normal(0, 0.16 / k) * np.cos(k * turn + rng.uniform(0, 6.28))
    around = np.column_stack([np.cos(turn), np.sin(turn)])
    return (centre + radius * (1 + waves)[:, None] * around).astype(np.int32)


def _away_from(rng: np.random.Generator, ground: NDArray[np.float64], least: float, most: float) -> list[int]:
    """A colour whose CIELAB distance from a ground lies between two bounds."""
    base = np.asarray(cv2.cvtColor((ground / 255).astype(np.float32).reshape(1, 1, 3), cv2.COLOR_RGB2LAB))
    for _ in range(400):
        step = rng.normal(0, 1, 3)
        lab = base + step / np.linalg.norm(step) * rng.uniform(least, most)
        rgb = np.asarray(cv2.cvtColor(lab.astype(np.float32), cv2.COLOR_LAB2RGB)).reshape(3)
        levels = np.round(rgb * 255)
        if levels.min() < 0 or levels.max() > 255 or not 2 < lab[0, 0, 0] < 99.6:
            continue
        back = np.asarray(cv2.cvtColor((levels / 255).astype(np.float32).reshape(1, 1, 3), cv2.COLOR_RGB2LAB))
        if least <= float(np.linalg.norm(back - base)) <= most:
            return [int(n) for n in levels]
    return [int(255 - n) for n in ground]


def art(
    rng: np.random.Generator,
    size: tuple[int, int],
    ground: NDArray[np.float64],
    least: float = 25.0,
    most: float = 90.0,
    outlined: bool | None = None,
    reach: float = 0.34,
) -> tuple[Rgb, Rgb]:
    """Colours (h, w, 3) and coverage (h, w) of a drawing: a body, limbs, patches on it, letters, perhaps an outline.

    Args:
        least, most: CIELAB distance of what meets the ground from it.
        reach: how far the body goes from the middle, of the shorter side.
    """
    height, width = size
    colour = np.zeros((height * FINE, width * FINE, 3), np.uint8)
    cover = np.zeros((height * FINE, width * FINE), np.uint8)
    unit = min(height, width) * FINE
    middle = np.array([width, height]) * FINE * rng.uniform(0.45, 0.55, 2)

    def fill(points: NDArray[np.int32], ink: list[int]) -> None:
        cv2.fillPoly(colour, [points], ink)
        cv2.fillPoly(cover, [points], 255)

    body = _blob(rng, middle, unit * reach * rng.uniform(0.6, 0.9))
    for _ in range(rng.integers(1, 4)):
        turn = rng.uniform(0, 6.28)
        at = middle + unit * reach * 0.75 * np.array([np.cos(turn), np.sin(turn)])
        fill(_blob(rng, at, unit * reach * rng.uniform(0.15, 0.35)), _away_from(rng, ground, least, most))
    fill(body, _away_from(rng, ground, least, most))
    if rng.random() < 0.4:
        place = (int(unit * 0.12), int(height * FINE - unit * 0.06))
        word, ink = str(rng.choice(["FERRY", "PIER 4", "kiosk"])), _away_from(rng, ground, least, most)
        for canvas, value in ((colour, ink), (cover, [255])):
            cv2.putText(
                canvas,
                word,
                place,
                cv2.FONT_HERSHEY_DUPLEX,
                unit / 400,
                value,
                max(4, unit // 90),
                cv2.LINE_8,
            )
    patches = np.zeros_like(cover)
    for _ in range(rng.integers(0, 4)):
        at = middle + unit * reach * rng.uniform(-0.25, 0.25, 2)
        shape = _blob(rng, at, unit * reach * rng.uniform(0.06, 0.2))
        # Patches on the body may have any colour, that of the ground too: they are art.
        ink = [int(n) for n in ground] if rng.random() < 0.4 else _away_from(rng, ground, least, 100)
        cv2.fillPoly(colour, [shape], ink)
        cv2.fillPoly(patches, [shape], 255)
    inner = cv2.erode(
        cv2.fillPoly(np.zeros_like(cover), [body], 255), np.ones((3, 3), np.uint8), iterations=8
    )
    lost = (patches > 0) & (inner == 0) & (cover > 0)
    colour[lost] = _away_from(rng, ground, least, most)
    if outlined if outlined is not None else rng.random() < 0.4:
        around, _ = cv2.findContours(cover, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        ink = _away_from(rng, ground, max(least, 4), most)
        cv2.drawContours(colour, around, -1, ink, max(4, unit // 90))
        cv2.drawContours(cover, around, -1, 255, max(4, unit // 90))
    fine = cover[..., None].astype(np.float32) / 255
    small = np.asarray(
        cv2.resize(np.dstack([colour * fine, fine]), (width, height), interpolation=cv2.INTER_AREA),
        np.float32,
    )
    alpha = small[..., 3]
    own = small[..., :3] / np.maximum(alpha[..., None], np.float32(1e-6)) * (alpha[..., None] > 0)
    return np.asarray(own, np.float32), alpha


def _over(colour: Rgb, alpha: Rgb, ground: Rgb) -> NDArray[np.uint8]:
    return (colour * alpha[..., None] + ground * (1 - alpha[..., None])).round().clip(0, 255).astype(np.uint8)


def _full(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])


def _size(rng: np.random.Generator) -> tuple[int, int]:
    return int(rng.integers(360, 760)), int(rng.integers(360, 760))


def _maybe_jpeg(rng: np.random.Generator, rgb: NDArray[np.uint8], share: float = 0.4) -> NDArray[np.uint8]:
    return as_jpeg(rgb, int(rng.integers(72, 96))) if rng.random() < share else rgb


def _even(size: tuple[int, int], ground: NDArray[np.float64]) -> Rgb:
    return np.broadcast_to(ground.astype(np.float32), (*size, 3)).copy()


def clear(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """Real transparency."""
    colour, alpha = art(rng, _size(rng), np.array([255.0, 255, 255]))
    return np.dstack([colour, alpha * 255]).round().astype(np.uint8), "clear", alpha >= 0.5


def _on(
    rng: np.random.Generator, ground: NDArray[np.float64], least: float, most: float, **more: float
) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    size = _size(rng)
    colour, alpha = art(rng, size, ground, least, most, **more)  # type: ignore[arg-type]
    return _full(_maybe_jpeg(rng, _over(colour, alpha, _even(size, ground)))), "plain", alpha >= 0.5


def white(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """White paper; every third picture is pale."""
    pale = rng.random() < 0.34
    return _on(rng, np.array([255.0, 255, 255]), 6 if pale else 20, 14 if pale else 95)


def pale(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """A pale colour behind; every third picture is pale too."""
    near = rng.random() < 0.34
    return _on(rng, rng.integers(205, 250, 3).astype(float), 6 if near else 20, 14 if near else 95)


def black(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """Black or nearly so."""
    return _on(rng, rng.integers(0, 24, 3).astype(float) * (rng.random() < 0.6), 18, 95)


def _squares(rng: np.random.Generator, size: tuple[int, int]) -> tuple[Rgb, float]:
    pairs = [(255, 204), (255, 230), (254, 238), (240, 215), (153, 102), (255, 247), (204, 153), (128, 96)]
    light, dark = pairs[int(rng.integers(len(pairs)))]
    square = int(rng.integers(5, 33))
    y, x = np.mgrid[: size[0], : size[1]] + rng.integers(0, 64)
    even = (x // square + y // square) % 2 == 0
    return np.where(even, light, dark).astype(np.float32)[..., None].repeat(3, axis=2), float(light)


def checker_png(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """A painted checkerboard; the art holds patches in its light grey."""
    size = _size(rng)
    board, light = _squares(rng, size)
    colour, alpha = art(rng, size, np.array([light] * 3), 30, 95)
    return _full(_over(colour, alpha, board)), "checkerboard", alpha >= 0.5


def checker_jpeg(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """The same after JPEG."""
    rgba, verdict, true = checker_png(rng)
    return _full(as_jpeg(rgba[..., :3], int(rng.integers(75, 96)))), verdict, true


def gradient(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """A gentle gradient behind, straight or round."""
    size = _size(rng)
    start = rng.integers(150, 250, 3).astype(float)
    end = np.clip(start + rng.normal(0, 1, 3) * rng.uniform(15, 45), 90, 255)
    y, x = np.mgrid[: size[0], : size[1]] / max(size)
    if rng.random() < 0.6:
        turn = rng.uniform(0, 6.28)
        way = x * np.cos(turn) + y * np.sin(turn)
    else:
        way = np.hypot(x - 0.5 * size[1] / max(size), y - 0.5 * size[0] / max(size))
    way = (way - way.min()) / np.ptp(way)
    ground = (start + (end - start) * way[..., None]).astype(np.float32)
    colour, alpha = art(rng, size, (start + end) / 2, 35, 95)
    return _full(_maybe_jpeg(rng, _over(colour, alpha, ground))), "plain", alpha >= 0.5


def _texture(rng: np.random.Generator, size: tuple[int, int], strong: float) -> Rgb:
    out = np.zeros((*size, 3), np.float32) + rng.integers(70, 190, 3).astype(np.float32)
    for scale in rng.choice([1.5, 3, 8, 25, 60], 3, replace=False):
        noise = rng.normal(0, 1, size).astype(np.float32)
        across = scale * (6 if rng.random() < 0.3 else 1)
        noise = np.asarray(cv2.GaussianBlur(noise, (0, 0), float(scale), sigmaY=float(across)))
        out += (noise / noise.std() * rng.uniform(0.5, 1) * strong)[..., None] * rng.uniform(
            0.6, 1.2, 3
        ).astype(np.float32)
    return out.clip(0, 255)


def texture(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """Wood, cloth or stone behind: nothing that could be taken away by its colour."""
    size = _size(rng)
    ground = _texture(rng, size, rng.uniform(16, 30))
    colour, alpha = art(rng, size, ground.mean(axis=(0, 1)).astype(float), 30, 95)
    return _full(_maybe_jpeg(rng, _over(colour, alpha, ground))), "photograph", None


def shadow(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """A soft shadow falls from the art onto a plain ground."""
    size = _size(rng)
    ground = np.array([255.0] * 3) if rng.random() < 0.6 else rng.integers(215, 252, 3).astype(float)
    colour, alpha = art(rng, size, ground, 30, 95, reach=0.28)
    unit = min(size)
    dx, dy = (rng.uniform(0.01, 0.035, 2) * unit).round()
    moved = np.roll(alpha, (int(dy), int(dx)), (0, 1))
    soft = np.asarray(cv2.GaussianBlur(moved, (0, 0), unit * rng.uniform(0.008, 0.025))) * rng.uniform(
        0.25, 0.6
    )
    ink = np.zeros(3) if rng.random() < 0.7 else rng.integers(0, 60, 3).astype(float)
    behind = _even(size, ground) * (1 - soft[..., None]) + ink.astype(np.float32) * soft[..., None]
    return _full(_maybe_jpeg(rng, _over(colour, alpha, behind), 0.3)), "plain", alpha >= 0.5


def white_on_white(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """White art on white paper, told from it by a thin grey outline or a shade of grey."""
    size = _size(rng)
    ground = np.array([255.0, 255, 255])
    colour, alpha = art(rng, size, ground, 2.5, 6, outlined=True)
    return _full(_over(colour, alpha, _even(size, ground))), "plain", alpha >= 0.5


def cut_by_edge(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """Art that the picture's edge cuts, on a plain ground."""
    size = _size(rng)
    ground = np.array([255.0] * 3) if rng.random() < 0.5 else rng.integers(0, 250, 3).astype(float)
    colour, alpha = art(rng, (size[0] + 160, size[1] + 160), ground, 25, 95, reach=0.42)
    x, y = rng.integers(60, 100, 2)
    colour, alpha = colour[y : y + size[0], x : x + size[1]], alpha[y : y + size[0], x : x + size[1]]
    shift = int(rng.integers(-size[1] // 3, size[1] // 3))
    colour, alpha = _shifted(colour, shift), _shifted(alpha, shift)
    return _full(_maybe_jpeg(rng, _over(colour, alpha, _even(size, ground)))), "plain", alpha >= 0.5


def _shifted(values: Rgb, by: int) -> Rgb:
    out = np.zeros_like(values)
    if by >= 0:
        out[:, by:] = values[:, : values.shape[1] - by]
    else:
        out[:, :by] = values[:, -by:]
    return out


def no_ground(rng: np.random.Generator) -> tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]:
    """A picture all over: things in front of an uneven scene."""
    size = _size(rng)
    scene = _texture(rng, size, rng.uniform(10, 24))
    axis = np.linspace(-1, 1, size[0], dtype=np.float32)[:, None, None]
    scene = scene + axis * rng.uniform(20, 70, 3).astype(np.float32)
    for _ in range(rng.integers(5, 12)):
        spot = _blob(rng, rng.uniform(0, 1, 2) * np.array(size[::-1]), min(size) * rng.uniform(0.08, 0.3))
        cv2.fillPoly(scene, [spot], [float(n) for n in rng.integers(0, 255, 3)])
    return _full(_maybe_jpeg(rng, scene.clip(0, 255).astype(np.uint8), 0.7)), "photograph", None


KINDS: dict[str, Callable[[np.random.Generator], tuple[NDArray[np.uint8], str, NDArray[np.bool_] | None]]] = {
    make.__name__: make
    for make in (
        clear, white, pale, black, checker_png, checker_jpeg, gradient, texture, shadow, white_on_white,
        cut_by_edge, no_ground,
    )
}  # fmt: skip


def strangers(each: int = 25, first: int = 0) -> Iterator[Stranger]:
    """`each` pictures of every kind."""
    for number, (kind, make) in enumerate(KINDS.items()):
        for seed in range(first, first + each):
            rgba, verdict, true = make(np.random.default_rng([number, seed]))
            yield Stranger(f"{kind}-{seed:02d}", kind, rgba, verdict, true)


def overlap(mended: NDArray[np.uint8], art: NDArray[np.bool_]) -> float:
    """Intersection over union of what is at least half covered with the true art."""
    ours = mended[..., 3] > 127
    return float((ours & art).sum() / max(1, (ours | art).sum()))


def strangers_judged_and_removed() -> Iterator[Figure]:
    """300 pictures of twelve kinds: verdicts, what removal leaves of the true art, and whether it says where it may be
    wrong."""
    pictures = wrong = solvable = under = silent = alarms = 0
    for each in strangers():
        judged = judge(each.rgba)
        pictures, wrong = pictures + 1, wrong + (judged.verdict.value != each.verdict)
        if each.art is None:
            continue
        solvable += 1
        kind: Literal["plain", "checkerboard", "as_is"] = "as_is"
        if judged.verdict is Verdict.PLAIN or judged.verdict is Verdict.CHECKERBOARD:
            kind = judged.verdict.value  # type: ignore[assignment]
        mended = mend(each.rgba, judged, MendRecipe(background=kind))
        good, told = overlap(mended.rgba, each.art) >= 0.98, bool(mended.doubts)
        under, silent, alarms = under + (not good), silent + (not good and not told), alarms + (good and told)
    yield Figure("wrong verdicts on strangers' pictures", wrong / pictures, 0.75, "  ", "by guessing  ", 0.02)
    yield Figure("of them under 0.98 of the true art", under / solvable, 1.0, "  ", "of those with art", 0.05)
    yield Figure("of those, without a warning", silent, max(under, 1), "  ", "under        ", 0.0)
    yield Figure("warnings where nothing is wrong", alarms / solvable, 1.0, "  ", "of those with art", None)
