"""Long work on the queue: asked for once a question, followed and cancelled through the database.

A kind of operation is one function in `KINDS`: it takes the request and gives the result, and whatever it reads in
the sandbox reports through the operation's row.
"""

import hashlib
from collections.abc import Callable, Sequence
from typing import Any

import structlog
from sqlalchemy.orm import Session

from perisect import sandbox
from perisect.core.artwork import ArtworkError
from perisect.core.job import DesignRecipe, JobRecipe, RemedyError
from perisect.core.job.new_piece import with_picture
from perisect.core.job.recipe import MAX_DESIGNS
from perisect.core.lines import LineError
from perisect.services import nests as nest_service
from perisect.services import shop
from perisect.services.changes import save
from perisect.services.day import make_day
from perisect.services.device_task import DeviceTask, Ending
from perisect.services.heartbeat import Heartbeat
from perisect.services.pictures import read_in
from perisect.store import jobs, operations
from perisect.store.artwork import UnknownArtwork
from perisect.store.blobs import DiskFull
from perisect.store.database import transaction
from perisect.store.jobs import StaleRevision, UnknownJob
from perisect.store.models import Operation

log = structlog.get_logger()

Request = dict[str, Any]
Result = dict[str, Any]


def key_of(kind: str, *parts: str) -> str:
    """Name of a question."""
    return f"{kind} {hashlib.sha256(' '.join(parts).encode()).hexdigest()}"


def ask(kind: str, key: str, request: Request, job_id: int | None = None) -> Operation:
    """The open operation of a question.

    Raises:
        TooManyWait: too many wait already.
    """
    with transaction() as session:
        if job_id is not None:
            jobs.get(session, job_id)
        return operations.ask(session, kind, key, request, job_id)


def ask_for_nest(recipe: JobRecipe, job_id: int | None = None, in_full: bool = False) -> Operation:
    """Have a recipe's nest searched, for a job that hears of it.

    Args:
        recipe: the job whose nest it is.
        job_id: the job that hears of it.
        in_full: True to search again where the nest that is known was cut short.

    Raises:
        UnknownJob: no such job.
        TooManyWait: too many wait already.
    """
    request = {"recipe": recipe.model_dump(mode="json"), "in_full": in_full}
    return ask("nest", key_of("nest", jobs.hash_of(recipe), "in full" if in_full else ""), request, job_id)


def ask_for_nested_size(recipe: JobRecipe, design: str, up: int, job_id: int | None = None) -> Operation:
    """Have it found out how large a design can be so that so many are nested on a sheet."""
    request = {"recipe": recipe.model_dump(mode="json"), "design": design, "up": up}
    key = key_of("nested_size", jobs.hash_of(recipe), design, str(up))
    return ask("nested_size", key, request, job_id)


def ask_for_change(job_id: int, revision: int | None, change: Request, label: str) -> Operation:
    """Have a change of a job made that needs pictures read first.

    Args:
        change: one of `recipe`, `remedy` with `design`, `merge` with its value.
    """
    request = {"job": job_id, "revision": revision, "label": label, **change}
    return ask(
        "change", key_of("change", str(job_id), str(revision), repr(sorted(change.items()))), request, job_id
    )


class TooManyPieces(Exception):
    """A job has as many pieces as it may, those that are being read among them; the attribute is how many."""

    def __init__(self, there: int) -> None:
        super().__init__(there)
        self.there = there


def check_room(job_id: int) -> None:
    """Refuse a picture that a job has no room for, before anything of it is kept.

    Raises:
        UnknownJob: no such job.
        TooManyPieces: it has none.
    """
    with transaction() as session:
        job = jobs.get(session, job_id)
        there = job.designs + operations.count_open(session, job_id, "picture")
        if there >= MAX_DESIGNS:
            raise TooManyPieces(there)


def ask_for_picture(job_id: int, sha256: str, file_name: str, batch: str, position: int) -> Operation:
    """Have a picture read that was sent, and a piece of the job made of it."""
    request = {"job": job_id, "artwork": sha256, "name": file_name, "batch": batch, "position": position}
    return ask("picture", key_of("picture", str(job_id), batch, str(position), sha256), request, job_id)


def ask_for_day(key: str) -> Operation:
    """Have the day planned, as the work that is named so stands."""
    return ask("day", key_of("day", key), {})


def _nest(request: Request) -> Result:
    planned = nest_service.nested_plan(
        JobRecipe.model_validate(request["recipe"]), bool(request.get("in_full"))
    )
    return {"count": planned.plan.sheets.count, "sheets": len(planned.plan.sheets.sheets)}


def _nested_size(request: Request) -> Result:
    recipe = JobRecipe.model_validate(request["recipe"])
    found = nest_service.largest_nested(recipe, request["design"], request["up"])
    if found is None:
        return {"largest_mm": None, "sheet": None}
    return {"largest_mm": found[0], "sheet": found[1].sheet.model_dump(mode="json")}


def _change(request: Request) -> Result:
    number = int(request["operation"])
    with transaction() as session:
        if (result := operations.result(session, number)) is not None:
            # A worker before this one changed the job and died before it could say so.
            return result

    def told(session: Session, revision: int) -> None:
        operations.set_result(session, number, {"revision": revision})

    return {"revision": save(request["job"], request["revision"], request, request["label"], told=told)}


