"""Findings of the Artwork station: background, islands, specks and resolution of one design."""

from collections import Counter

from perisect.core.artwork import Verdict
from perisect.core.artwork.flood import Island
from perisect.core.artwork.kind import ArtKind
from perisect.core.artwork.mend import THIN_SLIVER_PX
from perisect.core.artwork.resolution import resolution_finding
from perisect.core.finding import Finding, KnockOut, PutShape, Remedy, SetField, SplitPage
from perisect.core.job.advice import design_advice
from perisect.core.job.design_frame import in_design, mm_per_px
from perisect.core.job.recipe import LEAST_MM, LONGEST_MM, DesignRecipe
from perisect.core.job.removal_check import removal_findings
from perisect.core.job.traced import TracedArtwork
from perisect.core.lines import CutLines
from perisect.core.lines.material import USUAL, Tooling
from perisect.core.message import NOTHING, Message, mm, mm2, says

SPECK_MM2 = 1.0
"""A loose piece smaller than this at the final size is a stray dot."""

LEAST_TOLD_MM2 = 0.01
LEAST_TOLD_SHARE = 0.001

MOST_ISLANDS = 2
"""More enclosed patches than this are said in one sentence."""


def artwork_findings(
    design: DesignRecipe, artwork: TracedArtwork, lines: CutLines | None = None
) -> list[Finding]:
    """What stands between this picture and a clean cut, then advice that stops nobody.

    Args:
        lines: of the design, which hold its outline at size; without them nothing is said of its form.
    """
    found = []
    if artwork.is_die and design.lines.shape == "held":
        return [_die(design, artwork)]
    if (background := background_finding(design, artwork)) is not None:
        found.append(background)
    if artwork.undrawn:
        message = says("undrawn", name=design.name, what=artwork.undrawn)
        found.append(
            Finding(code="undrawn", station="artwork", severity="look", design=design.id, message=message)
        )
    if artwork.held_line and design.lines.shape != "held":
        found.append(_held_line(design, artwork))
    if (page := _page(design, artwork)) is not None:
        found.append(page)
    if (specks := _specks(design, artwork)) is not None:
        found.append(specks)
    found.extend(_islands(design, artwork, lines.tooling if lines is not None else USUAL))
    found.extend(removal_findings(design, artwork))
    if artwork.in_curves:
        found.append(_sharp_at_any_size(design))
    else:
        kind = ArtKind(design.kind) if design.kind else artwork.kind
        longest_px, enlarged = artwork.outline.longest_px, design.mend.enlarge
        found.append(
            resolution_finding(design.id, design.name, longest_px, design.longest_mm, kind, enlarged)
        )
    found.extend(design_advice(design, artwork, lines))
    return found


def _held_line(design: DesignRecipe, artwork: TracedArtwork) -> Finding:
    return Finding(
        code="held_line",
        station="artwork",
        severity="look",
        design=design.id,
        message=says("held_line", name=design.name, line=artwork.held_line),
        remedy=SetField.saying(says("remedy.held_line"), field="lines.shape", value="held"),
    )


def _die(design: DesignRecipe, artwork: TracedArtwork) -> Finding:
    beside = Counter(process for process, _ in artwork.outline.beside)
    lines = [f"{beside[name]} to {name}" for name in sorted(beside, reverse=True)]
    drawn = max(artwork.own_mm) if artwork.own_mm is not None else design.longest_mm
    if abs(drawn - design.longest_mm) > LEAST_TOLD_SHARE * drawn:
        fits = LEAST_MM <= drawn <= LONGEST_MM
        return Finding(
            code="die",
            station="artwork",
            severity="look",
            design=design.id,
            message=says("die.resized", name=design.name, drawn=mm(drawn, 1), cut=mm(design.longest_mm, 1)),
            measured=design.longest_mm,
            limit=round(drawn, 2),
            unit="mm",
            remedy=SetField.saying(says("remedy.cut_as_drawn"), field="longest_mm", value=drawn)
            if fits
            else None,
        )
    more = says("die.with", lines=" and ".join(lines)) if lines else NOTHING
    return Finding(
        code="die",
        station="artwork",
        severity="good",
        design=design.id,
        message=says("die", name=design.name, more=more),
    )


def _sharp_at_any_size(design: DesignRecipe) -> Finding:
    return Finding(
        code="resolution",
        station="artwork",
        severity="good",
        design=design.id,
        message=says("resolution.curves", name=design.name),
    )


def background_finding(design: DesignRecipe, artwork: TracedArtwork) -> Finding | None:
    """What is behind the art of a picture that was left as it came, and what is offered."""
    judged, mend = artwork.judged, design.mend
    by_hand = mend.picked or mend.frame or mend.crop or mend.strokes or mend.subject
    mended = mend.background != "as_is" or by_hand
    if judged.verdict is Verdict.CLEAR or mended:
        return None
    if judged.verdict is Verdict.FEATHERED:
        width = judged.soft_edge_px * mm_per_px(design, artwork)
        return Finding(
            code="feathered",
            station="artwork",
            severity="look",
            design=design.id,
            measured=round(width, 2),
            unit="mm",
            message=says("feathered", name=design.name, width=mm(width, 1)),
        )
    if judged.verdict is Verdict.PHOTOGRAPH:
        message = says("background_photograph", name=design.name)
        remedy: Remedy = PutShape.saying(says("remedy.frame_rounded"), part="frame", shape="rounded")
    elif judged.verdict is Verdict.CHECKERBOARD:
        message = says("background_checkerboard", name=design.name, reason=judged.reason)
        remedy = SetField.saying(
            says("remedy.remove_checkerboard"), field="mend.background", value="checkerboard"
        )
    else:
        reason = f"{judged.reason[0].lower()}{judged.reason[1:]}"
        message = says("background_plain", name=design.name, reason=reason)
        remedy = SetField.saying(says("remedy.remove_background"), field="mend.background", value="plain")
    return Finding(
        code=f"background_{judged.verdict}",
        station="artwork",
        severity="look",
        design=design.id,
        message=message,
        remedy=remedy,
    )


