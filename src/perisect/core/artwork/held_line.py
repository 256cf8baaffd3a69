"""Cut lines that a drawing holds already, in a layer or a colour named so: they are lines and no art."""

import copy
import re
import xml.etree.ElementTree as ET
from dataclasses import dataclass

import cv2
import numpy as np
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
    "through", "throughcut", "perf", "perforate", "perforation", "perforated", "crease", "creases", "fold", "folds",
}  # fmt: skip
"""Further lines of a plotter: they are no art either."""

THIN = 0.5
"""What is drawn of a line covers less than this of what it goes round."""

_SHAPES = {"path", "rect", "circle", "ellipse", "polygon", "polyline", "line", "use", "g"}
_DRAWN = _SHAPES - {"g"} | {"text", "image"}
_SHARED = {"defs", "style", "symbol"}
_AS_AREA = "fill:#000 !important;fill-opacity:1 !important;stroke:none !important;opacity:1 !important"


@dataclass(frozen=True)
class HeldLine:
    """A line of a drawing's own by its name, and (h, w) coverage of what it goes round, px of the rendering."""

    name: str
    area: NDArray[np.uint8]


@dataclass(frozen=True)
class Parted:
    """A drawing without its cut lines, the lines as they are drawn, and what they go round, each as a drawing."""

    name: str
    art: ET.Element
    lines: ET.Element
    area: ET.Element


def names_a_line(name: str) -> bool:
    """Whether a layer or a colour of this name holds lines for a plotter."""
    words = _words(name)
    return bool(words & (WORDS | BESIDE))


def names_a_cut(name: str) -> bool:
    """Whether lines of this name are those round a piece."""
    return bool(_words(name) & WORDS)


def _words(name: str) -> set[str]:
    apart = re.sub(r"([a-z0-9])([A-Z])", r"\1 \2", name)
    return {word.lower() for word in re.findall(r"[A-Za-z]+", apart)}


def is_thin(drawn: NDArray[np.uint8], area: NDArray[np.uint8]) -> bool:
    """Whether what is drawn is a line round an area, by their (h, w) coverages."""
    inside = int(cv2.countNonZero(area))
    return inside > 0 and int(cv2.countNonZero(drawn)) < THIN * inside


def parted(root: ET.Element) -> Parted | None:
    """An SVG's cut lines apart from its art; None when it names none, or nothing else is drawn."""
    every = list(root.iter())
    named = {number: name for number, element in enumerate(every) if number and (name := _name_of(element))}
    cuts = {number for number, name in named.items() if names_a_cut(name)}
    if not cuts:
        return None
    try:
        art, lines, area = (copy.deepcopy(root) for _ in range(3))
    except RecursionError:
        return None
    _remove(art, {id(list(art.iter())[number]) for number in named})
    if not any(_local(each) in _DRAWN for each in art.iter()):
        return None
    for whole in (lines, area):
        _keep_only(whole, cuts)
    for element in area.iter():
        if _local(element) in _SHAPES and not _is_shared(element):
            told = element.get("style", "").strip().rstrip(";")
            element.set("style", f"{told};{_AS_AREA}" if told else _AS_AREA)
    return Parted(named[min(cuts)][:80], art, lines, area)


def _keep_only(root: ET.Element, numbers: set[int]) -> None:
    """Take everything out of a drawing but some elements, what they lie in, and what they may refer to."""
    every, parents = list(root.iter()), _parents(root)
    keep = {id(root)}
    for number, element in enumerate(every):
        if number not in numbers and not _is_shared(element):
            continue
        keep |= {id(each) for each in element.iter()}
        above = parents.get(id(element))
        while above is not None and id(above) not in keep:
            keep.add(id(above))
            above = parents.get(id(above))
    _remove(root, {id(element) for element in every} - keep)


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
