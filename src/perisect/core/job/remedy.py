"""Carry out what a finding proposes."""

from typing import Any

from pydantic import ValidationError

from perisect.core.finding import Remedy
from perisect.core.job.recipe import JobRecipe

PARTS = ("mend", "lines", "rights", "labels")
"""Fields of a design that are recipes themselves."""


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
    path = remedy.field.removeprefix("sheet.").split(".")
    if target is not None and path[0] in PARTS and target[path[0]] is not None:
        target, path = target[path[0]], path[1:]
    if target is None or len(path) != 1 or path[0] not in target or path[0] in ("id", "artwork", *PARTS):
        raise RemedyError(f"nothing here has a {remedy.field}")
    target[path[0]] = _value(path[0], remedy.value, target[path[0]])
    try:
        return JobRecipe.model_validate(data)
    except ValidationError as error:
        raise RemedyError(f"{remedy.field} cannot be {remedy.value}") from error


def _value(name: str, value: object, before: Any) -> object:
    """Some fields are more than a value: islands are added to those that go, a frame is named by its shape."""
    if name == "knock_out":
        return [*before, *(tuple(place.split(",")) for place in str(value).split(";"))]
    if name in ("frame", "backing") and value is not None:
        return {"shape": value}
    return value
