"""Places in line: a crowd that uploads or plans holds up nobody who reads."""

import asyncio
import os
import re
from dataclasses import dataclass, field

from starlette.types import ASGIApp, Receive, Scope, Send

from perisect.api.problems import answer

CORES = max(1, len(os.sched_getaffinity(0)))


@dataclass
class _Line:
    """Requests of one kind: so many at a time, so many waiting, each about so many seconds."""

    kind: re.Pattern[str]
    places: int
    most_waiting: int
    seconds_each: float
    free: asyncio.Semaphore = field(init=False)
    waiting: int = 0

    def __post_init__(self) -> None:
        self.free = asyncio.Semaphore(self.places)


def _lines() -> list[_Line]:
    job = r"/api/jobs/\d+"
    return [
        _Line(
            re.compile(rf"^POST (/api/artwork|{job}/pictures|{job}/head/(picture|read)|/api/labels/tables)$"),
            4,
            150,
            0.5,
        ),
        _Line(re.compile(r"^POST /api/lines(/moving)?$"), CORES, 40, 0.1),
        _Line(
            re.compile(rf"^GET {job}/sheets/\d+/(print\.pdf|plates(\.pdf)?|cut\.[\w.]+|cut-plan|lines)$"),
            CORES,
            40,
            1.0,
        ),
        _Line(re.compile(r"^POST /api/(sheets|labels)(/.*)?$"), CORES, 40, 0.3),
        _Line(
            re.compile(rf"^(GET {job}|PUT {job}/\w+|POST {job}/(undo|redo|open|remedies|merge))$"), 4, 60, 0.2
        ),
        _Line(re.compile(r"^POST /api/prints/\d+/printed$"), CORES, 40, 1.0),
        _Line(re.compile(r"^GET /api/.*\.(png|pdf|zip)$"), 8, 200, 0.1),
    ]


class Lines:
    """Every request of a kind that takes a processor waits for a place; beyond the line it is told to come back."""

    def __init__(self, app: ASGIApp) -> None:
        self._app, self._lines = app, _lines()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        asked = f"{scope['method']} {scope['path']}"
        line = next((each for each in self._lines if each.kind.match(asked)), None)
        if line is None:
            await self._app(scope, receive, send)
            return
        if line.waiting >= line.most_waiting:
            seconds = max(1, round(line.waiting * line.seconds_each / line.places))
            refused = answer(429, "Many ask for this at once.", f"Try again in {seconds} s.", seconds)
            await refused(scope, receive, send)
            return
        line.waiting += 1
        try:
            await line.free.acquire()
        finally:
            line.waiting -= 1
        try:
            await self._app(scope, receive, send)
        finally:
            line.free.release()
