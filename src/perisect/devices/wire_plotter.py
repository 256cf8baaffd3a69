"""A plotter with two ports, `wire://host:port?tray=port`: its language on one, loading, sensing and unloading on
the other."""

import socket
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any
from urllib.parse import parse_qs

import numpy as np

from perisect.core.cutting.program import Cut, Motion, Move
from perisect.core.cutting.view import View
from perisect.devices import wire
from perisect.devices.address import connect, parse, time_limit
from perisect.devices.errors import BadAddress, DeviceBusy, DeviceError
from perisect.devices.protocols import PlotterLanguage, PrintedSheet, Unloaded

SCHEME = "wire"
TIMEOUT_S = 60.0
"""Longest silence of a plotter, s; twice that for an answer as a whole, which may not drip for ever."""
MAX_ANSWER = 1000
"""Longest line that a plotter answers, characters."""
OFF_MM = 0.1
"""More than it rounds to."""
HOME = (0.0, 0.0)
GONE = "The plotter stopped answering."


def end_of(motions: Sequence[Motion]) -> tuple[float, float] | None:
    """Where motions end; None where they go nowhere."""
    ends = [m.path_mm[-1] if isinstance(m, Cut) else m.to_mm for m in motions if isinstance(m, Cut | Move)]
    return (float(ends[-1][0]), float(ends[-1][1])) if ends else None


def check_place(motions: Sequence[Motion], there: tuple[float, float] | None) -> None:
    """Whether a plotter is where motions sent it, where it says where it is.

    Raises:
        DeviceError: it is not.
    """
    end = end_of(motions)
    if end is not None and there is not None and np.abs(np.subtract(there, end)).max() > OFF_MM:
        raise DeviceError(
            "The plotter is not where it was sent: a part of the line was lost on the way, or the carriage stalled. "
            "Look for what holds it, then go on.",
            "line lost",
        )


class WirePlotter:
    """Both connections to a plotter for the length of one run."""

    can_look = True

    def __init__(self, lines: socket.socket, tray: socket.socket, language: PlotterLanguage) -> None:
        self._lines, self._tray, self._language = lines, tray, language
        self._answers = lines.makefile("r", encoding="ascii", newline="\n")

    def hold(self) -> None:
        """Take the plotter for this run alone.

        Raises:
            DeviceBusy: another run has it.
        """
        try:
            with time_limit(self._tray, TIMEOUT_S):
                wire.send(self._tray, {"ask": "hold", "lines": self._lines.getsockname()[1]})
                answer, _ = wire.receive(self._tray)
        except OSError as error:
            raise DeviceError(GONE, "plotter gone") from error
        if "error" in answer:
            raise DeviceBusy("Another run holds the plotter. Wait until it is done.")

    def load(self, sheet: PrintedSheet, again: bool = False) -> None:
        """Lay the sheet in."""
        head = {
            "px_per_mm": sheet.px_per_mm,
            "face_um": sheet.face_um,
            "liner_um": sheet.liner_um,
            "again": again,
        }
        self._ask({"ask": "load", **head}, sheet.png)

    def look(self, x_mm: float, y_mm: float) -> View:
        """What the sensor sees at a place of the plate."""
        head, body = self._ask({"ask": "sense", "x_mm": x_mm, "y_mm": y_mm})
        grey = np.frombuffer(body, np.uint8).reshape(head["shape"])
        return View(grey, x_mm, y_mm, float(head["px_per_mm"]))

    def carry_out(self, motions: Sequence[Motion]) -> None:
        """Send motions and wait until they are made.

        Raises:
            DeviceError: gone, or the plotter reports an error, or is not where it was sent.
        """
        answers = self.send(self._language.encode(motions))
        check_place(motions, self._language.position_of(answers))

    def where(self) -> tuple[float, float]:
        """Where the blade is."""
        return self._language.position_of(self.send("")) or HOME

    def park(self) -> None:
        """Lift, put the tool away, go home."""
        self.send(self._language.parking())

    def send(self, text: str) -> list[str]:
        """Send text of the plotter's language and wait until it is carried out; what it then answers.

        Raises:
            DeviceError: gone, or the plotter reports an error.
        """
        try:
            with time_limit(self._lines, 2 * TIMEOUT_S):
                self._lines.sendall(f"{text}{self._language.question()}".encode("ascii"))
                answers = [self._answers.readline(MAX_ANSWER) for _ in range(self._language.answers)]
        except OSError as failure:
            raise DeviceError(GONE, "plotter gone") from failure
        if not all(answers):
            raise DeviceError(GONE, "plotter gone")
        error = self._language.error_of(answers)
        if error is not None:
            raise DeviceError(f"The plotter reports {error}.", "line lost")
        return answers

    def photo(self) -> bytes | None:
        """The sheet as it lies there."""
        return self._ask({"ask": "photo"})[1] or None

    def unload(self) -> Unloaded:
        """Take the sheet out and see what was cut."""
        head, body = self._ask({"ask": "unload"})
        points = np.frombuffer(body, "<f8").reshape(-1, 2)
        ends = np.cumsum(head["lengths"])[:-1].astype(int)
        strokes = np.split(points, ends) if head["lengths"] else []
        return Unloaded(list(strokes), list(head["pens"]), float(head["seconds"]))

    def close(self) -> None:
        """Let go of the plotter: a socket stays open for as long as something reads from it."""
        self._answers.close()

    def _ask(self, head: dict[str, Any], body: bytes = b"") -> tuple[dict[str, Any], bytes]:
        try:
            with time_limit(self._tray, 2 * TIMEOUT_S):
                wire.send(self._tray, head, body)
                answer, reply = wire.receive(self._tray)
        except OSError as error:
            raise DeviceError(GONE, "plotter gone") from error
        if "error" in answer:
            raise DeviceError(f"The plotter refused: {answer['error']}.")
        return answer, reply


def ports_of(address: str) -> tuple[int, int]:
    """Ports of an address: the language's, the tray's.

    Raises:
        BadAddress: not such an address.
    """
    url = parse(address, (SCHEME,))
    tray = parse_qs(url.query).get("tray", [""])[0]
    if not tray.isdecimal() or not 0 < int(tray) < 65536:
        raise BadAddress(f"{address[:80]} names no tray. Give it as {SCHEME}://host:port?tray=port.")
    return url.port or 0, int(tray)


@contextmanager
def wire_plotter(
    address: str, language: PlotterLanguage, allowed: Sequence[str], timeout_s: float = TIMEOUT_S
) -> Iterator[WirePlotter]:
    """Connect to a plotter and hold it.

    Raises:
        DeviceError: it is off.
        DeviceBusy: another run has it.
        BadAddress: not such an address, or not an allowed one.
    """
    url, (lines, tray) = parse(address, (SCHEME,)), ports_of(address)
    try:
        one = connect(url, lines, allowed, timeout_s)
        try:
            other = connect(url, tray, allowed, timeout_s)
        except OSError:
            one.close()
            raise
    except OSError as error:
        raise DeviceError("The plotter does not answer. Switch it on and start the cut again.") from error
    with one, other:
        plotter = WirePlotter(one, other, language)
        try:
            plotter.hold()
            yield plotter
        finally:
            plotter.close()
