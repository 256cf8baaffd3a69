"""Every sentence that findings and remedies say, by its code: the only place that holds their words.

`{name}` stands for a value; `{count?speck|specks}` for the first word where `count` is one, else the second. To read:
`words` here, then a station's file for its sentences.
"""

import re
from collections.abc import Mapping

from perisect.core.catalogue.artwork import ARTWORK
from perisect.core.catalogue.lines import LINES
from perisect.core.catalogue.printing import PRINTING
from perisect.core.catalogue.remedies import REMEDIES
from perisect.core.catalogue.sheet import SHEET
from perisect.core.catalogue.stages import STAGES
from perisect.core.message import Extent, Message, Param, Quantity
from perisect.core.units import MM_PER_INCH

STATIONS = (ARTWORK, LINES, SHEET, PRINTING, REMEDIES, STAGES)
CATALOGUE: Mapping[str, str] = {"nothing": ""} | {
    code: text for station in STATIONS for code, text in station.items()
}

SYMBOLS = {"um": "µm", "ppi": "ppi", "percent": "%", "deg": "°", "kgf": "kgf", "days": "days"}
CLOSE_UP = {"deg"}
"""Units that stand close to their number."""
MAX_DEPTH = 4
"""Most levels of messages inside messages. Chosen: sentences use two."""
_PLACE = re.compile(r"\{(\w+)(?:\?([^|}]*)\|([^}]*))?\}")

Length = str
"""Unit that lengths are shown in: "mm" or "in"."""


def words(message: Message, length: Length = "mm", depth: int = 0) -> str:
    """Turn a message into a sentence.

    Args:
        message: what is to be said.
        length: "mm" or "in", for lengths and areas.
        depth: in how many other messages it lies.

    Raises:
        KeyError: the catalogue lacks its code, or the message a value.
        ValueError: messages lie too deep in each other.
    """
    if depth > MAX_DEPTH:
        raise ValueError("messages lie too deep in each other")

    def put(match: re.Match[str]) -> str:
        name, one, many = match.groups()
        value = message.params[name]
        if one is not None:
            return one if value == 1 else many
        return _told(value, length, depth)

    return _PLACE.sub(put, CATALOGUE[message.code])


def _told(value: Param, length: Length, depth: int) -> str:
    match value:
        case Message():
            return words(value, length, depth + 1)
        case Extent():
            width = _number(value.width_mm, value.decimals, length)
            return f"{width} × {_number(value.height_mm, value.decimals, length)} {length}"
        case Quantity(unit="mm"):
            return f"{_number(value.value, value.decimals, length)} {length}"
        case Quantity(unit="mm2"):
            return _area(value, length)
        case Quantity():
            space = "" if value.unit in CLOSE_UP else " "
            return f"{_fixed(value.value, value.decimals)}{space}{SYMBOLS[value.unit]}"
        case _:
            return str(value)


def _number(mm: float, decimals: int | None, length: Length) -> str:
    """Return a length as a number; in inches with one digit more than in mm, since an inch is 25 times as long."""
    if length == "mm":
        return _fixed(mm, decimals)
    return _fixed(mm / MM_PER_INCH, 3 if decimals is None else max(2, decimals + 1))


def _area(value: Quantity, length: Length) -> str:
    if length == "mm":
        return f"{_fixed(value.value, value.decimals)} mm²"
    return f"{_fixed(value.value / MM_PER_INCH**2, 3 if value.decimals is None else value.decimals + 2)} in²"


def _fixed(value: float, decimals: int | None) -> str:
    return f"{value:g}" if decimals is None else f"{value:.{decimals}f}"
