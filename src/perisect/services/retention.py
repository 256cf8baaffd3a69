"""Blobs that nobody refers to any more: found, told, and removed."""

import re
import time
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from perisect.core import ENGINE_VERSION
from perisect.core.job.recipe import DesignRecipe
from perisect.store import blobs
from perisect.store.database import transaction
from perisect.store.models import Artwork, Print, Run, Step
from perisect.store.trade_models import ShelfItem
from perisect.store.upkeep_models import HeadCheckRow, LadderRow, Tone, VernierRow

FRESH_S = 24 * 3600.0
"""What is newer may be on its way into a job."""
CACHE_S = 30 * 24 * 3600.0
"""What can be made again is kept for so long."""


@dataclass(frozen=True)
class LeftOver:
    """A blob that nobody needs, its bytes, and why."""

    name: str
    bytes: int
    why: str


def left_over(now: float | None = None) -> list[LeftOver]:
    """Everything that may go."""
    at = time.time() if now is None else now
    # Blobs first: what is begun after this look is newer than any of them.
    there = blobs.every()
    with transaction() as session:
        known = _Known(session)
    found = []
    for name, (size, written) in sorted(there.items()):
        why = known.why_not(name, at - written)
        if why:
            found.append(LeftOver(name, size, why))
    return found


def remove(these: Iterable[LeftOver]) -> int:
    """Remove blobs that may go; how many bytes that were. Pictures that are forgotten so are forgotten by the shop."""
    freed = 0
    for each in these:
        if (found := re.fullmatch(r"artwork/../([0-9a-f]{64})", each.name)) is not None:
            with transaction() as session:
                row = session.get(Artwork, found[1])
                if row is not None:
                    session.delete(row)
        blobs.remove(each.name)
        freed += each.bytes
    return freed


class _Known:
    """What is referred to by any row."""

    def __init__(self, session: Session) -> None:
        self.artwork, self.pictures, self.tables = set[str](), set[str](), set[str]()
        recipes: Iterable[dict[str, Any]] = session.scalars(select(Step.recipe)).all()
        printed: Iterable[dict[str, Any]] = session.scalars(select(Print.recipe)).all()
        designs = [design for recipe in (*recipes, *printed) for design in recipe.get("designs", ())]
        designs += session.scalars(select(ShelfItem.recipe)).all()
        for told in _unlike(designs):
            design = DesignRecipe.model_validate(told)
            self.artwork.add(design.artwork)
            self.pictures |= {design.artwork, design.picture}
            if design.labels is not None:
                self.tables.add(design.labels.table)
        self.rows = {
            "prints": {str(each) for each in session.scalars(select(Print.id))},
            "runs": {str(each) for each in session.scalars(select(Run.id))},
            "ladders": {str(each) for each in session.scalars(select(LadderRow.id))},
            "verniers": {str(each) for each in session.scalars(select(VernierRow.id))},
            "head-checks": {str(each) for each in session.scalars(select(HeadCheckRow.id))},
        }
        self.profiles = set(session.scalars(select(Tone.profile)))

    def why_not(self, name: str, age_s: float) -> str:
        """Why a blob is not needed; empty for one that is."""
        if age_s < FRESH_S:
            return ""
        folder, _, rest = name.partition("/")
        match folder:
            case "artwork":
                return "" if rest.rsplit("/", 1)[-1] in self.artwork else "picture of no job"
            case "derived":
                return self._derived(rest, age_s)
            case "tables":
                return (
                    "" if rest.rsplit("/", 1)[-1].removesuffix(".read") in self.tables else "list of no job"
                )
            case "profiles":
                return "" if name in self.profiles else "profile of no stock"
            case "files" | "nests":
                return "can be made again" if age_s > CACHE_S else ""
            case _ if folder in self.rows:
                number = re.match(r"\d+", rest)
                return "" if number is None or number[0] in self.rows[folder] else "of what was deleted"
            case _:
                return ""

    def _derived(self, rest: str, age_s: float) -> str:
        version, _, rest = rest.partition("/")
        if version != str(ENGINE_VERSION):
            return "made by an earlier version"
        picture, _, what = rest.rsplit("/", 1)[-1].partition(".")
        if what == "encoded":
            return "can be made again" if age_s > CACHE_S else ""
        return "" if picture in self.pictures else "picture of no job"


def _unlike(designs: Iterable[dict[str, Any]]) -> list[dict[str, Any]]:
    """Designs of which no two have the same picture, mends and list."""
    found: dict[str, dict[str, Any]] = {}
    for each in designs:
        size = each.get("longest_mm")
        found[repr((each["artwork"], each.get("mend"), size, each.get("labels")))] = each
    return list(found.values())
