"""Printers that take a PDF: what reaches them, and that nobody can make the server talk to a stranger."""

import http.server
import os
import socket
import struct
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from perisect.devices.errors import BadAddress, DeviceError
from perisect.devices.open import check_address, print_pdf

PDF = b"%PDF-1.7 a page"


def test_a_raw_printer_gets_the_file_as_it_is() -> None:
    with socket.create_server(("127.0.0.1", 0)) as server:
        got: list[bytes] = []

        def take() -> None:
            peer, _ = server.accept()
            with peer:
                got.append(b"".join(iter(lambda: peer.recv(4096), b"")))

        thread = threading.Thread(target=take)
        thread.start()
        assert print_pdf(f"socket://127.0.0.1:{server.getsockname()[1]}", PDF) is None
        thread.join(5)
    assert got == [PDF]


@contextmanager
def ipp_printer(status: int) -> Iterator[tuple[int, list[tuple[str, str, bytes]]]]:
    """A printer that keeps what it is sent and answers with an IPP status."""
    asked: list[tuple[str, str, bytes]] = []

    class Handler(http.server.BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers["Content-Length"]))
            asked.append((self.path, self.headers["Content-Type"], body))
            answer = struct.pack(">BBHI", 1, 1, status, 1) + b"\x03"
            self.send_response(200)
            self.send_header("Content-Length", str(len(answer)))
            self.end_headers()
            self.wfile.write(answer)

        def log_message(self, *_: object) -> None:
            pass

    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler) as server:
        thread = threading.Thread(target=server.serve_forever)
        thread.start()
        yield server.server_port, asked
        server.shutdown()
        thread.join()


def attributes(message: bytes) -> tuple[dict[str, str], bytes]:
    """Names and values of an IPP request, and what follows them (RFC 8010, 3.1)."""
    assert struct.unpack(">BBHI", message[:8]) == (1, 1, 0x0002, 1)  # Print-Job
    at, found = 8, {}
    while message[at] != 0x03:
        if message[at] < 0x10:  # a group begins
            at += 1
            continue
        (n,) = struct.unpack(">H", message[at + 1 : at + 3])
        name = message[at + 3 : at + 3 + n].decode()
        at += 3 + n
        (v,) = struct.unpack(">H", message[at : at + 2])
        found[name] = message[at + 2 : at + 2 + v].decode()
        at += 2 + v
    return found, message[at + 1 :]


def test_an_ipp_printer_is_asked_to_print_without_scaling() -> None:
    with ipp_printer(0x0000) as (port, asked):
        assert print_pdf(f"ipp://127.0.0.1:{port}/printers/desk", PDF) is None
    ((path, kind, body),) = asked
    told, document = attributes(body)
    assert (path, kind, document) == ("/printers/desk", "application/ipp", PDF)
    assert told["printer-uri"] == f"ipp://127.0.0.1:{port}/printers/desk"
    assert (told["document-format"], told["print-scaling"]) == ("application/pdf", "none")
    with ipp_printer(0x0506) as (port, _), pytest.raises(DeviceError, match="0x0506"):
        print_pdf(f"ipp://127.0.0.1:{port}", PDF)


def test_a_queue_is_used_only_where_it_is_allowed_and_without_a_shell(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    script = tmp_path / "lp"
    script.write_text(
        '#!/bin/sh\necho "$@" > "$0.args"; cat > "$0.pdf"\n[ "$2" != full ] || { echo no room >&2; exit 1; }\n'
    )
    script.chmod(0o755)
    monkeypatch.setenv("PATH", f"{tmp_path}{os.pathsep}{os.environ['PATH']}")
    with pytest.raises(DeviceError, match="not among those"):
        print_pdf("lp:desk", PDF)
    assert print_pdf("lp:desk", PDF, ("127.0.0.0/8", "lp:desk")) is None
    assert (tmp_path / "lp.pdf").read_bytes() == PDF
    assert (tmp_path / "lp.args").read_text().split() == [
        "-d",
        "desk",
        "-o",
        "print-scaling=none",
        "-s",
        "--",
        "-",
    ]
    with pytest.raises(DeviceError, match="no room"):
        print_pdf("lp:full", PDF, ("lp:full",))


@pytest.mark.parametrize(
    "address",
    [
        "lp:",
        "lp:-o",
        "lp:a b",
        "lp:a;reboot",
        "socket://",
        "ipp://user@127.0.0.1/",
        "http://127.0.0.1:631",
        "ftp:x",
        "socket://127.0.0.1:99999",
        "lp:" + "x" * 200,
    ],
)
def test_what_is_no_address_of_a_printer_is_said(address: str) -> None:
    with pytest.raises(BadAddress, match=r"Give it as|is no address"):
        check_address("printer", address)


def test_a_printer_beyond_the_networks_allowed_is_not_reached() -> None:
    for address in ("socket://203.0.113.9", "ipp://203.0.113.9/ipp", "socket://localhost.:9100"):
        with pytest.raises(DeviceError, match=r"none of the networks|does not answer"):
            print_pdf(address, PDF, ("10.0.0.0/8",))
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]
        # By its name, where the name is allowed.
        assert print_pdf(f"socket://localhost:{port}", PDF, ("localhost",)) is None
        with pytest.raises(DeviceError, match="none of the networks"):
            print_pdf(f"socket://127.0.0.1:{port}", PDF, ("localhost",))
