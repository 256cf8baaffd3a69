"""A plotter with a drag knife: how a sheet lies in it, what its sensor sees, where its tip goes.

The frame has its origin at the plate's lower left, x right, y up, in mm. The sheet's lower left
corner lies at the plate's own corner when loaded perfectly; nobody loads perfectly.
"""

from dataclasses import dataclass, field, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.carriage import Carriage, path_seconds
from perisect.core.process import by_pen
from perisect.core.sheet.force import USUAL_SCALE, ForceScale
from perisect.stand_ins.bite import Bite
from perisect.stand_ins.cut_looks import draw_look
from perisect.stand_ins.drag import Blade
from perisect.stand_ins.plotter_faults import Trouble
from perisect.stand_ins.plotter_truth import WELL, Truth

SENSOR_MM = 16.0
SENSOR_PX_PER_MM = 10.0
PHOTO_PX_PER_MM, MOST_PHOTO_PX = 10.0, 6_000_000


@dataclass(frozen=True)
class Plate:
    """What kind of plotter it is: its plate, where the guide puts a sheet's lower left corner, its knife, all mm; and
    the forces it takes."""

    width_mm: float = 340.0
    height_mm: float = 480.0
    corner_mm: tuple[float, float] = (20.0, 20.0)
    blade_offset_mm: float = 0.25
    force: ForceScale = USUAL_SCALE


@dataclass
class Recorded:
    """One pen-down stroke: pen, the (n, 2) way of the tip, plotter mm, the force it was made with, and what the blade
    had cut before it, metres."""

    pen: int
    tip: NDArray[np.float64]
    force: float = 0.0
    before_m: float = 0.0


