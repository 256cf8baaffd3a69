"""Whether what is made for sale may be sold."""

from perisect.core.finding import Finding, SetField
from perisect.core.job.recipe import JobRecipe
from perisect.core.message import NOTHING, says


def rights_findings(recipe: JobRecipe) -> list[Finding]:
    """For an order, each piece whose rights are unknown or that may not be sold; at the sheet, where it is made."""
    if not recipe.order:
        return []
    found = []
    for design in recipe.designs:
        may = design.rights.may_be_sold
        if may == "yes":
            continue
        source = says("rights.source", source=design.rights.source) if design.rights.source else NOTHING
        found.append(
            Finding(
                code="rights",
                station="sheet",
                severity="stop" if may == "no" else "look",
                design=design.id,
                message=says(f"rights.{may}", name=design.name, source=source),
                remedy=None
                if may == "no"
                else SetField.saying(says("remedy.may_be_sold"), field="rights.may_be_sold", value="yes"),
            )
        )
    return found
