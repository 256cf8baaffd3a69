"""Cut lines that a drawing holds already, in a layer or a colour named so: they are lines and no art."""

import copy
import re
import xml.etree.ElementTree as ET
from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

WORDS = {
    "cut",
    "cuts",
    "cutline",
    "cutlines",
    "cutting",
    "kiss",
    "kisscut",
    "die",
    "dieline",
    "dielines",
    "diecut",
}
BESIDE = {
    "through": "through",
    "throughcut": "through",
    "perf": "perforate",
    "perforate": "perforate",
    "perforation": "perforate",
    "perforated": "perforate",
    "crease": "crease",
    "creases": "crease",
    "fold": "crease",
    "folds": "crease",
    "weed": "weed",
}
"""Further lines of a plotter, and their processes: they are no art either."""

OWN = "own"
"""What stands for the process of the piece's own line, which its recipe says."""

THIN = 0.5
"""What is drawn of a line covers less than this of what it goes round."""

_SHAPES = {"path", "rect", "circle", "ellipse", "polygon", "polyline", "line", "use", "g"}
_DRAWN = _SHAPES - {"g"} | {"text", "image"}
_SHARED = {"defs", "style", "symbol"}
_AS_AREA = "fill:#000 !important;fill-opacity:1 !important;stroke:none !important;opacity:1 !important"
_AS_FACE = "fill:#fff;fill-opacity:1;stroke:none;opacity:1"
"""The face of the stock: white, which prints nothing."""


@dataclass(frozen=True)
class FurtherLine:
    """A line beside the one round the piece: its process, and (n, 2) points in px of the rendering; a closed one ends
    where it begins."""

    process: str
    points: NDArray[np.float64]


@dataclass(frozen=True)
class HeldLine:
    """A line of a drawing's own by its name, and (h, w) coverage of what it goes round, px of the rendering.

    `shape` is that exactly, px, where the drawing tells it; `further` are lines beside it; `alone` says that nothing
    is printed: the drawing is a die.
    """

    name: str
    area: NDArray[np.uint8]
    shape: shapely.MultiPolygon | None = None
    further: tuple[FurtherLine, ...] = ()
    alone: bool = False


@dataclass(frozen=True)
class Parted:
    """A drawing without its cut lines, the lines as they are drawn, and what they go round, each as a drawing; lines
    beside them by process; and whether there is nothing else, so that the art is the bare face within the lines. Its
    name is empty if no line goes round the pieces."""

    name: str
    art: ET.Element
    lines: ET.Element
    area: ET.Element
    further: dict[str, ET.Element]
    alone: bool


def names_a_line(name: str) -> bool:
    """Whether a layer or a colour of this name holds lines for a plotter."""
    words = _words(name)
    return bool(words & (WORDS | BESIDE.keys()))


def names_a_cut(name: str) -> bool:
    """Whether lines of this name are those round a piece."""
    return bool(_words(name) & WORDS)


def process_named(name: str) -> str:
    """The process that lines of such a name are for: `OWN` for those round a piece."""
    words = _words(name)
    return next((BESIDE[word] for word in sorted(words & BESIDE.keys(), reverse=True)), OWN)


def processes_of(names: Iterable[str], round_the_piece: bool = True) -> dict[str, str]:
    """Return the process of each name of a drawing that stands for lines; `OWN` for those round its pieces.

    Lines called through cuts go round the pieces where no others do.

    Args:
        names: names of its layers and colours.
        round_the_piece: False if no line is to go round a piece; names that mean nothing else are then left out.
    """
    lines = {name: process_named(name) for name in names if names_a_line(name)}
    own = {name for name, process in lines.items() if process == OWN}
    if round_the_piece and not own:
        own = {name for name, process in lines.items() if process == "through" and names_a_cut(name)}
    return {
        name: OWN if name in own else process
        for name, process in lines.items()
        if process != OWN or round_the_piece
    }


def goes_round(name: str, area: NDArray[np.uint8], art: NDArray[np.uint8]) -> bool:
    """Return whether lines of a name may be those round the pieces: a through cut has to hold half of the ink.

    Args:
        name: of the lines.
        area: (h, w) coverage of what they go round.
        art: (h, w) coverage of the drawing without its lines.
    """
    if process_named(name) == OWN:
        return True
    inside = cv2.countNonZero(cv2.bitwise_and(area, area, mask=(art > 0).astype(np.uint8)))
    return 2 * int(inside) >= int(cv2.countNonZero(art))


