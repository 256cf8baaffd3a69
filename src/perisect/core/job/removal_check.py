"""Findings of a background that was taken away: shadows, and places where art may have gone with it."""

from perisect.core.artwork.doubts import LOOSER, STRICTER, Doubt
from perisect.core.finding import Finding, Remedy, SetField
from perisect.core.job.design_frame import in_design, mm_per_px
from perisect.core.job.recipe import DesignRecipe
from perisect.core.job.traced import TracedArtwork

LEAST_TOLERANCE, MOST_TOLERANCE = 1.0, 40.0


def removal_findings(design: DesignRecipe, artwork: TracedArtwork) -> list[Finding]:
    """What is to be looked at after a removal; nothing where the background is as it came or has a frame round it."""
    if design.mend.background == "as_is" or design.mend.frame:
        return []
    found = [_shadow(design)] if artwork.shadow and design.mend.shadow == "drop" else []
    return found + [_doubt(design, artwork, doubt) for doubt in artwork.doubts]


def _shadow(design: DesignRecipe) -> Finding:
    return Finding(
        code="shadow",
        station="artwork",
        severity="good",
        design=design.id,
        text=f"A soft shadow lay on the background of {design.name} and went with it, so the line follows the art. "
        "It can stay as soft transparency under it, or be cut round too: see Background.",
        remedy=SetField(label="Keep it, soft", field="mend.shadow", value="soft"),
    )


def _doubt(design: DesignRecipe, artwork: TracedArtwork, doubt: Doubt) -> Finding:
    scale = mm_per_px(design, artwork) * (artwork.scale[0] * artwork.scale[1]) ** 0.5
    area = doubt.area_px * scale**2
    text, remedy = _told(design, artwork, doubt, f"{area:.1f} mm²")
    return Finding(
        code=f"removal_{doubt.kind}",
        station="artwork",
        severity="look",
        design=design.id,
        where_mm=in_design(design, artwork, doubt.x_px + 0.5, doubt.y_px + 0.5),
        measured=round(area, 1),
        unit="mm2",
        text=f"{text} ({100 * doubt.share:.0f} % of the art is in question.)" if doubt.share < 1 else text,
        remedy=remedy,
    )


def _told(design: DesignRecipe, artwork: TracedArtwork, doubt: Doubt, area: str) -> tuple[str, Remedy | None]:
    name, now = design.name, design.mend.tolerance or artwork.tolerance or 0.0
    match doubt.kind:
        case "taken":
            return (
                f"{area} beside {name} went with the background though they differ from it a little: they may be art.",
                _tolerance("Keep what differs less", max(LEAST_TOLERANCE, now * STRICTER), design),
            )
        case "left":
            return (
                f"{area} beside {name} stayed though they hardly differ from the background: they may belong to it.",
                _tolerance("Take them too", min(MOST_TOLERANCE, now * LOOSER), design),
            )
        case "leak":
            return (
                f"The background was taken through a narrow gap into {name}: {area} behind it may be art of the same "
                "colour. Bring it back with the brush if so.",
                None,
            )
        case "shadow":
            return (
                f"A soft shadow lies against a part of {name} that is as grey, so it stayed and the line follows it. "
                "Rub it out with the brush, or use a picture without it.",
                None,
            )
        case "nothing":
            return (
                f"Hardly anything is left of {name}: its colours are those of its background.",
                SetField(label="Background as it is", field="mend.background", value="as_is"),
            )
        case "speckled":
            return f"The background of {name} came off in crumbs, so it may be no plain background.", None


def _tolerance(label: str, value: float, design: DesignRecipe) -> Remedy | None:
    rounded = round(value, 1)
    return (
        None
        if rounded == design.mend.tolerance
        else SetField(label=label, field="mend.tolerance", value=rounded)
    )
