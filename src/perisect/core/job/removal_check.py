"""Findings of a background that was taken away: shadows, and places where art may have gone with it."""

from perisect.core.artwork.doubts import LOOSER, STRICTER, Doubt
from perisect.core.finding import Finding, Remedy, SetField
from perisect.core.job.design_frame import in_design, mm_per_px
from perisect.core.job.recipe import DesignRecipe
from perisect.core.job.traced import TracedArtwork
from perisect.core.message import NOTHING, mm2, percent, says

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
        message=says("shadow", name=design.name),
        remedy=SetField.saying(says("remedy.keep_shadow"), field="mend.shadow", value="soft"),
    )


def _doubt(design: DesignRecipe, artwork: TracedArtwork, doubt: Doubt) -> Finding:
    scale = mm_per_px(design, artwork) * (artwork.scale[0] * artwork.scale[1]) ** 0.5
    area = doubt.area_px * scale**2
    share = says("removal.share", share=percent(doubt.share)) if doubt.share < 1 else NOTHING
    return Finding(
        code=f"removal_{doubt.kind}",
        station="artwork",
        severity="look",
        design=design.id,
        where_mm=in_design(design, artwork, doubt.x_px + 0.5, doubt.y_px + 0.5),
        measured=round(area, 1),
        unit="mm2",
        message=says(
            "removal",
            told=says(f"removal_{doubt.kind}", name=design.name, area=mm2(area, 1)),
            share=share,
        ),
        remedy=_remedy(design, artwork, doubt),
    )


def _remedy(design: DesignRecipe, artwork: TracedArtwork, doubt: Doubt) -> Remedy | None:
    now = design.mend.tolerance or artwork.tolerance or 0.0
    match doubt.kind:
        case "taken":
            return _tolerance("remedy.keep_more", max(LEAST_TOLERANCE, now * STRICTER), design)
        case "left":
            return _tolerance("remedy.take_more", min(MOST_TOLERANCE, now * LOOSER), design)
        case "nothing":
            return SetField.saying(says("remedy.background_as_is"), field="mend.background", value="as_is")
        case _:
            return None


def _tolerance(code: str, value: float, design: DesignRecipe) -> Remedy | None:
    rounded = round(value, 1)
    return (
        None
        if rounded == design.mend.tolerance
        else SetField.saying(says(code), field="mend.tolerance", value=rounded)
    )
