"""Places in line: a crowd that uploads or plans holds up nobody who reads."""

import asyncio
import os
import re
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from dataclasses import dataclass, field

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from perisect.api.bodies import BodyStore, TooManyArrive, announces_body
from perisect.api.problems import answer
from perisect.api.waiting import leave_place

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

    @property
    def seconds(self) -> int:
        """When somebody who is sent away may come back, s."""
        return max(1, round(self.waiting * self.seconds_each / self.places))


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
        _Line(re.compile(r"^GET /api/.*\.(zip|csv)$"), CORES, 20, 2.0),
        _Line(re.compile(r"^GET /api/.*\.(png|pdf)$"), 8, 200, 0.1),
    ]


class Lines:
    """Every request of a kind that takes a processor waits for a place; beyond the line it is told to come back.

    A request has its place from when its body is there until its answer begins: neither a caller who sends slowly nor
    one who reads slowly keeps others from it.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app, self._lines, self._bodies = app, _lines(), BodyStore()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        asked = f"{scope['method']} {scope['path']}" if scope["type"] == "http" else ""
        line = next((each for each in self._lines if each.kind.match(asked)), None)
        if line is None:
            await self._app(scope, receive, send)
            return
        if not announces_body(scope):
            await self._in_line(line, scope, receive, send)
            return
        try:
            async with self._bodies.arrived(receive) as replay:
                await self._in_line(line, scope, replay, send)
        except TooManyArrive:
            await _busy("Too much arrives at once.", line.seconds)(scope, receive, send)

    async def _in_line(self, line: _Line, scope: Scope, receive: Receive, send: Send) -> None:
        if line.waiting >= line.most_waiting:
            await _busy("Too many requests at once.", line.seconds)(scope, receive, send)
            return
        async with _place(line) as leave:

            async def leaving(message: Message) -> None:
                leave()
                await send(message)

            leave_place.set(leave)
            await self._app(scope, receive, leaving)


@asynccontextmanager
async def _place(line: _Line) -> AsyncIterator[Callable[[], None]]:
    """Wait for a place and have it until the end, or until what is yielded is called."""
    line.waiting += 1
    try:
        await line.free.acquire()
    finally:
        line.waiting -= 1
    has_place = True

    def leave() -> None:
        nonlocal has_place
        if has_place:
            has_place = False
            line.free.release()

    try:
        yield leave
    finally:
        leave()


def _busy(title: str, seconds: int) -> ASGIApp:
    return answer(429, title, f"Try again in {seconds} s.", seconds)
