"""Every refusal as an RFC 9457 problem: what happened, what to do."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DataError, OperationalError
from starlette.exceptions import HTTPException

from perisect.api.views import RecipeConflict, recipe_conflict
from perisect.core.artwork import ArtworkError
from perisect.core.job import RemedyError
from perisect.core.lines import LineError
from perisect.core.sheet.labels import TableError
from perisect.store.artwork import UnknownArtwork
from perisect.store.jobs import NothingToWalk, StaleRevision, UnknownJob
from perisect.store.tables import UnknownTable
from perisect.tasks.isolated import Cancelled


class Problem(Exception):
    """A refusal with its status, title and what to do."""

    def __init__(self, status: int, title: str, detail: str) -> None:
        super().__init__(title)
        self.status = status
        self.title = title
        self.detail = detail


def _answer(status: int, title: str, detail: str, **more: object) -> JSONResponse:
    body = {"type": "about:blank", "status": status, "title": title, "detail": detail, **more}
    return JSONResponse(body, status, media_type="application/problem+json")


def add_problem_handlers(app: FastAPI) -> None:
    """Turn the exceptions of every floor into problems."""

    @app.exception_handler(Problem)
    def problem(_: Request, error: Problem) -> JSONResponse:
        return _answer(error.status, error.title, error.detail)

    @app.exception_handler(ArtworkError)
    def artwork(_: Request, error: ArtworkError) -> JSONResponse:
        return _answer(422, error.title, error.detail)

    @app.exception_handler(LineError)
    def lines(_: Request, error: LineError) -> JSONResponse:
        return _answer(422, error.title, error.detail)

    @app.exception_handler(Cancelled)
    def cancelled(_: Request, error: Cancelled) -> JSONResponse:
        return _answer(409, "You cancelled this.", "Nothing was changed.")

    @app.exception_handler(UnknownArtwork)
    def unknown_artwork(_: Request, error: UnknownArtwork) -> JSONResponse:
        return _answer(404, "This picture is not here.", "Drop it again.")

    @app.exception_handler(TableError)
    def table(_: Request, error: TableError) -> JSONResponse:
        return _answer(422, "This list cannot be used.", str(error))

    @app.exception_handler(UnknownTable)
    def unknown_table(_: Request, error: UnknownTable) -> JSONResponse:
        return _answer(404, "This list is not here.", "Drop it again.")

    @app.exception_handler(UnknownJob)
    def unknown_job(_: Request, error: UnknownJob) -> JSONResponse:
        return _answer(404, f"There is no job {error.args[0]}.", "Choose one from the list of jobs.")

    @app.exception_handler(StaleRevision)
    def stale(_: Request, error: StaleRevision) -> JSONResponse:
        conflict: RecipeConflict = recipe_conflict(error)
        return _answer(
            409,
            "This job was changed elsewhere meanwhile.",
            "Look at both versions and choose which one to go on with.",
            current=conflict.model_dump(mode="json"),
        )

    @app.exception_handler(NothingToWalk)
    def nothing(_: Request, error: NothingToWalk) -> JSONResponse:
        return _answer(409, f"There is nothing to {error.args[0]}.", "Go on from here.")

    @app.exception_handler(RemedyError)
    def remedy(_: Request, error: RemedyError) -> JSONResponse:
        return _answer(422, "This remedy no longer applies.", f"The job has changed: {error}.")

    @app.exception_handler(OperationalError)
    def database(_: Request, error: OperationalError) -> JSONResponse:
        return _answer(503, "The database does not answer.", "Nothing was lost. Try again in a moment.")

    @app.exception_handler(DataError)
    def out_of_range(_: Request, error: DataError) -> JSONResponse:
        return _answer(404, "There is nothing of this number.", "Numbers here have at most nine digits.")

    @app.exception_handler(RequestValidationError)
    def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part != "body")
        return _answer(422, "A value cannot be used.", f"{where}: {first['msg']}." if where else first["msg"])

    @app.exception_handler(HTTPException)
    def http(_: Request, error: HTTPException) -> JSONResponse:
        return _answer(error.status_code, str(error.detail), "Check the address.")
