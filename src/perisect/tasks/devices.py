"""Clients of the printer and the plotter."""

import socket
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.cutting.sensing import View
from perisect.stand_ins import wire

SHEET_AT_MM = (20.0, 20.0)
"""Where the guide puts the lower left corner of a sheet on the plate: a setting of the plotter."""


class DeviceError(Exception):
    """A device does not answer or refuses; the text says which and what to do."""


@dataclass(frozen=True)
class Address:
    """Host and port."""

    host: str
    port: int


PATIENCE_S = 10.0
"""A device that was switched off and on again takes a moment to listen."""


def _connect(address: Address, timeout: float) -> socket.socket:
    deadline = time.monotonic() + PATIENCE_S
    while True:
        try:
            return socket.create_connection((address.host, address.port), timeout=timeout)
        except ConnectionRefusedError:
            if time.monotonic() >= deadline:
                raise
            time.sleep(0.2)


@dataclass(frozen=True)
class Printed:
    """A printed sheet: PNG and its scale."""

    png: bytes
    px_per_mm: float


def print_pdf(printer: Address, pdf: bytes) -> Printed:
    """Print one page.

    Raises:
        DeviceError: the printer is off or cannot read the file.
    """
    try:
        with _connect(printer, timeout=120) as peer:
            wire.send(peer, {"ask": "print"}, pdf)
            head, png = wire.receive(peer)
    except OSError as error:
        raise DeviceError("The printer does not answer. Switch it on and print again.") from error
    if "error" in head:
        raise DeviceError(f"The printer refused the sheet: {head['error']}.")
    return Printed(png, float(head["px_per_mm"]))


@dataclass(frozen=True)
class Unloaded:
    """Strokes the knife really cut, (n, 2) sheet mm each, with their pens; simulated seconds."""

    strokes: list[NDArray[np.float64]]
    pens: list[int]
    seconds: float


class PlotterLink:
    """Both connections to a plotter for the length of one run."""

    def __init__(self, lines: socket.socket, tray: socket.socket) -> None:
        self._lines = lines
        self._tray = tray
        self._answers = lines.makefile("r", encoding="ascii", newline="\n")

    def load(self, sheet: Printed) -> None:
        """Lay the sheet in."""
        self._ask({"ask": "load", "px_per_mm": sheet.px_per_mm}, sheet.png)

    def look(self, x_mm: float, y_mm: float) -> View:
        """What the sensor sees at a place of the plate."""
        head, body = self._ask({"ask": "sense", "x_mm": x_mm, "y_mm": y_mm})
        grey = np.frombuffer(body, np.uint8).reshape(head["shape"])
        return View(grey, x_mm, y_mm, float(head["px_per_mm"]))

    def unload(self) -> Unloaded:
        """Take the sheet out and see what was cut."""
        head, body = self._ask({"ask": "unload"})
        points = np.frombuffer(body, "<f8").reshape(-1, 2)
        ends = np.cumsum(head["lengths"])[:-1].astype(int)
        strokes = np.split(points, ends) if head["lengths"] else []
        return Unloaded(list(strokes), list(head["pens"]), float(head["seconds"]))

    def send(self, hpgl: str) -> None:
        """Send commands and wait until they are carried out (OA answers in its turn).

        Raises:
            DeviceError: gone, or the plotter reports an error.
        """
        try:
            self._lines.sendall(f"{hpgl}OA;OE;".encode("ascii"))
            position, error = self._answers.readline(), self._answers.readline()
        except OSError as failure:
            raise DeviceError("The plotter stopped answering.") from failure
        if not position or not error:
            raise DeviceError("The plotter stopped answering.")
        if error.strip() != "0":
            raise DeviceError(f"The plotter reports error {error.strip()}.")

    def _ask(self, head: dict, body: bytes = b"") -> tuple[dict, bytes]:
        try:
            wire.send(self._tray, head, body)
            answer, reply = wire.receive(self._tray)
        except OSError as error:
            raise DeviceError("The plotter stopped answering.") from error
        if "error" in answer:
            raise DeviceError(f"The plotter refused: {answer['error']}.")
        return answer, reply


@contextmanager
def plotter_link(lines: Address, tray: Address, timeout: float = 60) -> Iterator[PlotterLink]:
    """Connect to a plotter.

    Raises:
        DeviceError: it is off.
    """
    try:
        one = _connect(lines, timeout)
        try:
            other = _connect(tray, timeout)
        except OSError:
            one.close()
            raise
    except OSError as error:
        raise DeviceError("The plotter does not answer. Switch it on and start the cut again.") from error
    with one, other:
        yield PlotterLink(one, other)
