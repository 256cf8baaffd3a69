"""All labels of one list on one design."""

from collections import Counter
from dataclasses import dataclass
from functools import cached_property, lru_cache

from perisect.core.sheet.labels.label import LabelArt, label_art
from perisect.core.sheet.labels.recipe import LabelRecipe
from perisect.core.sheet.labels.table import Table


@dataclass(frozen=True)
class Tight:
    """A row that comes out worse than others: how high its smallest text is, and whether it was shortened."""

    row: int
    size_mm: float
    shortened: bool
    problem: str | None


class LabelSet:
    """What each row prints, worked out once."""

    def __init__(self, recipe: LabelRecipe, table: Table, longest_mm: float) -> None:
        self.recipe, self.table, self.longest_mm = recipe, table, longest_mm
        self._arts: dict[int, LabelArt] = {}

    def __len__(self) -> int:
        return len(self.table.rows)

    def art(self, row: int) -> LabelArt:
        """What a row (from 0) prints."""
        if row not in self._arts:
            self._arts[row] = label_art(self.recipe, self.table, row, self.longest_mm)
        return self._arts[row]

    @cached_property
    def tight(self) -> tuple[Tight, ...]:
        """All rows, the worst first: what does not fit, what was shortened, then the smallest."""
        found = []
        for row in range(len(self)):
            art = self.art(row)
            size = min((text.size_mm for text in art.texts), default=0.0)
            short = any(text.shortened for text in art.texts)
            found.append(Tight(row, size, short, "; ".join(art.problems) or None))
        return tuple(sorted(found, key=lambda t: (t.problem is None, not t.shortened, t.size_mm, t.row)))

    @property
    def counts(self) -> Counter[str]:
        """How many rows do not fit, and how many were shortened."""
        return Counter(
            "problem" if each.problem else "shortened"
            for each in self.tight
            if each.problem or each.shortened
        )


@lru_cache(maxsize=32)
def label_set(recipe: LabelRecipe, table: Table, longest_mm: float) -> LabelSet:
    """The labels of a list on a design; the same one for the same table object."""
    return LabelSet(recipe, table, longest_mm)
