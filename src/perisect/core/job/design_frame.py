"""From px of a picture to mm of its design."""

from perisect.core.job.recipe import DesignRecipe
from perisect.core.job.traced import TracedArtwork


def mm_per_px(design: DesignRecipe, artwork: TracedArtwork) -> float:
    """Scale of a design's picture."""
    return design.longest_mm / artwork.outline.longest_px


def in_design(design: DesignRecipe, artwork: TracedArtwork, x_px: float, y_px: float) -> tuple[float, float]:
    """A place of the picture as it came in design mm."""
    left, top, _, _ = artwork.outline.box_px
    scale = mm_per_px(design, artwork)
    x, y = artwork.shown_at(x_px, y_px)
    return (x - left) * scale, (y - top) * scale
