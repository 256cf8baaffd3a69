"""Test cuts: what a process is cut with in a job's stock, ladders, answers, and what they say."""

from typing import Annotated, Any, Literal

import numpy as np
from fastapi import APIRouter, Path, Response
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from perisect.api.print import PrintNumber, picture
from perisect.api.problems import Problem
from perisect.core.cutting.belief import Answer, NoLiner
from perisect.core.cutting.book import Source
from perisect.core.cutting.setting import CutSetting
from perisect.core.process import TABLE
from perisect.core.sheet.force import ForceScale
from perisect.services import ladders as service
from perisect.services.cut_requests import NotPrinted
from perisect.services.devices import plotter_at
from perisect.services.ladder_place import NoRoom, as_laid, labels_of, ladder_subject, shown_box
from perisect.services.ladders import NoSuchTest, NotNow
from perisect.store import book, ladders
from perisect.store.book import BookFull
from perisect.store.database import transaction
from perisect.store.ladders import UnderWay
from perisect.store.upkeep_models import LadderRow

router = APIRouter(tags=["cut"])
CURVE_POINTS = 61
STATES = {
    "queued": "Wait until the ladder is cut.",
    "cutting": "Wait until the ladder is cut.",
    "cut": "First enter how the steps peeled.",
    "answered": "It has its answers already.",
    "failed": "Cut the ladder again.",
    "finished": "More ladders would tell nothing new. Check blade, depth and mat, then begin a new test.",
}


class KnownView(BaseModel):
    """What a process is going to be cut with, where that comes from, and how probable it is that it cuts clean."""

    process: str
    pen: int
    setting: CutSetting
    source: Source
    sure: float | None
    why: str
    is_own: bool
    test: int | None
    """The last test cut of it."""
    version: str
    """Of the book's own entry for it, `none` where there is none."""


class SettingsView(BaseModel):
    """What each process is cut with in a job's stock at its plotter, under film or not; their ids, by which the book
    keeps them."""

    stock: str
    stock_id: str
    plotter: str
    plotter_id: str
    blade: str
    laminated: bool
    force: ForceScale
    settings: list[KnownView]


class LadderView(BaseModel):
    """A ladder: its forces, and an answer for each once they are given; the size of its picture, mm, and where on it
    each force is written."""

    forces: list[float]
    answers: list[Answer]
    picture_mm: tuple[float, float]
    labels: list[tuple[float, float]]


class ProposalView(BaseModel):
    """The force proposed, how probable it is that it cuts clean, the window, and the probabilities of too little,
    clean and too much along the plotter's forces."""

    force: float
    probability_clean: float
    window: tuple[float, float]
    is_sure: bool
    forces: list[float]
    too_little: list[float]
    clean: list[float]
    too_much: list[float]
    trouble: str | None


class LadderCutView(BaseModel):
    """A test cut as it stands."""

    id: int
    process: str
    plotter: str
    stock: str
    laminated: bool
    on_sheet: bool
    """Whether it is cut on the spare area of a printed sheet."""
    state: Literal["queued", "cutting", "cut", "answered", "failed"]
    message: str | None
    unit: Literal["gf", "steps"]
    ladders: list[LadderView]
    has_picture: bool
    proposal: ProposalView | None


class LadderOrder(BaseModel):
    """Which process is tested, for which print, and whether on that print's own spare area."""

    process: Annotated[str, Field(max_length=24)]
    print_id: Annotated[int, Field(ge=1, le=2**31 - 1)] | None = None
    on_sheet: bool = False


class Answers(BaseModel):
    """How the steps of the last ladder came off, in the order of their forces."""

    answers: Annotated[list[Answer], Field(min_length=1, max_length=40)]


LadderId = Annotated[int, Path(ge=1, le=2**31 - 1)]


@router.get("/api/jobs/{job_id}/settings")
def get_settings(job_id: int, of: PrintNumber = None) -> SettingsView:
    """What the processes of a job are cut with, or of one of its prints."""
    on = ladder_subject(job_id, of)
    sheet, laminated = on.sheet, on.laminated
    plotter = plotter_at(sheet.cut_by.id).record
    with transaction() as session:
        found = book.known_of(session, sheet, plotter, laminated)
        tests = {
            process: ladders.latest(session, plotter.id, sheet.on.id, process, laminated) for process in found
        }
        return SettingsView(
            stock=sheet.on.name,
            stock_id=sheet.on.id,
            plotter=plotter.title,
            plotter_id=plotter.id,
            blade=plotter.blade,
            laminated=laminated,
            force=plotter.force,
            settings=[
                KnownView(
                    process=process,
                    pen=TABLE[process].pen,
                    setting=each.setting,
                    source=each.source,
                    sure=each.sure,
                    why=each.why,
                    is_own=each.is_own,
                    test=test.id if (test := tests[process]) is not None else None,
                    version=book.version_of_key(session, book.key_of(sheet, plotter, process, laminated)),
                )
                for process, each in found.items()
            ],
        )


