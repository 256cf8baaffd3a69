"""A picture becomes a piece of a job: called after its file, with lines such as the shop makes them."""

import re
from typing import Literal

from perisect.core.job.recipe import LEAST_MM, LONGEST_MM, DesignRecipe, JobRecipe
from perisect.core.job.remedy import RemedyError
from perisect.core.job.split import MOST_DESIGNS
from perisect.core.lines.material import Tooling
from perisect.core.lines.recipe import LineRecipe, TabRecipe

ComesOff = Literal["sheet", "edge", "tab", "through", "tear_out"]
"""How pieces come off: kissed on their sheet; single with an edge to peel at, or with a tab to pull; cut through;
torn out of a perforated frame."""

PEEL_MM = 3.0
EVERY_HOLE_MM = 400.0
"""A slit between a bird's legs is a nuisance and not a wish: all holes are filled until somebody wants one."""

BENDS_PER_OFFSET = 2
"""A drag knife swivels on its offset: it follows a bend of two offsets, a tighter one it drags round."""


def usual_lines(comes_off: ComesOff, tooling: Tooling) -> tuple[float | None, LineRecipe]:
    """Peel margin in mm (None for none) and lines that a new piece begins with."""
    usual = LineRecipe(
        own="through" if comes_off == "through" else "kiss",
        outer="perforate" if comes_off == "tear_out" else "through",
        tab=TabRecipe() if comes_off == "tab" else None,
        fill_holes_mm=EVERY_HOLE_MM,
        radius_mm=round(BENDS_PER_OFFSET * tooling.knife_offset_mm, 2),
    )
    return (None if comes_off in ("sheet", "through") else PEEL_MM), usual


def with_picture(
    recipe: JobRecipe,
    sha256: str,
    file_name: str,
    before: str | None = None,
    habit: ComesOff = "sheet",
    die_mm: float | None = None,
) -> tuple[JobRecipe, str]:
    """The recipe with a piece made of a picture, and the piece's id.

    The first piece comes off as is the shop's `habit`. A later one has border, peel margin, copies and line set of
    the job's last piece, so that a set stays a set; where its art came from nobody has said yet.

    Args:
        before: the id of the piece it is put before; None to put it last.
        die_mm: the longer side of a die that somebody has already, whose lines are cut as they are at their own size.

    Raises:
        RemedyError: the job holds as many pieces as it may.
    """
    if len(recipe.designs) >= MOST_DESIGNS:
        raise RemedyError(f"a job holds at most {MOST_DESIGNS} pieces")
    numbers = [int(found[1]) for each in recipe.designs if (found := re.fullmatch(r"d(\d+)", each.id))]
    peel_mm, lines = usual_lines(habit, recipe.sheet.tooling)
    new = DesignRecipe(
        id=f"d{max(numbers, default=0) + 1}",
        name=name_of(file_name),
        artwork=sha256,
        peel_mm=peel_mm,
        lines=lines,
    )
    if recipe.designs:
        new = new.model_copy(update=_as_the_last(recipe.designs[-1], lines))
    if die_mm is not None:
        new = as_die(new, die_mm)
    ids = [each.id for each in recipe.designs]
    at = ids.index(before) if before in ids else len(ids)
    designs = (*recipe.designs[:at], new, *recipe.designs[at:])
    return recipe.model_copy(update={"designs": designs}), new.id


def as_die(design: DesignRecipe, die_mm: float) -> DesignRecipe:
    """A piece whose lines are those of a die, so long at its longer side, as they are."""
    update = {
        "lines": LineRecipe(shape="held", own=design.lines.own),
        "peel_mm": None,
        "border_mm": 0.0,
        "longest_mm": min(max(die_mm, LEAST_MM), LONGEST_MM),
    }
    return design.model_copy(update=update)


def _as_the_last(last: DesignRecipe, usual: LineRecipe) -> dict[str, object]:
    """What of a set's last piece the next one has too."""
    own = {
        # What is printed only is so for a reason of its own.
        "own": "kiss" if last.lines.own == "none" else last.lines.own,
        "outer": last.lines.outer,
        "tab": None if last.lines.tab is None else last.lines.tab.model_copy(update={"near": None}),
        "fill_holes_mm": last.lines.fill_holes_mm,
        "radius_mm": last.lines.radius_mm,
    }
    return {
        "border_mm": last.border_mm,
        "peel_mm": last.peel_mm,
        "copies": last.copies,
        "lines": usual.model_copy(update=own),
    }


def name_of(file_name: str) -> str:
    """What a piece is called by the file it came in."""
    bare = re.sub(r"\.[^.]+$", "", file_name.replace("\\", "/").rsplit("/", 1)[-1])
    words = " ".join(
        "".join(c if c.isprintable() else " " for c in bare).replace("_", " ").replace("-", " ").split()
    )
    named = words or "Piece"
    return (named[0].upper() + named[1:])[:120]
