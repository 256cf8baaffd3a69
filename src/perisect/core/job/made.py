"""Split a recipe into what is made and what is only known about it, and name what is made.

A printed sheet stays current while what is made stays the same, so what is known (names, rights, prices, for whom it
is) has no part in the key. To read: `made_of` says what counts, `made_key` hashes it.
"""

import hashlib
import json
from typing import Any

from perisect.core.job.recipe import DesignRecipe, JobRecipe
from perisect.core.sheet.recipe import SheetRecipe

KNOWN_OF_DESIGN = {"name", "rights", "kind"}
"""Fields of a design that change no line and no pixel; `kind` only overrules the kind of art in findings."""
KNOWN_OF_STOCK = {"name", "price"}
KNOWN_OF_PRINTER = {"name", "ink_ml_m2", "ink_price", "widest_mm", "longest_mm"}
KNOWN_OF_PLOTTER = {"name"}
SEARCH = {"rows", "turns", "nest_s", "seed"}
"""Fields of a sheet that say how places are searched for, which nobody does once they are set by hand."""


def made_of(recipe: JobRecipe) -> dict[str, Any]:
    """Return what of a recipe is made, as JSON values with defaults left out.

    Defaults are left out so that a new field with a default changes no key.

    Args:
        recipe: a job as it is printed, its nest written down as places.
    """
    return {
        "designs": [_design(design, recipe.sheet) for design in recipe.designs],
        "sheet": _sheet(recipe.sheet),
    }


def made_key(recipe: JobRecipe) -> str:
    """Return the SHA-256 of what of a recipe is made, as 64 hexadecimal digits."""
    text = json.dumps(made_of(recipe), sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def _is_placed(sheet: SheetRecipe) -> bool:
    """Return whether places alone say what stands on the sheets: numbers of copies then change nothing."""
    return sheet.method == "hand" and sheet.card is None and sheet.on.kind == "sheet"


def _design(design: DesignRecipe, sheet: SheetRecipe) -> dict[str, Any]:
    numbers = {"copies"} if _is_placed(sheet) else set()
    return design.model_dump(mode="json", exclude_defaults=True, exclude=KNOWN_OF_DESIGN | numbers)


def _sheet(sheet: SheetRecipe) -> dict[str, Any]:
    without = {"stock", "paper", "printer", "plotter"}
    without |= SEARCH if sheet.method == "hand" else set()
    without |= {"fill"} if _is_placed(sheet) else set()
    made = sheet.model_dump(mode="json", exclude_defaults=True, exclude=without)
    if sheet.method == "hand":
        for place in made.get("placements", ()):
            place.pop("locked", None)
    # A sheet without a stock of its own is the same as one on which the usual one was chosen.
    for name, thing, known in (
        ("paper", sheet.on, KNOWN_OF_STOCK),
        ("printer", sheet.printed_by, KNOWN_OF_PRINTER),
        ("plotter", sheet.cut_by, KNOWN_OF_PLOTTER),
    ):
        made[name] = thing.model_dump(mode="json", exclude_defaults=True, exclude=known)
    return made
