"""Lists that drive labels, and how their rows come out."""

from typing import Annotated

from fastapi import APIRouter, Query, UploadFile
from pydantic import BaseModel

from perisect.api.problems import Problem
from perisect.core.job import JobRecipe
from perisect.core.sheet.labels import LabelArt, Table
from perisect.core.sheet.labels.table import MOST_BYTES
from perisect.services import label_lists
from perisect.services.plans import plan as plan_recipe

router = APIRouter(prefix="/api/labels", tags=["labels"])

WORST = 6


class TableView(BaseModel):
    """A kept list: its columns, how many rows, the first of them, and what was noticed."""

    table: str
    columns: list[str]
    rows: int
    first: list[list[str]]
    notes: list[str]


class PaintedView(BaseModel):
    """A filled path in design mm."""

    colour: str
    path: str


class WorstView(BaseModel):
    """A row that comes out worse than others."""

    row: int
    shortened: bool
    size_mm: float
    problem: str | None
    painted: list[PaintedView]


class LabelsView(BaseModel):
    """The worst rows, and how many do not fit or were shortened."""

    rows: int
    unfit: int
    shortened: int
    worst: list[WorstView]


@router.post("/tables")
def post_table(file: UploadFile) -> TableView:
    """Save a list: a CSV, or what was copied from a table. Its first row names the columns."""
    sha256, table = label_lists.take_in(file.file.read(MOST_BYTES + 1))
    return _table_view(sha256, table)


@router.get("/tables/{table}")
def get_table(table: str) -> TableView:
    """A kept list."""
    return _table_view(table, label_lists.get(table))


@router.post("/worst")
def post_worst(recipe: JobRecipe, design: Annotated[str, Query(max_length=40)]) -> LabelsView:
    """The rows of a design's list that come out worst. Nothing is kept."""
    labels = plan_recipe(recipe).plan.labels.get(design)
    if labels is None:
        raise Problem(404, "This piece has no list.", "Drop a list on it first.")
    counts = labels.counts
    return LabelsView(
        rows=len(labels),
        unfit=counts["problem"],
        shortened=counts["shortened"],
        worst=[
            WorstView(
                row=each.row + 1,
                shortened=each.shortened,
                size_mm=each.size_mm,
                problem=each.problem,
                painted=painted_view(labels.art(each.row)),
            )
            for each in labels.tight[:WORST]
        ],
    )


@router.post("/sheets/{number}")
def post_sheet_labels(number: int, recipe: JobRecipe) -> list[list[PaintedView]]:
    """What each sticker of a sheet (from 1) says."""
    plan = plan_recipe(recipe).plan
    if not 1 <= number <= len(plan.sheets.sheets):
        raise Problem(404, f"This job has no sheet {number}.", f"It has {len(plan.sheets.sheets)}.")
    return [painted_view(art) for art in plan.label_art(number - 1)]


def painted_view(art: LabelArt | None) -> list[PaintedView]:
    """Paths for the screen."""
    if art is None:
        return []
    return [PaintedView(colour=each.colour, path=each.path.svg()) for each in art.painted]


def _table_view(sha256: str, table: Table) -> TableView:
    return TableView(
        table=sha256,
        columns=list(table.columns),
        rows=len(table.rows),
        first=[list(row) for row in table.rows[:5]],
        notes=list(table.notes),
    )
