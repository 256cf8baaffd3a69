"""How near marks are found to where they are, beside what the noise of the sensor's picture allows."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from bench.figure import Figure
from perisect.core.cutting.sensing import sense_marks
from perisect.core.cutting.view import View
from perisect.core.sheet.mark_shape import SHAPES, ink_shapes
from perisect.core.sheet.marks import Mark, MarkSettings

PX_PER_MM, HALF_MM, FINE, NOISE, SHEETS = 10.0, 8.0, 8, 5.0, 40
SIZE = round(2 * HALF_MM * PX_PER_MM) + 1
TURNED_DEG = 1.0


@dataclass(frozen=True)
class Laid:
    """A sheet on a plotter: its corner, y up, and how far it lies turned."""

    x_mm: float
    y_mm: float
    turn: float

    def on_plotter(self, sheet_mm: NDArray[np.float64]) -> NDArray[np.float64]:
        """(n, 2) of (n, 2), the sheet's y down."""
        cos, sin = np.cos(self.turn), np.sin(self.turn)
        x, y = sheet_mm.T
        return np.column_stack([self.x_mm + cos * x - sin * y, self.y_mm - sin * x - cos * y])


def _fine(ink: Sequence[shapely.Geometry], mark: Mark) -> NDArray[np.float32]:
    """What is inked about a mark, eight times as fine as the sensor sees, point by point."""
    half = round((HALF_MM * 1.05 + 0.6) * PX_PER_MM * FINE)
    axis = (np.arange(-half, half) + 0.5) / (PX_PER_MM * FINE)
    everything = shapely.union_all(list(ink))
    shapely.prepare(everything)
    dark = shapely.contains_xy(everything, *np.meshgrid(mark.x_mm + axis, mark.y_mm + axis))
    return cv2.GaussianBlur(1 - dark.astype(np.float32), (0, 0), FINE * 0.45)


def _seen(fine: NDArray[np.float32], turn: float, dx_mm: float, dy_mm: float) -> NDArray[np.float32]:
    """(161, 161) of a mark that lies turned and beside the middle (y down), without noise, as a lens blurs it."""
    cos, sin = FINE * np.cos(turn), FINE * np.sin(turn)
    linear = np.array([[cos, sin], [-sin, cos]])
    middle = np.full(2, (SIZE - 1) / 2) + np.array([dx_mm, dy_mm]) * PX_PER_MM
    warp = np.column_stack([linear, (fine.shape[0] - 1) / 2 - linear @ middle])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    seen = cv2.warpAffine(fine, warp, (SIZE, SIZE), flags=flags, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(cv2.GaussianBlur(seen * 219 + 12, (0, 0), 0.8), np.float32)


def _bound_um(fine: NDArray[np.float32]) -> float:
    """The least root mean square distance that white noise allows an unbiased estimate (Cramér and Rao): the inverse of
    the Fisher information of the picture's shift."""
    rows, columns = np.gradient(_seen(fine, 0, 0, 0).astype(float))
    slopes = np.stack([columns.ravel(), rows.ravel()])
    information = slopes @ slopes.T / NOISE**2
    return float(np.sqrt(np.trace(np.linalg.inv(information)))) / PX_PER_MM * 1000


@dataclass(frozen=True)
class MarkedSheet:
    """A sheet with four marks of one shape, as a sensor sees it."""

    shape: str

    @cached_property
    def settings(self) -> MarkSettings:
        """Of its marks."""
        return (
            MarkSettings(pattern="frame") if self.shape == "frame_corner" else MarkSettings(shape=self.shape)
        )

    @cached_property
    def marks(self) -> list[Mark]:
        """The ringed one first."""
        places = [(11.0, 12.0), (199.0, 12.0), (11.0, 282.0), (199.0, 282.0)]
        corners = [(1, 1), (-1, 1), (1, -1), (-1, -1)]
        return [
            Mark(x, y, "plain" if n else "ringed", corners[n], self.shape, f"mark {n}")
            for n, (x, y) in enumerate(places)
        ]

    @cached_property
    def pictures(self) -> list[NDArray[np.float32]]:
        """Of its marks, fine."""
        ink = ink_shapes(self.marks, self.settings)
        return [_fine(ink, mark) for mark in self.marks]

    def found_beside_mm(self, laid: Laid, rng: np.random.Generator, noise: float) -> NDArray[np.float64]:
        """(4, 2) from where each mark is to where it is found."""
        places = laid.on_plotter(np.array([[mark.x_mm, mark.y_mm] for mark in self.marks]))

        def look(x: float, y: float) -> View:
            near = int(np.hypot(*(places - (x, y)).T).argmin())
            seen = _seen(self.pictures[near], laid.turn, places[near, 0] - x, y - places[near, 1])
            noisy = np.round(seen + rng.normal(0, noise, (SIZE, SIZE)))
            return View(np.clip(noisy, 0, 255).astype(np.uint8), x, y, PX_PER_MM)

        found = sense_marks(self.marks, self.settings, lambda x, y: (x, -y), look)
        return np.array([(each.x_mm, each.y_mm) for each in found]) - places


def marks_beside_their_noise() -> Iterator[Figure]:
    """The root mean square distance from the true centre on sheets that lie up to a degree turned, for each shape of
    mark, beside that bound."""
    rng = np.random.default_rng(3)
    for shape in SHAPES:
        sheet, off = MarkedSheet(shape), []
        for _ in range(SHEETS):
            turn = np.radians(rng.uniform(-TURNED_DEG, TURNED_DEG))
            laid = Laid(rng.uniform(-0.5, 0.5), rng.uniform(-0.5, 0.5), turn)
            off.append(sheet.found_beside_mm(laid, rng, NOISE))
        square = np.square(off).sum(axis=2).mean(axis=0)
        for ringed, mean in ((False, square[1:].mean()), (True, square[0])):
            bound = _bound_um(sheet.pictures[0 if ringed else 1])
            name = f"{SHAPES[shape].title}{', ringed' if ringed else ''}"
            yield Figure(name, float(np.sqrt(mean)) * 1000, bound, "um", "bound", 1.5 * bound)
