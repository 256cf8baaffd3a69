"""Nests by the question they answer."""

import json
from functools import lru_cache

from perisect.core.sheet.nest import Nest, NestQuestion
from perisect.core.sheet.placement import Placement, pose
from perisect.store import blobs


def _name(key: str, is_cut_short: bool = False) -> str:
    return f"nests/{key[:2]}/{key}{'-cut-short' if is_cut_short else ''}"


def _read(name: str) -> tuple[Placement, ...]:
    data = blobs.get(name)
    if data is None:
        raise KeyError(name)
    return tuple(pose(key, turn, x, y, sheet) for key, sheet, turn, x, y in json.loads(data))


_read_complete = lru_cache(maxsize=256)(_read)
"""What a full search found is never written again; what was cut short may be."""


def find(question: NestQuestion) -> Nest | None:
    """Return the nest that was found for a question: by a full search, else by one cut short; None for neither."""
    try:
        return Nest(_read_complete(_name(question.key)))
    except KeyError:
        pass
    try:
        return Nest(_read(_name(question.key, is_cut_short=True)), is_cut_short=True)
    except KeyError:
        return None


def save(question: NestQuestion, found: Nest) -> None:
    """Save what was found, a search cut short beside the place of a full one.

    Raises:
        DiskFull: there is no room.
    """
    pieces = [[p.key, p.sheet, p.rotation_deg, p.x_mm, p.y_mm] for p in found.placements]
    blobs.put(_name(question.key, found.is_cut_short), json.dumps(pieces).encode())
