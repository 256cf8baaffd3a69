"""Whether what is made for sale may be sold."""

from perisect.core.finding import Finding, SetField
from perisect.core.job.recipe import JobRecipe


def rights_findings(recipe: JobRecipe) -> list[Finding]:
    """For an order, each piece whose rights are unknown or that may not be sold; at the sheet, where it is made."""
    if not recipe.order:
        return []
    found = []
    for design in recipe.designs:
        may = design.rights.may_be_sold
        if may == "yes":
            continue
        known = f" Its source: {design.rights.source}." if design.rights.source else ""
        text = (
            f"{design.name} may not be sold, and this job is an order.{known}"
            if may == "no"
            else f"Nobody has said whether {design.name} may be sold, and this job is an order.{known} "
            "Ask whoever drew it; local law decides."
        )
        found.append(
            Finding(
                code="rights",
                station="sheet",
                severity="stop" if may == "no" else "look",
                design=design.id,
                text=text,
                remedy=None
                if may == "no"
                else SetField(label="It may be sold", field="rights.may_be_sold", value="yes"),
            )
        )
    return found
