"""What the log says: how a plotter is off, and which border is safe."""

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from perisect.api.problems import Problem
from perisect.core.cutting.trueing import Trueing
from perisect.core.job import JobRecipe
from perisect.core.job.recipe import DesignId
from perisect.core.ledger.calibration import LEAST_SHEETS
from perisect.services.learned import (
    Learned,
    NothingReal,
    advised_border,
    learned_of,
    leave_plotter,
    true_plotter,
)
from perisect.store import jobs
from perisect.store.database import transaction

router = APIRouter(tags=["log"])

ComponentName = Literal["shift_x", "shift_y", "turn", "scale_x", "scale_y", "skew"]


class ComponentView(BaseModel):
    """One part of a plotter's error: its size and standard error (mm, rad or share), by how much it moves the sticker
    that it moves most, the chance of seeing so much where there is none, and whether it is real."""

    name: ComponentName
    value: float
    error: float
    largest_mm: float
    p: float
    is_real: bool


class CalibrationView(BaseModel):
    """What the sheets that a plotter cut say of it."""

    plotter: str
    sheets: int
    least_sheets: int
    """So many are needed before anything is said."""
    stickers: int
    loose: int
    """Stickers that came loose, and say nothing of the plotter."""
    components: list[ComponentView]
    within_mm: float | None
    between_mm: float | None
    is_scattered: bool
    is_uneven: bool
    mean_slip_mm: float | None
    trueing: Trueing
    """What is taken out of its cuts now."""
    proposed: Trueing | None
    """What the log would have taken out; None where nothing is real."""


class SafeBorderView(BaseModel):
    """The least border that keeps 95 % of stickers whole, 95 % sure, of which sheets, and the share that would be lost
    at each piece's own border."""

    border_mm: float
    sheets: int
    stickers: int
    group: Literal["here", "plotter", "shop"]
    lost: dict[DesignId, float]


@router.get("/api/shop/plotters/{plotter}/calibration")
def get_calibration(plotter: str) -> CalibrationView:
    """What the log says of a plotter."""
    return _view(learned_of(plotter))


@router.post("/api/shop/plotters/{plotter}/trueing")
def post_trueing(plotter: str) -> CalibrationView:
    """Take what is real of its error out of every cut from now on."""
    try:
        return _view(true_plotter(plotter))
    except NothingReal as error:
        raise Problem(
            409, "The log shows no systematic error.", "Cut more sheets, and look at its scatter."
        ) from error


@router.delete("/api/shop/plotters/{plotter}/trueing")
def delete_trueing(plotter: str) -> CalibrationView:
    """Cut as the plotter does by itself."""
    return _view(leave_plotter(plotter))


@router.get("/api/jobs/{job_id}/safe-border")
def get_safe_border(job_id: int) -> SafeBorderView | None:
    """The least border that is safe by what was measured; nothing where too little was."""
    with transaction() as session:
        recipe = JobRecipe.model_validate(jobs.step(session, jobs.get(session, job_id)).recipe)
        found = advised_border(session, recipe.sheet.cut_by.id, recipe.sheet.on.id)
    if found is None:
        return None
    lost = {design.id: found.border.lost_at(design.border_mm) for design in recipe.designs}
    return SafeBorderView(
        border_mm=found.border.border_mm,
        sheets=found.border.sheets,
        stickers=found.border.stickers,
        group=found.group,  # type: ignore[arg-type]
        lost=lost,
    )


def _view(known: Learned) -> CalibrationView:
    found = known.calibration
    return CalibrationView(
        plotter=known.name,
        sheets=known.sheets,
        least_sheets=LEAST_SHEETS,
        stickers=0 if found is None else found.stickers,
        loose=0 if found is None else found.loose,
        components=[]
        if found is None
        else [ComponentView.model_validate(each, from_attributes=True) for each in found.components],
        within_mm=None if found is None else found.within_mm,
        between_mm=None if found is None else found.between_mm,
        is_scattered=found is not None and found.is_scattered,
        is_uneven=found is not None and found.is_uneven,
        mean_slip_mm=None if found is None else found.mean_slip_mm,
        trueing=known.trueing,
        proposed=found.trueing if found is not None and found.real else None,
    )
