"""Carry out what a finding proposes."""

from typing import Any

from pydantic import ValidationError

from perisect.core.finding import KnockOut, PutShape, Remedy, SetField
from perisect.core.job.recipe import JobRecipe

PARTS = ("mend", "lines", "rights", "labels")
"""Fields of a design that are recipes themselves."""


class RemedyError(ValueError):
    """The remedy does not apply to this recipe."""


def apply_remedy(recipe: JobRecipe, remedy: Remedy, design_id: str | None) -> JobRecipe:
    """The recipe with what a remedy proposes, on the design it is about or on the sheet. A page is split by those who
    have its picture.

    Raises:
        RemedyError: no such design, no such field, or a value outside its limits.
    """
    data = recipe.model_dump()
    match remedy:
        case SetField():
            _set(data, remedy, design_id)
        case KnockOut():
            mend = _design(data, design_id)["mend"]
            mend["knock_out"] = [*mend["knock_out"], *remedy.places]
        case PutShape():
            _design(data, design_id)["mend"][remedy.part] = {"shape": remedy.shape}
        case _:
            raise RemedyError("a page is split where its picture is")
    try:
        return JobRecipe.model_validate(data)
    except ValidationError as error:
        raise RemedyError(f"{remedy.label} is not possible here") from error


def _design(data: dict[str, Any], design_id: str | None) -> dict[str, Any]:
    found = next((design for design in data["designs"] if design["id"] == design_id), None)
    if found is None:
        raise RemedyError("there is no such piece")
    result: dict[str, Any] = found
    return result


def _set(data: dict[str, Any], remedy: SetField, design_id: str | None) -> None:
    target = data["sheet"] if remedy.field.startswith("sheet.") else _design(data, design_id)
    path = remedy.field.removeprefix("sheet.").split(".")
    if path[0] in PARTS and target.get(path[0]) is not None:
        target, path = target[path[0]], path[1:]
    if len(path) != 1 or path[0] not in target or path[0] in ("id", "artwork", *PARTS):
        raise RemedyError(f"nothing here has a {remedy.field}")
    target[path[0]] = remedy.value
