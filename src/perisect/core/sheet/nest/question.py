"""The question that a nest answers, and its answer."""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import shapely

from perisect.core import ENGINE_VERSION
from perisect.core.sheet.nest.board import Panels
from perisect.core.sheet.placement import Placement
from perisect.core.sheet.turns import Turns
from perisect.core.sheet.usable import UsableArea


@dataclass(frozen=True)
class NestQuestion:
    """Pieces and the sheet to nest them on; the answer is saved under its `key`.

    `shapes` is what each piece takes, by design, in design mm; `wanted` the copies, or None to fill one
    sheet; `fixed` are pieces that keep their place.
    """

    area: UsableArea
    shapes: Mapping[str, shapely.Polygon]
    wanted: Mapping[str, int] | None
    gap_mm: float
    turns: Turns
    seconds: int
    seed: int
    most_sheets: int
    fixed: tuple[Placement, ...] = ()
    step_mm: float | None = None
    """Step by which a roll's panel is cut shorter where the nest leaves room; None for a sheet."""
    panels: Panels | None = None
    """Usable area of a panel by its length; None for a sheet."""
    fills: bool = False
    """True to fill every sheet that `wanted` begins with further copies."""

    @cached_property
    def key(self) -> str:
        """SHA-256 of everything that the answer depends on."""
        facts = {
            "engine": ENGINE_VERSION,
            "area": shapely.to_wkt(self.area.polygon, rounding_precision=4),
            "shapes": {k: shapely.to_wkt(s, rounding_precision=4) for k, s in self.shapes.items()},
            "wanted": None if self.wanted is None else dict(self.wanted),
            "how": [self.gap_mm, self.turns, self.seconds, self.seed, self.most_sheets]
            + ([] if self.step_mm is None else [self.step_mm]),
            "shorter": self._half_a_panel(),
            "fixed": [[f.key, f.sheet, f.rotation_deg, f.x_mm, f.y_mm] for f in self.fixed],
        }
        # Only where it is asked for, so that nests found before this was known keep their keys.
        if self.fills:
            facts["fills"] = True
        return hashlib.sha256(json.dumps(facts, sort_keys=True).encode()).hexdigest()

    def _half_a_panel(self) -> str | None:
        """Return the area of half a panel, which depends on where its marks stand."""
        half = None if self.panels is None else self.panels(self.area.stock.height_mm // 2)
        return None if half is None else shapely.to_wkt(half.polygon, rounding_precision=4)


@dataclass(frozen=True)
class Nest:
    """The answer to a question.

    Attributes:
        placements: placed copies, those that were fixed first.
        is_cut_short: True if the search was stopped, by a person or the clock, before it had taken all of its steps:
            a full search may find more.
    """

    placements: tuple[Placement, ...]
    is_cut_short: bool = False