def _words(name: str) -> set[str]:
    apart = re.sub(r"([a-z0-9])([A-Z])", r"\1 \2", name)
    return {word.lower() for word in re.findall(r"[A-Za-z]+", apart)}


def is_thin(drawn: NDArray[np.uint8], area: NDArray[np.uint8]) -> bool:
    """Whether what is drawn is a line round an area, by their (h, w) coverages."""
    inside = int(cv2.countNonZero(area))
    return inside > 0 and int(cv2.countNonZero(drawn)) < THIN * inside


def parted(root: ET.Element, round_the_piece: bool = True) -> Parted | None:
    """Take an SVG's named lines apart from its art.

    Args:
        root: the drawing.
        round_the_piece: False if none of its lines goes round a piece.

    Returns:
        Its parts; None if it names no line, or only lines beside a cut line and no art. A drawing with a cut line and
        nothing else is a die.
    """
    every = list(root.iter())
    named = {number: name for number, element in enumerate(every) if number and (name := _name_of(element))}
    known = processes_of(named.values(), round_the_piece)
    named = {number: name for number, name in named.items() if name in known}
    if not named:
        return None
    beside = {number: known[name] for number, name in named.items()}
    own = {number for number, process in beside.items() if process == OWN}
    further = {
        process: {n for n, its in beside.items() if its == process} for process in {*beside.values()} - {OWN}
    }
    try:
        art, lines, area = (copy.deepcopy(root) for _ in range(3))
        others = {process: copy.deepcopy(root) for process, numbers in further.items() if numbers}
    except RecursionError:
        return None
    _remove(art, _ids(art, named))
    alone = not any(_local(each) in _DRAWN for each in art.iter())
    if alone and not own:
        return None
    for whole in (lines, area):
        _keep_only(whole, own, set(named) - own)
    for process, whole in others.items():
        _keep_only(whole, further[process], set(named) - further[process])
    if alone:
        art = copy.deepcopy(area)
        _paint(art, _AS_FACE)
    _paint(area, _AS_AREA)
    return Parted(named[min(own)][:80] if own else "", art, lines, area, others, alone)


def _paint(root: ET.Element, style: str) -> None:
    for element in root.iter():
        if _local(element) in _SHAPES and not _is_shared(element):
            told = element.get("style", "").strip().rstrip(";")
            element.set("style", f"{told};{style}" if told else style)


def _ids(root: ET.Element, numbers: Iterable[int]) -> set[int]:
    every = list(root.iter())
    return {id(every[number]) for number in numbers}


def _keep_only(root: ET.Element, numbers: set[int], but: set[int]) -> None:
    """Take everything out of a drawing but some elements, without others that lie in them, what they lie in, and what
    they may refer to."""
    parents = _parents(root)
    keep, inside = {id(root)}, set[int]()
    for number, element in enumerate(list(root.iter())):
        above = parents.get(id(element))
        is_inside = above is not None and id(above) in inside and number not in but
        if is_inside or number in numbers or _is_shared(element):
            inside.add(id(element))
            keep.add(id(element))
            while above is not None and id(above) not in keep:
                keep.add(id(above))
                above = parents.get(id(above))
    _remove(root, {id(element) for element in root.iter()} - keep)


def _parents(root: ET.Element) -> dict[int, ET.Element]:
    return {id(child): parent for parent in root.iter() for child in parent}


def _remove(root: ET.Element, gone: set[int]) -> None:
    for parent in list(root.iter()):
        for child in [child for child in parent if id(child) in gone]:
            parent.remove(child)


def _local(element: ET.Element) -> str:
    return str(element.tag).rsplit("}", 1)[-1]


def _is_shared(element: ET.Element) -> bool:
    return _local(element) in _SHARED


def _name_of(element: ET.Element) -> str:
    """The name by which an element is a line for a plotter; empty when it has none."""
    if _local(element) not in _SHAPES:
        return ""
    names = (
        value
        for key, value in element.attrib.items()
        if key.rsplit("}", 1)[-1] in ("id", "label", "data-name", "class")
    )
    return next((name for name in names if names_a_line(name)), "")