@router.post("/api/jobs/{job_id}/test-cuts", status_code=202)
def post_test_cut(job_id: int, order: LadderOrder) -> LadderCutView:
    """Cut a ladder of a process on a scrap of the job's stock, or on the spare area of a print."""
    if order.process not in TABLE:
        raise Problem(404, "There is no such kind of line.", f"There are {', '.join(TABLE)}.")
    try:
        return get_test_cut(service.begin(job_id, order.process, order.print_id, order.on_sheet))
    except NoLiner as error:
        raise Problem(
            422, "This stock has no liner for such a cut to stop on.", "Test the through cut instead."
        ) from error
    except UnderWay as error:
        raise _busy() from error
    except (NoRoom, NotPrinted) as error:
        raise _no_room() from error


@router.get("/api/test-cuts/{test}")
def get_test_cut(test: LadderId) -> LadderCutView:
    """How a test cut stands, and what its answers say."""
    with transaction() as session:
        row = session.get(LadderRow, test)
        if row is None:
            raise _unknown()
        session.expunge(row)
    answered = any(ladder["answers"] for ladder in row.ladders)
    judged = service.judge(row) if answered else None
    scale = judged.scale if judged else plotter_at(row.plotter).record.force
    return LadderCutView(
        id=row.id,
        process=row.process,
        plotter=row.plotter,
        stock=row.stock["name"],
        laminated=row.laminated,
        on_sheet=row.print_id is not None,
        state=row.state,  # type: ignore[arg-type]
        message=row.message,
        unit=scale.unit,
        ladders=[_ladder(as_laid(ladder)) for ladder in row.ladders],
        has_picture=row.picture is not None,
        proposal=_proposal(judged) if judged else None,
    )


@router.put("/api/test-cuts/{test}/answers")
def put_answers(test: LadderId, told: Answers) -> LadderCutView:
    """Say how the steps of the last ladder came off."""
    try:
        service.answer(test, told.answers)
    except NoSuchTest as error:
        raise _unknown() from error
    except NotNow as error:
        raise _not_now(error) from error
    except ValueError as error:
        raise Problem(422, "Every step of the ladder has one answer.", f"{error}.".capitalize()) from error
    return get_test_cut(test)


@router.post("/api/test-cuts/{test}/ladders", status_code=202)
def post_ladder(test: LadderId) -> LadderCutView:
    """Cut a further ladder, where the answers so far leave most open; or the last one again when it failed."""
    try:
        service.another(test)
    except NoSuchTest as error:
        raise _unknown() from error
    except NotNow as error:
        raise _not_now(error) from error
    except UnderWay as error:
        raise _busy() from error
    except (NoRoom, NotPrinted) as error:
        raise _no_room() from error
    return get_test_cut(test)


@router.post("/api/test-cuts/{test}/take")
def post_take(test: LadderId) -> LadderCutView:
    """Put the setting proposed into the book."""
    try:
        service.take(test)
    except NoSuchTest as error:
        raise _unknown() from error
    except NotNow as error:
        raise _not_now(error) from error
    except BookFull as error:
        raise Problem(
            409, "The settings book is full.", "Remove entries that are no longer used, in the shop."
        ) from error
    return get_test_cut(test)


@router.get("/api/test-cuts/{test}/ladder.png", response_class=Response)
def get_ladder_picture(test: LadderId) -> Response:
    """The last ladder as it lies there."""
    with transaction() as session:
        row = session.get(LadderRow, test)
        if row is None:
            raise _unknown()
        name = row.picture
    return picture(name)


def _ladder(ladder: dict[str, Any]) -> LadderView:
    left, top, right, bottom = shown_box(ladder)
    return LadderView(
        forces=ladder["forces"],
        answers=ladder["answers"],
        picture_mm=(right - left, bottom - top),
        labels=labels_of(ladder),
    )


def _proposal(judged: service.Judged) -> ProposalView:
    scale, proposal = judged.scale, judged.proposal
    low, high = judged.belief.window(0.5)
    across = np.linspace(max(scale.least, low / 2.2), min(scale.most, high * 1.8), CURVE_POINTS)
    answers = judged.belief.answers_at(across)

    def rounded(values: NDArray[np.float64]) -> list[float]:
        return [round(float(value), 4) for value in values]

    return ProposalView(
        force=proposal.force,
        probability_clean=proposal.probability_clean,
        window=judged.belief.window(),
        is_sure=proposal.is_sure,
        forces=rounded(across),
        too_little=rounded(answers[:, :2].sum(axis=1)),
        clean=rounded(answers[:, 2]),
        too_much=rounded(answers[:, 3:].sum(axis=1)),
        trouble=judged.trouble,
    )


def _unknown() -> Problem:
    return Problem(404, "There is no such test cut.", "Begin one at the Cut station.")


def _not_now(error: NotNow) -> Problem:
    return Problem(409, "This cannot be done with the test cut now.", STATES[error.state])


def _no_room() -> Problem:
    return Problem(
        409,
        "This sheet has no room left for a ladder between its stickers and marks.",
        "Cut the ladder on a scrap of the same stock.",
    )


def _busy() -> Problem:
    return Problem(409, "A ladder is being cut at this plotter.", "Answer that one first.")
