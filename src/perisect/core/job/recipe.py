"""What a person decides about a job. Everything else follows from it and from the artwork's bytes."""

import hashlib
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from perisect.core.artwork import MendRecipe
from perisect.core.lines.recipe import LineRecipe
from perisect.core.sheet.labels import LabelRecipe
from perisect.core.sheet.recipe import Copies, DesignId, SheetRecipe

LEAST_MM, LONGEST_MM = 5.0, 400.0
"""How small and how large the longer side of a piece may be."""
LongestMm = Annotated[float, Field(ge=LEAST_MM, le=LONGEST_MM, allow_inf_nan=False)]
BorderMm = Annotated[float, Field(ge=-20, le=20, allow_inf_nan=False)]
PeelMm = Annotated[float, Field(ge=0.5, le=20, allow_inf_nan=False)]
DesignName = Annotated[str, Field(min_length=1, max_length=120)]
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class RightsRecipe(BaseModel):
    """Where art came from and what may be done with it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    source: Annotated[str, Field(max_length=300)] = ""
    licence: Annotated[str, Field(max_length=120)] = ""
    may_be_sold: Literal["yes", "no", "unknown"] = "unknown"


class DesignRecipe(BaseModel):
    """One picture at one size with its lines; `kind` overrules the kind of art that was seen."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: DesignId
    name: DesignName
    artwork: Sha256
    mend: MendRecipe = MendRecipe()
    longest_mm: LongestMm = 60.0
    border_mm: BorderMm = 2.0
    peel_mm: PeelMm | None = None
    copies: Copies = 1
    lines: LineRecipe = LineRecipe()
    kind: Literal["photograph", "drawing", "line"] | None = None
    rights: RightsRecipe = RightsRecipe()
    labels: LabelRecipe | None = None
    group: Annotated[str, Field(max_length=20, pattern=r"^[A-Za-z0-9 -]*$")] = ""
    """Pieces of one group are kept together on the sheet."""

    @property
    def picture(self) -> str:
        """Name of the picture as mended: the artwork's own hash when nothing is mended."""
        if self.mend.is_nothing:
            return self.artwork
        size = f" {self.longest_mm}" if self.mend.is_in_mm else ""
        return hashlib.sha256(f"{self.artwork} {self.mend.model_dump_json()}{size}".encode()).hexdigest()


MAX_DESIGNS = 60
"""Most pieces of a job. Chosen: a page of drawings has some forty, and a job of sixty plans in two seconds."""


class JobRecipe(BaseModel):
    """The whole job; an `order` is made for sale."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    designs: Annotated[tuple[DesignRecipe, ...], Field(max_length=MAX_DESIGNS)] = ()
    sheet: SheetRecipe = SheetRecipe()
    order: bool = False

    @model_validator(mode="after")
    def _ids_differ(self) -> "JobRecipe":
        ids = [design.id for design in self.designs]
        if len(set(ids)) != len(ids):
            raise ValueError("two designs have the same id")
        return self

    def design(self, design_id: str) -> DesignRecipe:
        """The design with this id.

        Raises:
            KeyError: there is none.
        """
        for design in self.designs:
            if design.id == design_id:
                return design
        raise KeyError(design_id)
