"""How sharp a picture prints at a size."""

from typing import Literal

from perisect.core.artwork.kind import ArtKind
from perisect.core.finding import Finding, SetField
from perisect.core.message import NOTHING, mm, quantity, says
from perisect.core.units import MM_PER_INCH, ppi

GOOD_PPI = 300.0

LIMITS_PPI = {
    ArtKind.PHOTOGRAPH: (300.0, 200.0),
    ArtKind.DRAWING: (300.0, 200.0),
    ArtKind.LINE: (600.0, 300.0),
}
"""By kind of art: good from the first, soft below the second. Line art and small type want twice as much."""


def resolution_finding(
    design: str, name: str, longest_px: float, longest_mm: float, kind: ArtKind, enlarged: int = 1
) -> Finding:
    """Judge the effective resolution of an outline `longest_px` long printed `longest_mm` long.

    Args:
        longest_px: as printed; enlarging counts for nothing, since it adds no detail.
        enlarged: how many times it was enlarged on the way.
    """
    good, soft = LIMITS_PPI[kind]
    measured = ppi(longest_px / enlarged, longest_mm)
    largest_mm = longest_px / enlarged / good * MM_PER_INCH
    severity: Literal["good", "look"] = "look"
    if measured >= good:
        severity, verdict = "good", says("resolution.sharp", largest=mm(largest_mm, 1))
    elif measured < soft:
        verdict = says(f"resolution.soft.{kind.value}", good=quantity(good, "ppi", 0))
    elif kind is ArtKind.LINE:
        verdict = says("resolution.line", good=quantity(good, "ppi", 0))
    else:
        verdict = says("resolution.passes")
    again = says("resolution.enlarged", times=enlarged) if enlarged > 1 else NOTHING
    remedy = None
    if severity == "look" and largest_mm >= 5:
        size = int(largest_mm * 10) / 10
        remedy = SetField.saying(says("remedy.make_size", size=mm(size)), field="longest_mm", value=size)
    return Finding(
        code="resolution",
        station="artwork",
        severity=severity,
        message=says(
            "resolution", name=name, sharpness=quantity(measured, "ppi", 0), verdict=verdict, enlarged=again
        ),
        design=design,
        measured=round(measured, 1),
        limit=good,
        unit="ppi",
        remedy=remedy,
    )
