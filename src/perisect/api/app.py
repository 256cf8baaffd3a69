"""The application: API and, where it was built, the front end."""

import asyncio
import json
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, Response
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles

from perisect import __version__
from perisect.api import (
    artwork,
    backups,
    book,
    composing,
    costs,
    cut,
    day,
    equipment,
    events,
    figures,
    film,
    head,
    health,
    job_list,
    jobs,
    labels,
    ladders,
    learned,
    lines,
    operations,
    orders,
    print,
    processes,
    scale,
    scraps,
    set_up,
    setups,
    sheets,
    shelf,
    sign_in,
    sizes,
    stockroom,
    tones,
    vernier,
)
from perisect.api.hub import hub
from perisect.api.limits import Lines
from perisect.api.problems import Problem, add_problem_handlers
from perisect.api.security import Door
from perisect.store.settings import settings

ROOMS = (
    composing,
    artwork,
    lines,
    sheets,
    print,
    cut,
    ladders,
    book,
    job_list,
    jobs,
    shelf,
    orders,
    stockroom,
    costs,
    figures,
    film,
    day,
    operations,
    events,
    equipment,
    backups,
    tones,
    sizes,
    scale,
    scraps,
    set_up,
    head,
    setups,
    learned,
    vernier,
    labels,
    processes,
    sign_in,
    health,
)


@asynccontextmanager
async def _life(app: FastAPI) -> AsyncIterator[None]:
    assert isinstance(app, Application)
    async with hub.listening():
        # Before anybody asks: it takes a processor for two seconds.
        warming = asyncio.create_task(app.document())
        yield
        warming.cancel()


class Application(FastAPI):
    """The API, whose document holds the tables of the house too."""

    _making: "asyncio.Task[bytes] | None" = None

    def openapi(self) -> dict[str, Any]:
        """The OpenAPI document; `x-tables` are the constants that the front end is built with."""
        document = super().openapi()
        document["x-tables"] = processes.tables().model_dump(mode="json")
        return document

    async def document(self) -> bytes:
        """Return the document as JSON, made once however many ask at once; they wait without a thread."""
        if self._making is None:
            self._making = asyncio.create_task(run_in_threadpool(lambda: json.dumps(self.openapi()).encode()))
        return await asyncio.shield(self._making)


def create_app() -> FastAPI:
    """The whole application; one a process."""
    app = Application(
        title="Perisect",
        version=__version__,
        lifespan=_life,
        generate_unique_id_function=lambda route: _name(route),
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
    )
    add_problem_handlers(app)
    for room in ROOMS:
        app.include_router(room.router)
    _serve_front_end(app, Path(settings().web))
    app.add_middleware(Lines)
    app.add_middleware(Door)
    return app


def _name(route: APIRoute) -> str:
    return route.name


def _serve_front_end(app: Application, built: Path) -> None:
    """Files of the built front end; every other path opens its page, which reads the path itself."""

    # Not FastAPI's own route, which would make the document in the event loop: everybody would wait two seconds.
    @app.get("/api/openapi.json", include_in_schema=False)
    async def openapi_document() -> Response:
        return Response(await app.document(), media_type="application/json")

    @app.get("/api/{path:path}", include_in_schema=False)
    def nothing_here(path: str) -> None:
        raise Problem(404, "There is nothing at this address.", "Check the address.")

    if not (built / "index.html").exists():
        return
    app.mount("/assets", StaticFiles(directory=built / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        file = (built / path).resolve()
        inside = file.is_relative_to(built.resolve()) and file.is_file()
        return FileResponse(file if inside else built / "index.html", headers={"Cache-Control": "no-cache"})
