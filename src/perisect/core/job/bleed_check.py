"""Whether a piece needs bleed, and how far it may reach."""

from perisect.core.finding import Finding, Remedy, SetField
from perisect.core.job.recipe import DesignRecipe
from perisect.core.job.traced import TracedArtwork
from perisect.core.lines import CutLines
from perisect.core.message import Message, mm, says

WANTED_MM = 1.5
"""More than a usual machine slips."""

TOUCHING_MM = 0.3
"""A border narrower than this is no border: a slip as small as that shows on it."""

PALE_CONTRAST = 12.0
"""Art whose edge differs less than this from paper (CIELAB) shows no slip."""


def bleed_findings(design: DesignRecipe, artwork: TracedArtwork, lines: CutLines) -> list[Finding]:
    """Bleed recommended where colour touches the line, and said to be pointless under a white border."""
    bleed, border = design.lines.bleed_mm, lines.border_mm(design.border_mm)
    if design.lines.shape == "held" and border == 0 and bleed == 0:
        return []  # The art goes past the line: it was drawn with its bleed.
    coloured = design.lines.border_colour is not None
    touches = coloured or (border < TOUCHING_MM and artwork.edge.contrast >= PALE_CONTRAST)
    if touches and bleed == 0:
        wanted = mm(WANTED_MM)
        remedy = SetField.saying(says("remedy.bleed", bleed=wanted), field="lines.bleed_mm", value=WANTED_MM)
        return [_finding(design, "look", says("bleed.wanted", name=design.name, bleed=wanted), remedy)]
    if touches:
        return [_finding(design, "good", says("bleed.enough", name=design.name, bleed=mm(bleed)), None)]
    if bleed > 0:
        remedy = SetField.saying(says("remedy.no_bleed"), field="lines.bleed_mm", value=0.0)
        return [_finding(design, "look", says("bleed.pointless", name=design.name), remedy)]
    return []


def _finding(design: DesignRecipe, severity: str, message: Message, remedy: Remedy | None) -> Finding:
    return Finding(
        code="bleed",
        station="lines",
        severity="look" if severity == "look" else "good",
        design=design.id,
        message=message,
        measured=design.lines.bleed_mm,
        unit="mm",
        remedy=remedy,
    )


def bleed_reach_mm(design: DesignRecipe, gap_mm: float) -> float:
    """How far past the art bleed is printed: as asked, and no further than half the gap past the lines."""
    lines = max(0.0, design.border_mm) + (design.peel_mm or 0.0)
    return min(design.lines.bleed_mm, lines + gap_mm / 2)
