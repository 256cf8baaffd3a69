"""The application: API and, where it was built, the front end."""

from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles

from perisect import __version__
from perisect.api import artwork, jobs, labels, lines, setups, sheets, shop, sizes, stocks, things, tickets
from perisect.api.problems import Problem, add_problem_handlers
from perisect.store.settings import settings


def create_app() -> FastAPI:
    """The whole application; one a process."""
    app = FastAPI(
        title="Perisect", version=__version__, generate_unique_id_function=lambda route: _name(route)
    )
    add_problem_handlers(app)
    for station in (artwork, jobs, labels, lines, sheets, shop, stocks, sizes, setups, things, tickets):
        app.include_router(station.router)

    @app.get("/api/health")
    def health() -> dict[str, str]:
        """Whether the server answers."""
        return {"status": "up", "version": __version__}

    _serve_front_end(app, Path(settings().web))
    return app


def _name(route: APIRoute) -> str:
    return route.name


def _serve_front_end(app: FastAPI, built: Path) -> None:
    """Files of the built front end; every other path opens its page, which reads the path itself."""

    @app.get("/api/{path:path}", include_in_schema=False)
    def nothing_here(path: str) -> None:
        raise Problem(404, "There is nothing at this address.", "Check the address.")

    if not (built / "index.html").exists():
        return
    app.mount("/assets", StaticFiles(directory=built / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        file = (built / path).resolve()
        inside = file.is_file() and file.is_relative_to(built.resolve())
        return FileResponse(file if inside else built / "index.html", headers={"Cache-Control": "no-cache"})
