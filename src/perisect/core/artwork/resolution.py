"""How sharp a picture prints at a size."""

from typing import Literal

from perisect.core.artwork.kind import ArtKind
from perisect.core.finding import Finding, SetField
from perisect.core.units import MM_PER_INCH, ppi

GOOD_PPI = 300.0

LIMITS_PPI = {
    ArtKind.PHOTOGRAPH: (300.0, 200.0),
    ArtKind.DRAWING: (300.0, 200.0),
    ArtKind.LINE: (600.0, 300.0),
}
"""By kind of art: good from the first, soft below the second. Line art and small type want twice as much."""

WORDS = {ArtKind.PHOTOGRAPH: "a photograph", ArtKind.DRAWING: "a drawing", ArtKind.LINE: "line art or type"}


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
        severity, verdict = "good", f"prints sharp up to {largest_mm:.1f} mm."
    elif measured < soft:
        verdict = f"will look soft in print. {WORDS[kind].capitalize()} is sharp from {good:.0f} ppi."
    elif kind is ArtKind.LINE:
        verdict = f"passes, but thin lines and small type want {good:.0f}."
    else:
        verdict = "passes for a sticker on a laptop, but fine lines will look soft."
    if enlarged > 1:
        verdict += f" Enlarging it {enlarged} times made its edges smoother; it added no detail."
    remedy = None
    if severity == "look" and largest_mm >= 5:
        size = int(largest_mm * 10) / 10
        remedy = SetField(label=f"Make it {size:g} mm", field="longest_mm", value=size)
    return Finding(
        code="resolution",
        station="artwork",
        severity=severity,
        text=f"{name}: {measured:.0f} ppi, {verdict}",
        design=design,
        measured=round(measured, 1),
        limit=good,
        unit="ppi",
        remedy=remedy,
    )
