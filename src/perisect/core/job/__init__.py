"""A job: its recipe and everything that follows from it."""

from perisect.core.job.plan import JobPlan, plan_job
from perisect.core.job.recipe import DesignRecipe, JobRecipe, SheetRecipe
from perisect.core.job.remedy import RemedyError, apply_remedy
from perisect.core.job.split import split_design
from perisect.core.job.traced import TracedArtwork, trace_artwork

__all__ = [
    "DesignRecipe",
    "JobPlan",
    "JobRecipe",
    "RemedyError",
    "SheetRecipe",
    "TracedArtwork",
    "apply_remedy",
    "plan_job",
    "split_design",
    "trace_artwork",
]
