"""The API behind a real socket, and callers who do not keep to the rules."""

import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress

import uvicorn

from perisect.api.connection import WatchedConnection
from perisect.up.cluster import free_port


@contextmanager
def served() -> Iterator[int]:
    """The API at a port of loopback."""
    from perisect.api.app import create_app

    port = free_port()
    server = uvicorn.Server(
        uvicorn.Config(
            create_app(), port=port, log_level="error", http=WatchedConnection, timeout_graceful_shutdown=1
        )
    )
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield port
    server.should_exit = True
    thread.join(20)


def connect(port: int, receive_buffer: int | None = None) -> socket.socket:
    """A connection; with a small receive buffer little of an answer is on its way."""
    made = socket.socket()
    if receive_buffer is not None:
        made.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, receive_buffer)
    made.settimeout(60)
    made.connect(("127.0.0.1", port))
    return made


def head(method: str, path: str, port: int, *lines: str) -> bytes:
    """The head of a request."""
    told = [f"{method} {path} HTTP/1.1", f"Host: 127.0.0.1:{port}", *lines, "", ""]
    return "\r\n".join(told).encode("latin-1")


def status(peer: socket.socket) -> int:
    """The status of the next answer; 0 when the connection ends without one."""
    with suppress(ConnectionError):
        first = peer.recv(65_536)
        return int(first.split(b" ", 2)[1]) if first else 0
    return 0
