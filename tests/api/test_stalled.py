"""Who sends or reads slowly keeps nobody else from the shop, and is ended."""

import asyncio
import time
from collections.abc import Iterator
from contextlib import ExitStack, suppress
from http.client import HTTPConnection

import httpx
import pytest
from starlette.types import Message, Receive, Scope, Send

from perisect.api import bodies, connection
from perisect.api.limits import Lines
from tests.api.served import connect, head, served, status


@pytest.fixture(scope="module")
def port(shop: object) -> Iterator[int]:
    with served() as there:
        yield there


@pytest.fixture
def soon(monkeypatch: pytest.MonkeyPatch) -> None:
    """Clocks that run out within a test."""
    monkeypatch.setattr(bodies, "MAX_STILL_S", 0.4)
    monkeypatch.setattr(connection, "TICK_S", 0.1)
    monkeypatch.setattr(connection, "MAX_IDLE_S", 0.5)
    monkeypatch.setattr(connection, "MAX_UNREAD_S", 0.6)


HALF = b'{"revision": 1, '


def test_half_sent_changes_keep_nobody_from_a_job(port: int, job: dict) -> None:
    path = f"/api/jobs/{job['id']}"
    with ExitStack() as stack:
        for _ in range(8):
            peer = stack.enter_context(connect(port))
            peer.sendall(head("PUT", f"{path}/recipe", port, "Content-Length: 400") + HALF)
        for _ in range(3):
            peer = stack.enter_context(connect(port))
            peer.sendall(head("POST", "/api/lines", port, "Content-Length: 400") + HALF)
        time.sleep(0.2)
        began = time.monotonic()
        assert httpx.get(f"http://127.0.0.1:{port}{path}").status_code == 200
        lines = {"border_mm": 2, "artwork": "0" * 64}
        assert httpx.post(f"http://127.0.0.1:{port}/api/lines", json=lines).status_code in (404, 422)
        assert time.monotonic() - began < 2


def test_a_get_that_announces_a_body_has_no_place_before_it_is_there(port: int, job: dict) -> None:
    path = f"/api/jobs/{job['id']}"
    with ExitStack() as stack:
        for _ in range(8):
            peer = stack.enter_context(connect(port))
            peer.sendall(head("GET", path, port, "Content-Length: 9"))
        time.sleep(0.2)
        assert httpx.get(f"http://127.0.0.1:{port}{path}", timeout=2).status_code == 200


@pytest.mark.parametrize("path", ["/api/lines", "/api/jobs", "/api/artwork"])
def test_a_body_that_does_not_move_is_ended(path: str, port: int, soon: None) -> None:
    with connect(port) as peer:
        peer.sendall(head("POST", path, port, "Content-Type: application/json", "Content-Length: 400") + HALF)
        began = time.monotonic()
        answer = b""
        while block := peer.recv(65_536):
            answer += block
        assert answer.startswith(b"HTTP/1.1 408")
        assert b"Nothing was changed" in answer
        assert time.monotonic() - began < 3


def test_a_body_that_drips_is_ended(port: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bodies, "S_PER_MB", 1.0)
    with connect(port) as peer:
        peer.sendall(head("POST", "/api/lines", port, "Content-Length: 100000"))
        began, got = time.monotonic(), b""
        peer.settimeout(0.05)
        while not got and time.monotonic() < began + 6:
            peer.sendall(b" ")
            try:
                got = peer.recv(100)
            except TimeoutError:
                continue
        assert got.startswith(b"HTTP/1.1 408")
        assert 0.8 < time.monotonic() - began < 3


def test_a_large_body_arrives_whole_though_it_is_kept_on_disk(port: int) -> None:
    # Three times what is kept in memory: read to its last letter, which is what is wrong with it.
    content = b"[" + b" " * 3_300_000 + b"}"
    told = {"Content-Type": "application/json"}
    answer = httpx.post(f"http://127.0.0.1:{port}/api/lines", content=content, headers=told, timeout=20)
    assert answer.status_code == 422
    assert "3300001" in answer.json()["detail"]


