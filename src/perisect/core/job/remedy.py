"""Carry out what a finding proposes."""

from pydantic import ValidationError

from perisect.core.finding import Remedy
from perisect.core.job.recipe import JobRecipe


class RemedyError(ValueError):
    """The remedy does not apply to this recipe."""


def apply_remedy(recipe: JobRecipe, remedy: Remedy, design_id: str | None) -> JobRecipe:
    """The recipe with the remedy's one field set, on the design it is about or on the sheet.

    Raises:
        RemedyError: no such design, no such field, or a value outside its limits.
    """
    data = recipe.model_dump()
    if remedy.field.startswith("sheet."):
        target = data["sheet"]
    else:
        target = next((d for d in data["designs"] if d["id"] == design_id), None)
    name = remedy.field.removeprefix("sheet.")
    if target is None or name not in target or name in ("id", "artwork"):
        raise RemedyError(f"nothing here has a {remedy.field}")
    target[name] = remedy.value
    try:
        return JobRecipe.model_validate(data)
    except ValidationError as error:
        raise RemedyError(f"{remedy.field} cannot be {remedy.value}") from error