@dataclass
class Plotter:
    """State of the machine. `time` is simulated seconds since it was switched on."""

    seed: int
    plate: Plate = Plate()
    carriage: Carriage = Carriage()
    time: float = 0.0
    axis: NDArray[np.float64] = field(default_factory=lambda: np.zeros(2))
    recorded: list[Recorded] = field(default_factory=list)
    trouble: Trouble | None = None
    truth: Truth = WELL
    cut_m: float = 0.0
    """Metres its blade has cut."""
    grey: NDArray[np.uint8] | None = None

    def __post_init__(self) -> None:
        self._loads = np.random.default_rng([self.seed, 3])
        self._noise = np.random.default_rng([self.seed, 4])
        self._blade = Blade(self.plate.blade_offset_mm, float(self._loads.uniform(-np.pi, np.pi)))
        self._sheet_to_plate = np.eye(2, 3)
        self._px_per_mm = 1.0
        self._plays = np.random.default_rng([self.seed, 17])
        self._looks = np.random.default_rng([self.seed, 8])
        self._stock_um = (90.0, 80.0)
        self._width_mm = self._height_mm = self._loaded_at = 0.0

    def load(
        self,
        grey: NDArray[np.uint8],
        px_per_mm: float,
        stock_um: tuple[float, float] = (90.0, 80.0),
        again: bool = False,
    ) -> None:
        """Lay in a printed sheet, up to 1 degree and 2 mm off, and forget the cuts of the one before; one that is laid
        in again has its cuts still."""
        kept = self.unload() if again else []
        if self.trouble is not None:
            grey = self.trouble.laid(grey, px_per_mm)
        turn = np.radians(self._loads.uniform(-1, 1))
        reach, way = self._loads.uniform(0, 2), self._loads.uniform(0, 2 * np.pi)
        shift = reach * np.array([np.cos(way), np.sin(way)])
        height_mm = grey.shape[0] / px_per_mm
        linear = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]) @ np.diag(
            [1.0, -1.0]
        )
        # The sheet's lower left corner is the pivot: it lies against the guide.
        corner = np.array(self.plate.corner_mm) + shift
        self._sheet_to_plate = np.column_stack([linear, corner - linear @ np.array([0.0, height_mm])])
        self._px_per_mm = px_per_mm
        self.grey = grey
        self._loaded_at = self._loaded_at if again else self.time
        self._stock_um = stock_um
        self._height_mm = height_mm
        self._width_mm = grey.shape[1] / px_per_mm
        self.recorded = [
            replace(each, tip=each.tip @ self._sheet_to_plate[:, :2].T + self._sheet_to_plate[:, 2])
            for each in kept
        ]

    def unload(self) -> list[Recorded]:
        """Take the sheet out; the cuts come with it, in the sheet's own mm (y down)."""
        inverse = np.linalg.inv(self._sheet_to_plate[:, :2])
        shift = self._sheet_to_plate[:, 2]
        return [replace(stroke, tip=(stroke.tip - shift) @ inverse.T) for stroke in self.recorded]

    @property
    def busy_s(self) -> float:
        """Simulated seconds it worked on the sheet that lies in it."""
        return self.time - self._loaded_at

    def slide(self, by_mm: NDArray[np.float64]) -> None:
        """The sheet slips on its mat; what is cut goes with it."""
        self._sheet_to_plate = self._sheet_to_plate + np.column_stack([np.zeros((2, 2)), by_mm])
        for stroke in self.recorded:
            stroke.tip = stroke.tip + by_mm

    def photo(self) -> NDArray[np.uint8]:
        """(h, w, 3) the sheet as it lies there, each cut as it looks when it is lifted."""
        if self.grey is None:
            return np.full((60, 120, 3), 70, np.uint8)
        k = min(PHOTO_PX_PER_MM, self._px_per_mm * (MOST_PHOTO_PX / self.grey.size) ** 0.5)
        scale = k / self._px_per_mm
        small = cv2.resize(self.grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_LINEAR)
        picture = np.repeat(np.asarray(small, np.uint8)[..., None], 3, axis=2)
        for stroke in self.unload():
            record = by_pen(stroke.pen)
            if record is not None:
                look = self.bite_of(stroke, record.name).look(max(stroke.force, 0.1), self._looks)
                draw_look(picture, stroke.tip * k, look, self._looks)
        return np.asarray(picture, np.uint8)

    def bite_of(self, stroke: Recorded, process: str) -> Bite:
        """How deep the blade went at a stroke, its tip in sheet mm."""
        face, liner = self._stock_um
        off = (stroke.tip.mean(axis=0) - (self._width_mm / 2, self._height_mm / 2)) / 100
        face *= 1 + float(off @ self.truth.thicker)
        wear_m = stroke.before_m if self.truth.dulls else 0.0
        return Bite(self.seed, face, liner, self.plate.force, process, wear_m)

    def sense(self, x_mm: float, y_mm: float) -> NDArray[np.uint8]:
        """(161, 161) grey picture of what lies under the sensor, blurred and noisy; the plate is dark grey."""
        half = round(SENSOR_MM / 2 * SENSOR_PX_PER_MM)
        size = 2 * half + 1
        if self.grey is None:
            seen = np.full((size, size), 70, np.float32)
        else:
            # Pixel (i, j) of the view shows plate point (x + (i - half) / k, y - (j - half) / k).
            k = SENSOR_PX_PER_MM
            ((x, y),) = (self.truth.carried(np.array([[x_mm, y_mm]])) + self.truth.sensor_mm).tolist()
            view_to_plate = np.array([[1 / k, 0, x - half / k], [0, -1 / k, y + half / k], [0, 0, 1]])
            plate_to_sheet = np.linalg.inv(np.vstack([self._sheet_to_plate, [0, 0, 1]]))
            p = self._px_per_mm
            sheet_to_px = np.array([[p, 0, -0.5], [0, p, -0.5], [0, 0, 1]])
            warp = (sheet_to_px @ plate_to_sheet @ view_to_plate)[:2]
            seen = cv2.warpAffine(
                self.grey,
                warp,
                (size, size),
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_CONSTANT,
                borderValue=70,
            ).astype(np.float32)
        seen = cv2.GaussianBlur(seen, (0, 0), 0.8) * np.float32(0.86) + np.float32(12)
        if self.trouble is not None:
            middle = self._sheet_to_plate @ np.array([self._width_mm / 2, self._height_mm / 2, 1.0])
            seen = self.trouble.light(seen, x_mm, y_mm, (float(middle[0]), float(middle[1])))
        seen += self._noise.normal(0, 5, seen.shape).astype(np.float32)
        return np.clip(seen, 0, 255).astype(np.uint8)

    def move(
        self, points_mm: NDArray[np.float64], down: bool, pen: int, speed_mm_s: float, force: float = 0.0
    ) -> float:
        """Follow (n, 2) points with the axis; returns the simulated seconds it takes."""
        path = np.vstack([self.axis, points_mm])
        self.axis = points_mm[-1].astype(float)
        if down:
            if not self._open and self.truth.creep_mm:
                self.slide(self._plays.normal(0, self.truth.creep_mm, 2))
            tip = self._blade.follow(self.truth.played(path, self._plays))
            if self.recorded and self.recorded[-1].pen == pen and self._open:
                self.recorded[-1].tip = np.vstack([self.recorded[-1].tip, tip])
                self.recorded[-1].force = max(self.recorded[-1].force, force)
            else:
                self.recorded.append(Recorded(pen, tip, force, self.cut_m))
            self._open = True
            self.cut_m += float(np.hypot(*np.diff(path, axis=0).T).sum()) / 1000
        seconds = float(
            path_seconds(path, self.carriage, speed_mm_s if down else self.carriage.travel_mm_s).sum()
        )
        self.time += seconds
        return seconds

    def lift(self) -> None:
        """Raise the knife: the stroke is over."""
        self._open = False

    _open: bool = False
