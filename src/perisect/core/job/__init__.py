"""A job: its recipe and everything that follows from it."""

from perisect.core.job.plan import JobPlan, plan_job
from perisect.core.job.recipe import DesignRecipe, JobRecipe, RightsRecipe
from perisect.core.job.remedy import RemedyError, apply_remedy
from perisect.core.job.split import merge_designs, split_design
from perisect.core.job.traced import TracedArtwork, see, trace_artwork
from perisect.core.sheet.recipe import SheetRecipe

__all__ = [
    "DesignRecipe",
    "JobPlan",
    "JobRecipe",
    "RemedyError",
    "RightsRecipe",
    "SheetRecipe",
    "TracedArtwork",
    "apply_remedy",
    "merge_designs",
    "plan_job",
    "see",
    "split_design",
    "trace_artwork",
]
