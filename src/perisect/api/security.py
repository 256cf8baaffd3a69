"""Who may ask: hosts, origins, sizes of bodies, sign-in; and what a browser is told about each answer."""

import contextlib
import ipaddress
import re
from collections.abc import Sequence
from urllib.parse import urlsplit

from fastapi.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import cookie_parser
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from perisect.api.bodies import MAX_STILL_S, BodyStalled, BodyTooLarge, MeteredBody
from perisect.api.problems import answer
from perisect.core.artwork.decode import MAX_BYTES
from perisect.services import sign_in
from perisect.store.settings import settings

COOKIE = "perisect"
OPEN_PATHS = ("/api/sign-in", "/api/health")
"""What answers without being signed in."""

MOST_BODY = 8_000_000
MOST_UPLOAD = MAX_BYTES + 100_000
"""A form is a little more than the file in it."""
UPLOADS = re.compile(
    r"^/api/(artwork|fonts|labels/tables|tones/.*profile|jobs/\d+/(pictures|head/picture|scale/scan|calibration-page/scan)|runs/\d+/picture)$"
)
LONGEST_PATH = 600
LENGTH = re.compile(r"[0-9]{1,15}")
CONTROL = re.compile(r"[\x00-\x1f\x7f]")

POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; script-src 'self'; "
    "connect-src 'self'; font-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}


def host_is_ours(host: str, names: Sequence[str], local: bool) -> bool:
    """Return whether a Host header names this server: a name that nobody gave it may be a stranger's that points here.

    Beyond loopback the number of an address will do: a stranger's page has a name.
    """
    try:
        name = urlsplit(f"//{host}").hostname or ""
        if name in names:
            return True
        number = ipaddress.ip_address(name)
    except ValueError:
        return False
    return number.is_loopback or not local


def is_foreign(headers: Headers) -> bool:
    """Return whether a page of another origin sent a request."""
    site = headers.get("sec-fetch-site")
    if site is not None and site not in ("same-origin", "none"):
        return True
    origin = headers.get("origin")
    if origin is None:
        return False
    try:
        return urlsplit(origin).netloc != headers.get("host")
    except ValueError:
        return True


def opens_page(scope: Scope, headers: Headers) -> bool:
    """Return whether a request is a person's way to one of our pages, by a link on whatever page."""
    return (
        scope["method"] in ("GET", "HEAD")
        and not scope["path"].startswith("/api/")
        and headers.get("sec-fetch-mode") == "navigate"
        and headers.get("sec-fetch-dest") == "document"
    )


RESTORE, MOST_BACKUP = "/api/shop/restore", 8_000_000_000
"""A whole shop comes in by a file as large as its pictures; larger ones by the command line."""


class Door:
    """Everything that is checked before a request reaches its route, as one piece of ASGI middleware."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        own = settings()
        given = [each.strip() for each in own.hosts.split(",") if each.strip()]
        self._names = ("localhost", own.host, *given)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            if scope["type"] == "lifespan":
                await self._app(scope, receive, send)
            return
        refused = await self._refused(scope)
        if refused is not None:
            await refused(scope, receive, self._told(send))
            return
        body, began = MeteredBody(receive, most_of(scope["path"])), False

        async def begin(message: Message) -> None:
            # What a route makes of a body that was broken off is not what is wrong with it.
            nonlocal began
            if body.failure is None or began:
                began = True
                await send(message)

        with contextlib.suppress(BodyTooLarge, BodyStalled):
            await self._app(scope, body.receive, self._told(begin))
        if body.failure is not None and not began:
            stalled = isinstance(body.failure, BodyStalled)
            broken_off = _stalled() if stalled else self._too_large(scope)
            await broken_off(scope, receive, self._told(send))

    async def _refused(self, scope: Scope) -> ASGIApp | None:
        headers, path = Headers(scope=scope), scope["path"]
        if not host_is_ours(headers.get("host", ""), self._names, settings().is_local):
            return answer(
                421,
                "This server is not known by that name.",
                "Open it by its own address, or add the name to PERISECT_HOSTS.",
            )
        if CONTROL.search(path) or len(path) > LONGEST_PATH:
            return answer(400, "This address is not valid.", "Check the address.")
        if is_foreign(headers) and not opens_page(scope, headers):
            return answer(
                403,
                "Requests from other web pages are refused.",
                "Do it in Perisect's own window.",
            )
        length = headers.get("content-length", "0")
        if not LENGTH.fullmatch(length) or int(length) > most_of(path):
            return self._too_large(scope)
        if path.startswith("/api/") and path not in OPEN_PATHS and not await self._signed_in(headers):
            return answer(401, "You are not signed in.", "Sign in with the shop's passphrase.")
        return None

    async def _signed_in(self, headers: Headers) -> bool:
        if settings().is_local:
            return True
        shown = cookie_parser(headers.get("cookie", "")).get(COOKIE)
        return bool(shown) and await run_in_threadpool(sign_in.is_signed_in, str(shown))

    @staticmethod
    def _too_large(scope: Scope) -> ASGIApp:
        most = most_of(scope["path"])
        return answer(
            413, f"This is larger than {most / 1e6:.0f} MB.", "Send less at a time, or export it smaller."
        )

    @staticmethod
    def _told(send: Send) -> Send:
        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        return send_with_headers


def _stalled() -> ASGIApp:
    refused = answer(
        408,
        "The request stopped in the middle.",
        f"Nothing was changed. Send all of it again, without a pause of more than {MAX_STILL_S:.0f} s.",
    )
    refused.headers["connection"] = "close"
    return refused


def most_of(path: str) -> int:
    """How many bytes a request to a path may have."""
    if path == RESTORE:
        return MOST_BACKUP
    return MOST_UPLOAD if UPLOADS.match(path) else MOST_BODY
