"""Which separations a PDF really holds, read back from the file: their names, how many lines, how long, what area."""

import io
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Any

import numpy as np
import pikepdf

from perisect.core.curve import bernstein
from perisect.core.units import POINTS_PER_MM

MOST_OPERATORS = 2_000_000
MOST_FORMS_DEEP = 12
STEPS = np.linspace(0, 1, 33)
FILLS = {"f", "F", "f*", "B", "B*", "b", "b*"}
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
    """A separation that lines or areas are drawn with: how many, the length of the lines in mm on the page, and what
    the areas cover, mm2, where none lies on another."""

    name: str
    objects: int = 0
    length_mm: float = 0.0
    area_mm2: float = 0.0


@dataclass
class _State:
    matrix: Any = field(default_factory=lambda: np.eye(3))
    plate: str | None = None
    spaces: str | None = None
    fill: str | None = None
    fill_spaces: str | None = None


class _Path:
    """What is drawn until it is painted: cubics of eight numbers each, straight ones too, so that their lengths are
    found all at once; and how many lines that are not points."""

    def __init__(self) -> None:
        self.curves: list[tuple[float, ...]] = []
        self.begins: list[int] = []
        """Where each subpath begins among the curves."""
        self.drawn = 0
        self._first = self._at = (0.0, 0.0)
        self._begun = False

    def take(self, step: str, given: list[float]) -> None:
        """One operator of a path (ISO 32000-2, 8.5.2)."""
        match step:
            case "m":
                self._first = self._at = (given[0], given[1])
                self._begun = False
            case "l":
                self._to(*self._at, given[0], given[1], given[0], given[1])
            case "c":
                self._to(*given)
            case "v":
                self._to(*self._at, given[0], given[1], given[2], given[3])
            case "y":
                self._to(given[0], given[1], given[2], given[3], given[2], given[3])
            case "re":
                x, y, w, h = given
                self.take("m", [x, y])
                for corner in ((x + w, y), (x + w, y + h), (x, y + h)):
                    self.take("l", list(corner))
                self.take("h", [])
            case "h" if self._begun and self._at != self._first:
                self.take("l", list(self._first))

    def _to(self, x1: float, y1: float, x2: float, y2: float, x3: float, y3: float) -> None:
        if not self._begun:
            self.begins.append(len(self.curves))
        self.curves.append((*self._at, x1, y1, x2, y2, x3, y3))
        self._at = (x3, y3)
        self.drawn += not self._begun
        self._begun = True


class _Reader:
    def __init__(self) -> None:
        self.found: dict[str, Found] = {}
        self.operators = 0

    def read(self, content: Any, resources: Any, state: _State, deep: int) -> None:
        """Follow a page or a form."""
        if deep > MOST_FORMS_DEEP:
            raise PlatesUnreadable("Its parts are nested deeper than any program writes them.")
        kept: list[_State] = []
        now = replace(state)
        path = _Path()
        for operands, operator in _instructions(content):
            self.operators += 1
            if self.operators > MOST_OPERATORS:
                raise PlatesUnreadable(
                    "It holds more than can be read: export the page with the lines alone."
                )
            match str(operator):
                case "q":
                    kept.append(replace(now))
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
                case "cs":
                    now.fill = now.fill_spaces = _separation_name(resources, operands[0])
                case "scn" | "sc":
                    now.fill = now.fill_spaces
                case "g" | "rg" | "k":
                    now.fill = now.fill_spaces = None
                case "m" | "l" | "c" | "v" | "y" | "re" | "h" as step:
                    path.take(step, [float(each) for each in operands])
                case "Do":
                    self._form(resources, operands[0], now, deep)
                case name if name in PAINTS:
                    strokes, closes = PAINTS[name]
                    if strokes and now.plate is not None:
                        self._stroked(now.plate, path, now.matrix, closes)
                    if name in FILLS and now.fill is not None:
                        self._filled(now.fill, path, now.matrix)
                    path = _Path()

    def _form(self, resources: Any, name: Any, now: _State, deep: int) -> None:
        form = resources.get("/XObject", {}).get(name)
        if form is None or form.get("/Subtype") != pikepdf.Name.Form:
            return
        matrix = _matrix(list(form.get("/Matrix", [1, 0, 0, 1, 0, 0]))) @ now.matrix
        inner = form.get("/Resources", resources)
        self.read(form, inner, replace(now, matrix=matrix), deep + 1)

    def _stroked(self, plate: str, path: _Path, matrix: Any, closes: bool) -> None:
        if closes:
            path.take("h", [])
        found = self.found.setdefault(plate, Found(plate))
        found.objects += path.drawn
        if path.curves:
            control = np.array(path.curves).reshape(-1, 4, 2) @ matrix[:2, :2]
            flat = np.einsum("kn,skd->snd", bernstein(STEPS), control)
            found.length_mm += (
                float(np.hypot(*np.diff(flat, axis=1).transpose(2, 0, 1)).sum()) / POINTS_PER_MM
            )

    def _filled(self, plate: str, path: _Path, matrix: Any) -> None:
        found = self.found.setdefault(plate, Found(plate))
        found.objects += path.drawn
        if path.curves:
            # Green's theorem over the chords, with one more for each subpath that is closed by being filled.
            control = np.array(path.curves).reshape(-1, 4, 2) @ matrix[:2, :2]
            flat = np.einsum("kn,skd->snd", bernstein(STEPS), control)
            begins = np.array(path.begins)
            ends = np.append(begins[1:], len(control)) - 1
            a = np.concatenate([flat[:, :-1].reshape(-1, 2), control[ends, 3]])
            b = np.concatenate([flat[:, 1:].reshape(-1, 2), control[begins, 0]])
            found.area_mm2 += abs(float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum())) / 2 / POINTS_PER_MM**2


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


def _matrix(operands: Any) -> Any:
    a, b, c, d, e, f = (float(Decimal(str(each))) for each in operands)
    return np.array([[a, b, 0], [c, d, 0], [e, f, 1]])


def _separation_name(resources: Any, name: Any) -> str | None:
    space = resources.get("/ColorSpace", {}).get(name)
    if not isinstance(space, pikepdf.Array) or len(space) < 2 or space[0] != pikepdf.Name.Separation:
        return None
    return str(space[1]).removeprefix("/")
