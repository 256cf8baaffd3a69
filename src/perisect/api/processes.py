"""The tables of the house for the screen: processes, mark patterns, shapes of marks."""

from fastapi import APIRouter
from pydantic import BaseModel

from perisect.core.catalogue import CATALOGUE
from perisect.core.job.made import KNOWN_OF_DESIGN, KNOWN_OF_PLOTTER, KNOWN_OF_PRINTER, KNOWN_OF_STOCK
from perisect.core.process import MARKS_COLOUR, processes
from perisect.core.sheet.mark_pattern import PATTERNS
from perisect.core.sheet.mark_shape import SHAPES

router = APIRouter(tags=["tables"])


class ProcessView(BaseModel):
    """A process as it is shown everywhere."""

    name: str
    title: str
    colour: str
    dash_mm: tuple[float, ...]
    closed: bool
    frees: bool
    pen: int


class NamedView(BaseModel):
    """A pattern or a shape by its name and what people call it."""

    name: str
    title: str


class KnownFieldsView(BaseModel):
    """Fields of recipes that change nothing of what is made."""

    design: list[str]
    paper: list[str]
    printer: list[str]
    plotter: list[str]


class TablesView(BaseModel):
    """Everything that is a record of its own."""

    processes: list[ProcessView]
    marks_colour: str
    patterns: list[NamedView]
    shapes: list[NamedView]
    known: KnownFieldsView
    catalogue: dict[str, str]
    """Sentences by the code of their message, with places for its values."""


def tables() -> TablesView:
    """The tables, processes in the order they are cut."""
    return TablesView(
        processes=[
            ProcessView(
                name=each.name,
                title=each.title,
                colour=each.colour,
                dash_mm=each.dash_mm,
                closed=each.closed,
                frees=each.frees,
                pen=each.pen,
            )
            for each in processes()
        ],
        marks_colour=MARKS_COLOUR,
        patterns=[NamedView(name=each.name, title=each.title) for each in PATTERNS.values()],
        shapes=[NamedView(name=each.name, title=each.title) for each in SHAPES.values()],
        catalogue=dict(CATALOGUE),
        known=KnownFieldsView(
            design=sorted(KNOWN_OF_DESIGN),
            paper=sorted(KNOWN_OF_STOCK),
            printer=sorted(KNOWN_OF_PRINTER),
            plotter=sorted(KNOWN_OF_PLOTTER),
        ),
    )


@router.get("/api/tables")
def get_tables() -> TablesView:
    """Processes, patterns and shapes that this house knows."""
    return tables()
