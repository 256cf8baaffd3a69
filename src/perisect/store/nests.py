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
"""Nests of full searches in memory: those are never written again."""


def find_complete(question: NestQuestion) -> Nest | None:
    """Return the nest that a full search found for a question; None if there was none yet."""
    try:
        return Nest(_read_complete(_name(question.key)))
    except KeyError:
        return None


def find(question: NestQuestion) -> Nest | None:
    """Return the nest that was found for a question: by a full search, else by one cut short; None for neither."""
    complete = find_complete(question)
    if complete is not None:
        return complete
    try:
        return Nest(_read(_name(question.key, is_cut_short=True)), is_cut_short=True)
    except KeyError:
        return None


def save(question: NestQuestion, found: Nest) -> None:
    """Save a nest, one cut short beside the place of a full one.

    Of several cut short the first stays, so that every process answers the same.

    Raises:
        DiskFull: there is no room.
    """
    name = _name(question.key, found.is_cut_short)
    if found.is_cut_short and blobs.exists(name):
        return
    pieces = [[p.key, p.sheet, p.rotation_deg, p.x_mm, p.y_mm] for p in found.placements]
    blobs.put(name, json.dumps(pieces).encode())
