"""Messages with a picture or a file behind them: a JSON head and bytes, each with its length before it.

The head is at most 1 MB, the body 400 MB; whoever sends more is hung up on.
"""

import json
import socket
import struct
from typing import Any

MAX_HEAD = 1 << 20
MAX_BODY = 400 << 20


class WireError(ConnectionError):
    """The other side went away or sent something that is not a message."""


def send(peer: socket.socket, head: dict[str, Any], body: bytes = b"") -> None:
    """Send one message."""
    text = json.dumps(head).encode()
    peer.sendall(struct.pack(">II", len(text), len(body)) + text)
    if body:
        peer.sendall(body)


def receive(peer: socket.socket, max_body: int = MAX_BODY) -> tuple[dict[str, Any], bytes]:
    """Receive one message, its body of `max_body` bytes at most.

    Raises:
        WireError: closed in the middle, too long, or the head is not a JSON object.
    """
    head_length, body_length = struct.unpack(">II", _exactly(peer, 8))
    if head_length > MAX_HEAD or body_length > max_body:
        raise WireError("message too long")
    try:
        head = json.loads(_exactly(peer, head_length))
    except ValueError as error:
        raise WireError("the head is not JSON") from error
    if not isinstance(head, dict):
        raise WireError("the head is not an object")
    return head, _exactly(peer, body_length)


def _exactly(peer: socket.socket, count: int) -> bytes:
    parts = bytearray()
    while len(parts) < count:
        part = peer.recv(min(count - len(parts), 1 << 20))
        if not part:
            raise WireError("closed in the middle of a message")
        parts += part
    return bytes(parts)
