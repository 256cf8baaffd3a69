"""Printers that take a PDF and say nothing of what came out: by a raw socket, by the Internet Printing Protocol, and by
a queue of this system."""

import re
import shutil
import struct
import subprocess
from collections.abc import Sequence
from http.client import HTTPConnection, HTTPException
from urllib.parse import SplitResult, urlsplit

from perisect.devices.address import connect, time_limit
from perisect.devices.errors import BadAddress, DeviceError
from perisect.devices.protocols import PrintedSheet

TIMEOUT_S = 60.0
RAW_PORT, IPP_PORT = 9100, 631
MAX_PRINT_S = 600.0
"""Time that a printer has to take a file and to say so, s. Chosen: 50 MB over a slow link of 100 kB/s."""
NO_ANSWER = "The printer does not answer. Switch it on and print again."
SILENT = (
    "The printer stopped in the middle, so whether the sheet comes out is not known. Look at the printer."
)
QUEUE = re.compile(r"[A-Za-z0-9][A-Za-z0-9_.+-]{0,126}")
"""Names of queues; none begins with a dash, which would be an option."""


def address_of(address: str, scheme: str, port: int) -> tuple[SplitResult, int]:
    """Parts and port of a printer's URL.

    Raises:
        BadAddress: not such a URL.
    """
    try:
        url = urlsplit(address)
        found = url.port or port
    except ValueError as error:
        raise BadAddress(f"{address[:80]} is no address: {error}.") from error
    if url.scheme != scheme or not url.hostname or url.username is not None:
        raise BadAddress(f"{address[:80]} is no address of a printer. Give it as {scheme}://host.")
    return url, found


def queue_of(address: str) -> str:
    """The queue that `lp:NAME` names.

    Raises:
        BadAddress: it names none.
    """
    scheme, _, name = address.partition(":")
    if scheme != "lp" or not QUEUE.fullmatch(name):
        raise BadAddress(f"{address[:80]} names no queue. Give it as lp:NAME, as `lpstat -e` lists them.")
    return name


class SocketPrinter:
    """`socket://host:9100`: the file is sent as it is."""

    def __init__(self, address: str, allowed: Sequence[str]) -> None:
        (self._url, self._port), self._allowed = address_of(address, "socket", RAW_PORT), allowed

    def print(self, pdf: bytes) -> PrintedSheet | None:
        """Send one page.

        Raises:
            DeviceError: nobody answers.
        """
        try:
            peer = connect(self._url, self._port, self._allowed, TIMEOUT_S)
        except OSError as error:
            raise DeviceError(NO_ANSWER) from error
        try:
            with peer:
                peer.settimeout(MAX_PRINT_S)
                peer.sendall(pdf)
        except OSError as error:
            raise DeviceError(SILENT, began=True) from error
        return None


class IppPrinter:
    """`ipp://host/path`: a Print-Job request (RFC 8011, 4.2.1), its sheet not scaled (PWG 5100.16, print-scaling)."""

    def __init__(self, address: str, allowed: Sequence[str]) -> None:
        (self._url, self._port), self._allowed = address_of(address, "ipp", IPP_PORT), allowed

    def print(self, pdf: bytes) -> PrintedSheet | None:
        """Send one page.

        Raises:
            DeviceError: nobody answers, or the printer refuses it.
        """
        path = self._url.path or "/ipp/print"
        uri = f"ipp://{self._url.hostname}:{self._port}{path}"
        try:
            peer = connect(self._url, self._port, self._allowed, TIMEOUT_S)
        except OSError as error:
            raise DeviceError(NO_ANSWER) from error
        try:
            with peer, time_limit(peer, MAX_PRINT_S):
                web = HTTPConnection(self._url.hostname or "", self._port)
                web.sock = peer
                web.request("POST", path, print_job(uri) + pdf, {"Content-Type": "application/ipp"})
                response = web.getresponse()
                told = response.read(1 << 20)
        except (OSError, HTTPException) as error:
            raise DeviceError(SILENT, began=True) from error
        if response.status != 200 or len(told) < 8:
            raise DeviceError(f"The printer refused the sheet: HTTP {response.status}.")
        (status,) = struct.unpack(">H", told[2:4])
        if status >= 0x0400:
            raise DeviceError(
                f"The printer refused the sheet: IPP status {status:#06x}. Look at its display."
            )
        return None


def print_job(uri: str) -> bytes:
    """The head of a Print-Job request, version 1.1; the document follows it."""

    def attribute(tag: int, name: str, value: str) -> bytes:
        n, v = name.encode(), value.encode()
        return struct.pack(f">BH{len(n)}sH{len(v)}s", tag, len(n), n, len(v), v)

    charset, language, uri_tag, name_tag, media, keyword = 0x47, 0x48, 0x45, 0x42, 0x49, 0x44
    operation = [
        attribute(charset, "attributes-charset", "utf-8"),
        attribute(language, "attributes-natural-language", "en"),
        attribute(uri_tag, "printer-uri", uri),
        attribute(name_tag, "requesting-user-name", "perisect"),
        attribute(name_tag, "job-name", "sheet"),
        attribute(media, "document-format", "application/pdf"),
    ]
    job = [attribute(keyword, "print-scaling", "none")]
    return b"".join([struct.pack(">BBHI", 1, 1, 0x0002, 1), b"\x01", *operation, b"\x02", *job, b"\x03"])


class QueuePrinter:
    """`lp:NAME`: a queue of this system, which the settings have to allow by name."""

    def __init__(self, address: str, allowed: Sequence[str]) -> None:
        self._queue, self._allowed = queue_of(address), allowed

    def print(self, pdf: bytes) -> PrintedSheet | None:
        """Hand one page to the queue.

        Raises:
            BadAddress: the settings do not allow the queue.
            DeviceError: it does not take it.
        """
        if f"lp:{self._queue}" not in self._allowed:
            raise BadAddress(
                f"The queue {self._queue} is not among those that may be used. Add lp:{self._queue} to "
                "PERISECT_DEVICE_NETWORKS."
            )
        command = shutil.which("lp")
        if command is None:
            raise DeviceError("This machine has no printing system: the command lp is not there.")
        try:
            done = subprocess.run(
                [command, "-d", self._queue, "-o", "print-scaling=none", "-s", "--", "-"],
                input=pdf,
                capture_output=True,
                timeout=TIMEOUT_S,
                check=False,
            )
        except subprocess.TimeoutExpired as error:
            raise DeviceError(NO_ANSWER) from error
        if done.returncode != 0:
            said = done.stderr.decode("utf-8", "replace").strip()[:200]
            raise DeviceError(f"The queue {self._queue} does not take the sheet: {said}")
        return None