def test_a_head_that_does_not_end_is_ended(port: int, soon: None) -> None:
    with connect(port) as peer, connect(port) as silent:
        peer.sendall(b"GET /api/health HTTP/1.1\r\nHost: 127")
        assert peer.recv(100) == b""
        assert silent.recv(100) == b""


def test_bytes_after_an_answer_do_not_keep_a_connection_for_ever(port: int, soon: None) -> None:
    with connect(port) as peer:
        peer.sendall(head("GET", "/api/health", port))
        assert status(peer) == 200
        peer.sendall(b"G")
        began = time.monotonic()
        while peer.recv(65_536):
            assert time.monotonic() < began + 5
        assert time.monotonic() - began < 3


def test_who_does_not_read_keeps_no_place() -> None:
    served: list[str] = []

    async def app(scope: Scope, receive: Receive, send: Send) -> None:
        await send({"type": "http.response.start", "status": 200, "headers": []})
        served.append(scope["path"])

    async def ask(lines: Lines, path: str, send: Send) -> None:
        async def receive() -> Message:
            return {"type": "http.request", "body": b"", "more_body": False}

        await lines({"type": "http", "method": "GET", "path": path, "headers": []}, receive, send)

    async def full(_: Message) -> None:
        await asyncio.Event().wait()

    async def reads(_: Message) -> None:
        pass

    async def play() -> None:
        lines = Lines(app)
        blocked = [asyncio.create_task(ask(lines, f"/api/jobs/{n}", full)) for n in range(20)]
        await asyncio.sleep(0)
        await asyncio.wait_for(ask(lines, "/api/jobs/99", reads), 2)
        for each in blocked:
            each.cancel()

    asyncio.run(play())
    assert served == ["/api/jobs/99"]


def test_who_does_not_read_is_ended(port: int, soon: None) -> None:
    url = f"http://127.0.0.1:{port}"
    size = len(httpx.get(f"{url}/api/openapi.json").content)
    with ExitStack() as stack:
        peers = [stack.enter_context(connect(port, 4096)) for _ in range(4)]
        # Far more than all buffers on the way hold.
        for peer in peers:
            peer.sendall(head("GET", "/api/openapi.json", port) * 40)
        time.sleep(4)
        # What was on its way arrives; then the connection is at its end, long before all of the answers.
        for peer in peers:
            got = 0
            with suppress(ConnectionResetError):
                while block := peer.recv(1 << 20):
                    got += len(block)
            assert got < 30 * size
    assert httpx.get(f"{url}/api/health").status_code == 200


def test_who_reads_slowly_but_reads_gets_all(port: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(connection, "TICK_S", 0.1)
    monkeypatch.setattr(connection, "MAX_UNREAD_S", 1.0)
    with connect(port, 4096) as peer:
        peer.sendall(head("GET", "/api/openapi.json", port, "Connection: close"))
        got = 0
        while block := peer.recv(20_000):
            got += len(block)
            time.sleep(0.02)
    assert got > 270_000


def test_after_a_problem_the_connection_serves_the_next_request(port: int) -> None:
    link = HTTPConnection("127.0.0.1", port, timeout=20)
    link.connect()
    first = link.sock
    foreign, plain = {"Origin": "http://stranger.example"}, {"Content-Type": "application/json"}
    asked = [("POST", b" " * length, foreign, 403) for length in (10, 70_000, 900_000)]
    asked += [("POST", b"{not json", plain, 422), ("POST", b"[]", plain, 422), ("GET", b"", {}, 200)]
    for method, body, headers, expected in asked:
        link.request(method, "/api/jobs", body, headers)
        answer = link.getresponse()
        answer.read()
        assert answer.status == expected
    # A client would have made another connection if this one had been closed.
    assert link.sock is first
    link.close()
