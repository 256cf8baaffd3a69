"""How sharp a picture prints at a size."""

from perisect.core.finding import Finding, Remedy
from perisect.core.units import MM_PER_INCH, ppi

GOOD_PPI = 300.0
SOFT_PPI = 200.0


def resolution_finding(design: str, name: str, longest_px: float, longest_mm: float) -> Finding:
    """Judge the effective resolution of an outline `longest_px` long printed `longest_mm` long.

    300 ppi or more is good; 200 to 300 passes for a laptop sticker; below 200 is soft.
    """
    measured = ppi(longest_px, longest_mm)
    largest_mm = longest_px / GOOD_PPI * MM_PER_INCH
    if measured >= GOOD_PPI:
        severity, verdict = "good", f"prints sharp up to {largest_mm:.1f} mm."
    elif measured >= SOFT_PPI:
        severity, verdict = "look", "passes for a sticker on a laptop, but fine lines will look soft."
    else:
        severity, verdict = "look", "will look soft in print."
    remedy = None
    if severity == "look":
        size = max(5.0, int(largest_mm * 10) / 10)
        remedy = Remedy(label=f"Make it {size:g} mm", field="longest_mm", value=size)
    return Finding(
        code="resolution",
        station="artwork",
        severity="good" if severity == "good" else "look",
        text=f"{name}: {measured:.0f} ppi, {verdict}",
        design=design,
        measured=round(measured, 1),
        limit=GOOD_PPI,
        unit="ppi",
        remedy=remedy,
    )
