"""The plotter's HPGL: commands in, movements and answers out. Nothing it is sent stops it.

Error numbers, as OE reports and then clears: 0 none, 1 unknown command, 2 wrong number of
parameters, 3 parameter that is not a number or out of range, 6 position beyond the plate.
"""

import re
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from perisect.core.units import HPGL_UNITS_PER_MM
from perisect.stand_ins.plotter import Plotter

UNKNOWN, COUNT, VALUE, BEYOND = 1, 2, 3, 6
MAX_COMMAND = 2_000_000

_ONE = re.compile(r"\s*([A-Za-z]{2})\s*([^A-Za-z;]*)\s*")


class Language:
    """Takes text as it arrives; answers OA, OS and OE through `reply`, moves through `travel`.

    `travel` is called with the simulated seconds of each movement, to let them pass.
    """

    def __init__(
        self, plotter: Plotter, reply: Callable[[str], None], travel: Callable[[float], None]
    ) -> None:
        self._plotter = plotter
        self._reply = reply
        self._travel = travel
        self._rest = ""
        self._reset()

    def _reset(self) -> None:
        self._pen, self._down, self._relative, self._error = 0, False, False, 0
        self._speed_mm_s, self._force = 200.0, 0.0
        self._plotter.lift()

    def feed(self, text: str) -> None:
        """Carry out every whole command of the text so far; the rest waits for its semicolon."""
        self._rest += text
        *whole, self._rest = self._rest.split(";")
        if len(self._rest) > MAX_COMMAND:
            self._rest, self._error = "", COUNT
        for command in whole:
            if command.strip():
                self._one(command)

    def _one(self, command: str) -> None:
        match = _ONE.fullmatch(command)
        handler = getattr(self, f"_do_{match[1].upper()}", None) if match else None
        if match is None or handler is None:
            self._error = UNKNOWN
            return
        arguments = match[2].strip().strip(",")
        try:
            values = np.array(re.split(r"[,\s]+", arguments), np.float64) if arguments else np.empty(0)
        except ValueError:
            self._error = VALUE
            return
        if not np.isfinite(values).all() or np.abs(values).max(initial=0) > 2**23:
            self._error = VALUE
            return
        handler(values)

    def _do_IN(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        self._reset() if len(values) == 0 else self._fail(COUNT)

    def _do_SP(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        if len(values) > 1:
            return self._fail(COUNT)
        pen = int(values[0]) if len(values) else 0
        if not 0 <= pen <= 8:
            return self._fail(VALUE)
        self._lift()
        self._pen = pen
        return None

    def _do_VS(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        if len(values) != 1:
            return self._fail(COUNT)
        if not 1 <= values[0] <= 60:
            return self._fail(VALUE)
        self._speed_mm_s = float(values[0]) * 10
        return None

    def _do_FS(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        if len(values) != 1:
            self._fail(COUNT)
        elif not 0.1 <= values[0] <= 2000:
            self._fail(VALUE)
        else:
            self._force = float(values[0])

    def _do_PU(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        self._lift()
        self._go(values)

    def _do_PD(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        self._down = self._pen > 0
        self._go(values)

    def _do_PA(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        self._relative = False
        self._go(values)

    def _do_PR(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        self._relative = True
        self._go(values)

    def _do_OA(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        x, y = np.round(self._plotter.axis * HPGL_UNITS_PER_MM).astype(int)
        self._reply(f"{x},{y},{int(self._down)}\r\n")

    def _do_OS(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        ready = 16 if self._plotter.grey is not None else 0
        self._reply(f"{ready | (32 if self._error else 0) | int(self._down)}\r\n")

    def _do_OE(self, values: NDArray[np.float64]) -> None:  # noqa: N802
        self._reply(f"{self._error}\r\n")
        self._error = 0

    def _go(self, values: NDArray[np.float64]) -> None:
        if len(values) == 0:
            return
        if len(values) % 2:
            return self._fail(COUNT)
        points = values.reshape(-1, 2) / HPGL_UNITS_PER_MM
        if self._relative:
            points = self._plotter.axis + np.cumsum(points, axis=0)
        if (points < -0.01).any() or (
            points > (self._plotter.plate.width_mm + 0.01, self._plotter.plate.height_mm + 0.01)
        ).any():
            return self._fail(BEYOND)
        self._travel(self._plotter.move(points, self._down, self._pen, self._speed_mm_s, self._force))
        return None

    def _lift(self) -> None:
        self._down = False
        self._plotter.lift()

    def _fail(self, error: int) -> None:
        self._error = error