def _islands(design: DesignRecipe, artwork: TracedArtwork, tooling: Tooling) -> list[Finding]:
    """Enclosed patches of a plain background's colour that stayed."""
    if design.mend.background != "plain" or design.mend.frame or design.mend.backing:
        return []
    scale = mm_per_px(design, artwork) * (artwork.scale[0] * artwork.scale[1]) ** 0.5
    least_px = max(THIN_SLIVER_PX, tooling.smallest_loop_mm / scale)
    gone = set(design.mend.knock_out)
    left = [island for island in artwork.islands if (island.x_px, island.y_px) not in gone]
    if len(left) > MOST_ISLANDS:
        return [_many_islands(design, artwork, left, scale, least_px)]
    return [_island(design, artwork, island, scale, least_px) for island in left]


def _island(
    design: DesignRecipe, artwork: TracedArtwork, island: Island, scale: float, least_px: float
) -> Finding:
    area = island.area_px * scale**2
    small = island.width_px < least_px
    return Finding(
        code="island",
        station="artwork",
        severity="good" if small else "look",
        design=design.id,
        where_mm=in_design(design, artwork, island.x_px + 0.5, island.y_px + 0.5),
        measured=round(area, 1),
        unit="mm2",
        message=says("island.small" if small else "island", name=design.name, area=mm2(area, 1)),
        remedy=KnockOut.saying(says("remedy.remove_patch"), places=((island.x_px, island.y_px),)),
    )


def _many_islands(
    design: DesignRecipe, artwork: TracedArtwork, left: list[Island], scale: float, least_px: float
) -> Finding:
    """One sentence for many patches; those too small are not among those that one click takes away."""
    wide = [island for island in left if island.width_px >= least_px]
    largest = max(left, key=lambda island: island.area_px)
    small = len(left) - len(wide)
    kept = (
        (says("islands.some_small", count=small) if wide else says("islands.all_small")) if small else NOTHING
    )
    places = tuple((island.x_px, island.y_px) for island in wide)
    remedy = (
        KnockOut.saying(
            says("remedy.remove_other_patches" if small else "remedy.remove_patches", count=len(wide)),
            places=places,
        )
        if places
        else None
    )
    return Finding(
        code="island",
        station="artwork",
        severity="look" if wide else "good",
        design=design.id,
        where_mm=in_design(design, artwork, largest.x_px + 0.5, largest.y_px + 0.5),
        measured=len(left),
        limit=0,
        unit="patches",
        message=says(
            "islands",
            count=len(left),
            name=design.name,
            largest=mm2(largest.area_px * scale**2, 1),
            kept=kept,
        ),
        remedy=remedy,
    )


def _page(design: DesignRecipe, artwork: TracedArtwork) -> Finding | None:
    count = len(artwork.pieces)
    if count < 2 or design.mend.frame or design.mend.backing:
        return None
    return Finding(
        code="page",
        station="artwork",
        severity="look",
        design=design.id,
        measured=count,
        limit=1,
        unit="drawings",
        message=says("page", name=design.name, count=count),
        remedy=SplitPage.saying(says("remedy.split", count=count)),
    )


def _area(area_mm2: float) -> Message:
    if area_mm2 >= LEAST_TOLD_MM2:
        return says("specks.area", area=mm2(area_mm2, 2))
    return says("specks.under", area=mm2(LEAST_TOLD_MM2))


def _specks(design: DesignRecipe, artwork: TracedArtwork) -> Finding | None:
    scale = mm_per_px(design, artwork)
    # Areas are of the picture as it came, whose pixels may have been stretched or enlarged since.
    scale *= (artwork.scale[0] * artwork.scale[1]) ** 0.5
    small = [
        part
        for part in artwork.loose_left(design.mend)
        if part.area_px * scale**2 < SPECK_MM2 and part.place not in design.mend.specks_kept
    ]
    if not small:
        return None
    count, largest = len(small), max(part.area_px for part in small)
    return Finding(
        code="specks",
        station="artwork",
        severity="look",
        design=design.id,
        where_mm=in_design(design, artwork, small[-1].x_px, small[-1].y_px),
        measured=count,
        limit=0,
        unit="specks",
        message=says(
            "specks",
            count=count,
            limit=mm2(SPECK_MM2),
            name=design.name,
            largest=_area(largest * scale**2),
        ),
        remedy=SetField.saying(
            says("remedy.remove_speck") if count == 1 else says("remedy.remove_specks", count=count),
            field="mend.specks_px2",
            value=round(min(largest + 1, SPECK_MM2 / scale**2 + 1), 1),
        ),
    )
