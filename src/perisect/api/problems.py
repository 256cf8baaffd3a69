"""Every refusal as an RFC 9457 problem: what happened, what to do."""

from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DataError, InterfaceError, OperationalError, TimeoutError
from starlette.exceptions import HTTPException

from perisect import sandbox
from perisect.core.artwork import ArtworkError
from perisect.core.job import RemedyError
from perisect.core.job.recipe import MAX_DESIGNS
from perisect.core.lines import LineError
from perisect.core.sheet.labels import TableError
from perisect.devices.errors import BadAddress, DeviceError
from perisect.services.cut_requests import NotCutOnly, NothingToCut, NotPrinted, PlotterBusy
from perisect.services.operations import TooManyPieces, problem_of
from perisect.services.picture_slip import NothingCut
from perisect.services.printing import CutOnly, NoSuchSheet
from perisect.store.artwork import UnknownArtwork
from perisect.store.blobs import DiskFull
from perisect.store.equipment import UnknownEquipment
from perisect.store.jobs import NothingToWalk, StaleRevision, UnknownJob
from perisect.store.operations import TooManyWait
from perisect.store.prints import UnknownPrint
from perisect.store.runs import UnknownRun
from perisect.store.scraps import ScrapGone
from perisect.store.sign_ins import TooManyTries
from perisect.store.tables import UnknownTable
from perisect.store.versions import StaleRecord

log = structlog.get_logger()

BUSY_S = 20


class Problem(Exception):
    """A refusal with its status, title and what to do; `again_s` is when to come back."""

    def __init__(self, status: int, title: str, detail: str, again_s: int | None = None) -> None:
        super().__init__(title)
        self.status, self.title, self.detail, self.again_s = status, title, detail, again_s


def answer(status: int, title: str, detail: str, again_s: int | None = None, **more: object) -> JSONResponse:
    """A problem as it is sent."""
    body = {"type": "about:blank", "status": status, "title": title, "detail": detail, **more}
    headers = None if again_s is None else {"Retry-After": str(again_s)}
    return JSONResponse(body, status, headers, media_type="application/problem+json")


def _answer_to(error: Exception) -> JSONResponse | None:
    """What is told of an exception of the floors below; None for one that nobody expected."""
    match error:
        case Problem():
            return answer(error.status, error.title, error.detail, error.again_s)
        case TableError():
            return answer(422, "This list cannot be used.", str(error))
        case UnknownTable():
            return answer(404, "This list is not here.", "Drop it again.")
        case UnknownJob():
            return answer(404, f"There is no job {error.args[0]}.", "Choose one from the list of jobs.")
        case UnknownEquipment():
            return answer(404, f"The shop has no such {error.kind}.", "Choose one that it has.")
        case UnknownPrint():
            return answer(404, "There is no such print.", "Print the sheet again.")
        case ScrapGone():
            return answer(
                409, "This scrap cannot be used.", f"{error} Take another one, or a new sheet at Sheet."
            )
        case NothingToCut():
            return answer(
                409,
                "There is nothing to cut on this sheet.",
                "All of it is printed only: choose a line at Cut lines.",
            )
        case UnknownRun():
            return answer(404, f"There is no run {error.run_id}.", "Open the job's log.")
        case NothingCut():
            return answer(409, "There is nothing to measure of this cut.", "Measure a sheet that was cut.")
        case CutOnly():
            return answer(
                409, "This job is not printed.", "It is only cut: go to Cut, or change that at Sheet."
            )
        case NotCutOnly():
            return answer(409, "This job is printed before it is cut.", "Print the sheet first.")
        case NotPrinted():
            return answer(409, "This sheet is not printed.", "Print it first.")
        case PlotterBusy():
            whose = "another cut" if error.job_id is None else f"job {error.job_id}"
            return answer(
                409,
                f"The plotter is busy with {whose}.",
                "Wait until it is done, unload its sheet, or cancel that cut.",
            )
        case NoSuchSheet():
            return answer(404, f"This job has no sheet {error.number}.", f"It has {error.there}.")
        case TooManyPieces():
            return answer(
                409,
                f"This job has {error.there} pieces, those that are being read among them.",
                f"{MAX_DESIGNS} are the most. Drop this picture on another job.",
            )
        case StaleRecord():
            return answer(
                409,
                "Somebody else changed this.",
                "Look at both versions and choose one.",
                changed={"version": error.version, "value": error.current},
            )
        case NothingToWalk():
            return answer(409, f"There is nothing to {error.args[0]}.", "Go on from here.")
        case DeviceError():
            return answer(409, "The device cannot be used.", str(error))
        case BadAddress():
            return answer(422, "This address cannot be used.", str(error))
        case TooManyWait():
            return answer(429, "Too much is waiting already.", f"Try again in {BUSY_S} s.", BUSY_S)
        case TooManyTries():
            told = f"Try again in {error.seconds} s."
            return answer(429, "Too many wrong passphrases.", told, error.seconds)
        case sandbox.Cancelled():
            return answer(409, "You cancelled this.", "Nothing was changed.")
        case sandbox.TooBusy():
            found = problem_of(error)
            return answer(429, found["title"], found["detail"], error.seconds)
        case ArtworkError() | LineError() | RemedyError() | StaleRevision() | UnknownArtwork() | DiskFull():
            return answer(**problem_of(error))
        case OperationalError() | InterfaceError() | TimeoutError():
            return answer(503, "The database does not answer.", "Nothing was lost. Try again in a moment.", 3)
        case DataError():
            return answer(404, "There is nothing of this number.", "Numbers here have at most nine digits.")
    return None


EXPECTED: tuple[type[Exception], ...] = (
    Problem,
    TableError,
    UnknownTable,
    UnknownJob,
    UnknownEquipment,
    UnknownPrint,
    UnknownRun,
    NothingCut,
    ScrapGone,
    NothingToCut,
    CutOnly,
    NotCutOnly,
    NotPrinted,
    PlotterBusy,
    NoSuchSheet,
    NothingToWalk,
    DeviceError,
    BadAddress,
    TooManyWait,
    TooManyTries,
    sandbox.Cancelled,
    sandbox.TooBusy,
    ArtworkError,
    LineError,
    RemedyError,
    StaleRevision,
    StaleRecord,
    TooManyPieces,
    UnknownArtwork,
    DiskFull,
    OperationalError,
    InterfaceError,
    TimeoutError,
    DataError,
)


def add_problem_handlers(app: FastAPI) -> None:
    """Turn the exceptions of every floor into problems."""

    def expected(_: Request, error: Exception) -> JSONResponse:
        found = _answer_to(error)
        assert found is not None
        return found

    for kind in EXPECTED:
        app.add_exception_handler(kind, expected)

    @app.exception_handler(RequestValidationError)
    def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first: dict[str, Any] = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part != "body")
        found = f"{where}: {first['msg']}." if where else str(first["msg"])
        return answer(422, "A value cannot be used.", found[:400])

    @app.exception_handler(HTTPException)
    def http(_: Request, error: HTTPException) -> JSONResponse:
        return answer(error.status_code, str(error.detail), "Check the address.")

    @app.exception_handler(Exception)
    def fault(request: Request, error: Exception) -> JSONResponse:
        log.exception("fault", path=request.url.path, exc_info=error)
        return answer(500, "Perisect made a mistake.", "Nothing was changed. The log says what went wrong.")
