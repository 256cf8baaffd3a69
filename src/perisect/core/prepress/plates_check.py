"""Which separations a PDF really holds, read back from the file: their names, how many lines, how long."""

import io
from collections.abc import Iterator
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

import numpy as np
import pikepdf

from perisect.core.curve import bernstein
from perisect.core.units import POINTS_PER_MM

MOST_OPERATORS = 2_000_000
MOST_FORMS_DEEP = 12
STEPS = np.linspace(0, 1, 33)
PAINTS = {"S": (True, False), "s": (True, True), "B": (True, False), "B*": (True, False), "b": (True, True)}
PAINTS |= {
    "b*": (True, True),
    "f": (False, False),
    "F": (False, False),
    "f*": (False, False),
    "n": (False, False),
}
"""Whether an operator strokes, and whether it closes before."""


class PlatesUnreadable(ValueError):
    """Not a PDF that can be read for its plates; the text says why."""


@dataclass
class Found:
    """A separation that lines are drawn with: how many, and their length in mm on the page."""

    name: str
    objects: int = 0
    length_mm: float = 0.0


@dataclass
class _State:
    matrix: Any = field(default_factory=lambda: np.eye(3))
    plate: str | None = None
    spaces: str | None = None


class _Reader:
    def __init__(self) -> None:
        self.found: dict[str, Found] = {}
        self.operators = 0

    def read(self, content: Any, resources: Any, state: _State, deep: int) -> None:
        """Follow a page or a form."""
        if deep > MOST_FORMS_DEEP:
            raise PlatesUnreadable("Its parts are nested deeper than any program writes them.")
        kept: list[_State] = []
        now = _State(state.matrix, state.plate, state.spaces)
        path: list[list[Any]] = []
        for operands, operator in _instructions(content):
            self.operators += 1
            if self.operators > MOST_OPERATORS:
                raise PlatesUnreadable(
                    "It holds more than can be read: export the page with the lines alone."
                )
            match str(operator):
                case "q":
                    kept.append(_State(now.matrix, now.plate, now.spaces))
                case "Q" if kept:
                    now = kept.pop()
                case "cm":
                    now.matrix = _matrix(operands) @ now.matrix
                case "CS":
                    now.spaces = _separation_name(resources, operands[0])
                    now.plate = now.spaces
                case "SCN" | "SC":
                    now.plate = now.spaces
                case "G" | "RG" | "K":
                    now.plate = now.spaces = None
                case "m":
                    path.append([_numbers(operands)])
                case "l" if path:
                    path[-1].append(_numbers(operands))
                case "c" | "v" | "y" if path:
                    path[-1] += _curve(str(operator), path[-1][-1], _numbers(operands))
                case "re":
                    x, y, w, h = _numbers(operands)
                    path.append([(x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y)])
                case "h" if path:
                    path[-1].append(path[-1][0])
                case "Do":
                    self._form(resources, operands[0], now, deep)
                case name if name in PAINTS:
                    strokes, closes = PAINTS[name]
                    if strokes and now.plate is not None:
                        self._stroked(now.plate, path, now.matrix, closes)
                    path = []

    def _form(self, resources: Any, name: Any, now: _State, deep: int) -> None:
        form = resources.get("/XObject", {}).get(name)
        if form is None or form.get("/Subtype") != pikepdf.Name.Form:
            return
        matrix = _matrix(list(form.get("/Matrix", [1, 0, 0, 1, 0, 0]))) @ now.matrix
        inner = form.get("/Resources", resources)
        self.read(form, inner, _State(matrix, now.plate, now.spaces), deep + 1)

    def _stroked(self, plate: str, path: list[list[Any]], matrix: Any, closes: bool) -> None:
        found = self.found.setdefault(plate, Found(plate))
        for line in path:
            if len(line) < 2:
                continue
            points = np.array(line, float) @ matrix[:2, :2]
            if closes:
                points = np.vstack([points, points[:1]])
            found.objects += 1
            found.length_mm += float(np.hypot(*np.diff(points, axis=0).T).sum()) / POINTS_PER_MM


def plates_in(data: bytes) -> list[Found]:
    """The separations that lines of a PDF's pages are drawn with, in the order they are met.

    Raises:
        PlatesUnreadable: not a PDF, locked, or larger than can be read.
    """
    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            reader = _Reader()
            for page in pdf.pages:
                reader.read(page, page.obj.get("/Resources", pikepdf.Dictionary()), _State(), 0)
            return list(reader.found.values())
    except pikepdf.PasswordError as error:
        raise PlatesUnreadable("It is locked with a password: export it without.") from error
    except (pikepdf.PdfError, ValueError, TypeError, IndexError, RecursionError) as error:
        if isinstance(error, PlatesUnreadable):
            raise
        raise PlatesUnreadable("It is not a PDF that can be read: export it again.") from error


def _instructions(content: Any) -> Iterator[tuple[Any, Any]]:
    for instruction in pikepdf.parse_content_stream(content):
        yield instruction.operands, instruction.operator


def _numbers(operands: Any) -> Any:
    return tuple(float(each) for each in operands)


def _matrix(operands: Any) -> Any:
    a, b, c, d, e, f = (float(Decimal(str(each))) for each in operands)
    return np.array([[a, b, 0], [c, d, 0], [e, f, 1]])


def _curve(operator: str, start: Any, numbers: Any) -> list[Any]:
    control = np.array([start, *np.array(numbers).reshape(-1, 2)], float)
    if operator == "v":
        control = np.vstack([control[:1], control])
    elif operator == "y":
        control = np.vstack([control, control[-1:]])
    return [tuple(point) for point in (bernstein(STEPS).T @ control)[1:].tolist()]


def _separation_name(resources: Any, name: Any) -> str | None:
    space = resources.get("/ColorSpace", {}).get(name)
    if not isinstance(space, pikepdf.Array) or len(space) < 2 or space[0] != pikepdf.Name.Separation:
        return None
    return str(space[1]).removeprefix("/")
