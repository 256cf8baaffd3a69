"""Nests by the question they answer: one that was found once is found again at once."""

import json
from collections.abc import Sequence
from functools import lru_cache

from perisect.core.sheet.nest import NestQuestion
from perisect.core.sheet.placement import Placement, pose
from perisect.store import blobs


def _name(key: str) -> str:
    return f"nests/{key[:2]}/{key}"


@lru_cache(maxsize=256)
def _kept(key: str) -> tuple[Placement, ...]:
    data = blobs.get(_name(key))
    if data is None:
        raise KeyError(key)
    return tuple(pose(key, turn, x, y, sheet) for key, sheet, turn, x, y in json.loads(data))


def find(question: NestQuestion) -> tuple[Placement, ...] | None:
    """The nest that was found for a question; None when there was none yet."""
    try:
        return _kept(question.key)
    except KeyError:
        return None


def save(question: NestQuestion, found: Sequence[Placement]) -> None:
    """Keep what was found."""
    pieces = [[p.key, p.sheet, p.rotation_deg, p.x_mm, p.y_mm] for p in found]
    blobs.put(_name(question.key), json.dumps(pieces).encode())