def _picture(request: Request) -> Result:
    """A piece made of a picture that was sent; pictures of one drop are one step, in the order of their files."""
    name, batch = str(request["name"]), str(request["batch"])
    read = read_in(request["artwork"])
    die_mm = max(read.own_mm) if read.is_die and read.own_mm is not None else None
    made: list[str] = []
    with transaction() as session:
        rows = operations.of_batch(session, request["job"], batch)
        mine = next(row for row in rows if row.id == request["operation"])
        if mine.result is not None:
            # A worker before this one made the piece and died before it could say so.
            return mine.result
        habit = shop.get_habit(session) or "sheet"
        there = {row.result["design"]: int(row.request["position"]) for row in rows if row.result}

        before: list[DesignRecipe] = []

        def with_it(now: JobRecipe) -> JobRecipe:
            before[:] = now.designs
            later = (each.id for each in now.designs if there.get(each.id, -1) > request["position"])
            new, design_id = with_picture(now, request["artwork"], name, next(later, None), habit, die_mm)
            made.append(design_id)
            return new

        label = f"Add {len(there) + 1} pictures" if there else f"Add {name}"
        job = jobs.append(session, request["job"], with_it, label[:160], batch)
        # A job that nobody has named is called as the pictures of its first drop are, whichever of them was read first.
        only_these = all(design.id in there for design in before)
        if job.title == jobs.UNNAMED or (before and only_these and job.title == _title(before)):
            job.title = _title(jobs.recipe(session, job).designs)
        mine.result = {"design": made[-1]}
    return {"design": made[-1]}


def _title(designs: Sequence[DesignRecipe]) -> str:
    """As `titleFor` calls a job that begins with files."""
    more = f" and {len(designs) - 1} more" if len(designs) > 1 else ""
    return designs[0].name[:100] + more


def _day(_: Request) -> Result:
    return make_day()


KINDS: dict[str, Callable[[Request], Result]] = {
    "nest": _nest,
    "nested_size": _nested_size,
    "change": _change,
    "picture": _picture,
    "day": _day,
}


def problem_of(error: Exception) -> dict[str, Any]:
    """Status, title and detail of what went wrong, as the API would tell it."""
    match error:
        case ArtworkError() | LineError():
            return {"status": 422, "title": error.title, "detail": error.detail}
        case RemedyError():
            return {
                "status": 422,
                "title": "This no longer applies.",
                "detail": f"The job has changed: {error}.",
            }
        case StaleRevision():
            return {
                "status": 409,
                "title": "This job was changed in another window.",
                "detail": "Look at both versions and choose one to continue with.",
                "current": {
                    "revision": error.revision,
                    "step": error.step,
                    "recipe": error.recipe.model_dump(mode="json"),
                    "aside": error.aside,
                },
            }
        case UnknownArtwork():
            return {"status": 404, "title": "This picture is not here.", "detail": "Drop it again."}
        case UnknownJob():
            return {"status": 404, "title": "The job no longer exists.", "detail": "Choose another one."}
        case DiskFull():
            return {"status": 507, "title": "The disk is full.", "detail": "Free some space, then try again."}
        case sandbox.TooBusy():
            return {
                "status": 429,
                "title": "Too many pictures are waiting to be read.",
                "detail": f"Try again in {error.seconds} s.",
            }
        case _:
            return {
                "status": 500,
                "title": "Perisect made a mistake.",
                "detail": "Nothing was changed. The log says what went wrong.",
            }


class OperationTask(DeviceTask):
    """A question that is worked out in the sandbox."""

    name = "operation"
    operation: Operation

    def begin(self, session: Session) -> bool:
        row = operations.claim(session, self.row_id, self.claim)
        if row is None:
            return False
        session.expunge(row)
        self.operation = row
        return True

    def say(self, values: dict[str, Any]) -> str | None:
        with transaction() as session:
            return operations.progress(session, self.row_id, self.claim, values.get("stage"))

    def work(self, beat: Heartbeat) -> Ending:
        watch = sandbox.Watch(
            report=lambda stage: beat.tell(stage=stage),
            cancelled=lambda: beat.asked is None or beat.asked == "drop",
            enough=lambda: beat.asked == "best",
            owner=f"job {self.operation.job_id}",
        )
        with sandbox.watched(watch):
            request = {**self.operation.request, "operation": self.row_id}
            return Ending("done", {"result": KINDS[self.operation.kind](request)})

    def failed(self, error: Exception) -> Ending:
        if isinstance(error, sandbox.Cancelled):
            return Ending("cancelled")
        problem = problem_of(error)
        if problem["status"] == 500:
            log.exception("operation failed", operation_id=self.row_id, kind=self.operation.kind)
        return Ending("failed", {"problem": problem})

    def end(self, session: Session, ending: Ending) -> None:
        values = {name: value for name, value in ending.values.items() if name != "stage"}
        operations.end(session, self.row_id, self.claim, ending.state, **values)


def perform(operation_id: int) -> None:
    """Do an operation that is queued, and write how it ended.

    Raises:
        TryLater: the database is away.
    """
    OperationTask(operation_id).perform()
