"""A plotter that only takes its language: by a raw socket or a serial line, with or without answers.

It is asked once where it is. One that answers is asked after every line, so that a line is done when the plotter says
so; one that says nothing is paced by the time its motions take.
"""

import re
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from urllib.parse import parse_qs, urlsplit

import serial

from perisect.core.cutting.carriage import Carriage
from perisect.core.cutting.duration import Carried
from perisect.core.cutting.program import Motion, Move
from perisect.core.cutting.view import View
from perisect.devices.address import parse, resolve
from perisect.devices.errors import BadAddress, DeviceError
from perisect.devices.protocols import PlotterLanguage, PrintedSheet, Unloaded
from perisect.devices.wire_plotter import GONE, HOME, check_place, end_of

SCHEMES = ("socket", "serial")
DEVICE = re.compile(r"/dev/[A-Za-z0-9][A-Za-z0-9_.:+/-]{0,80}")
BAUDS = (1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200)
FLOWS = ("none", "xonxoff", "rtscts", "dsrdtr")
CHUNK = 256
"""Bytes at once: the least buffer of such plotters is a kilobyte."""
WRITE_S = 120.0
"""A plotter whose buffer is full takes nothing until it has cut a part of it."""
FIRST_ANSWER_S = 1.5
LATE_S = 20.0
"""An answer may come so much later than the motions take."""


def serial_of(address: str) -> tuple[str, int, str]:
    """Device, bits a second and flow control of `serial:///dev/NAME?baud=9600&flow=xonxoff`.

    Raises:
        BadAddress: not such an address.
    """
    url = urlsplit(address)
    asked = parse_qs(url.query)
    baud, flow = asked.get("baud", ["9600"])[0], asked.get("flow", ["xonxoff"])[0]
    if url.netloc or not DEVICE.fullmatch(url.path) or ".." in url.path:
        raise BadAddress(f"{address[:80]} names no serial line. Give it as serial:///dev/ttyUSB0?baud=9600.")
    if not baud.isdecimal() or int(baud) not in BAUDS:
        raise BadAddress(
            f"A serial line runs at {', '.join(map(str, BAUDS))} bits a second, not at {baud[:20]}."
        )
    if flow not in FLOWS:
        raise BadAddress(f"Flow control is one of {', '.join(FLOWS)}, not {flow[:20]}.")
    return url.path, int(baud), flow


def check_line(address: str) -> None:
    """Whether an address is one of this driver's; nothing is opened.

    Raises:
        BadAddress: it is not.
    """
    if address.startswith("serial:"):
        serial_of(address)
    else:
        parse(address, ("socket",))


class PlainPlotter:
    """One line to a plotter for the length of one run.

    Args:
        line: open, its reads without a wait of their own.
        clock, sleep: the time, and how it is waited for.
    """

    can_look = False

    def __init__(
        self,
        line: serial.SerialBase,
        language: PlotterLanguage,
        carriage: Carriage | None = None,
        clock: Callable[[], float] = time.monotonic,
        sleep: Callable[[float], None] = time.sleep,
    ) -> None:
        self._line, self._language, self._clock, self._sleep = line, language, clock, sleep
        self._carried = Carried(carriage or Carriage())
        self._sent: tuple[float, float] = HOME
        self._seconds = 0.0
        self._buffer = b""
        self._write(language.question())
        self.answers = self._read_answers(FIRST_ANSWER_S) is not None
        """Whether it says where it is."""

    def load(self, sheet: PrintedSheet, again: bool = False) -> None:
        """A person has laid the sheet in."""

    def look(self, x_mm: float, y_mm: float) -> View:
        """It has no sensor.

        Raises:
            DeviceError.
        """
        raise DeviceError(
            "This plotter has no sensor that Perisect can use. Say so in the shop, and set the blade over the marks by "
            "hand."
        )

    def where(self) -> tuple[float, float]:
        """As it says, also after it was moved at its own panel; where it says nothing, as it was sent."""
        if not self.answers:
            return self._sent
        self._write(self._language.question())
        return self._language.position_of(self._answers(0.0)) or self._sent

    def carry_out(self, motions: Sequence[Motion]) -> None:
        """Send motions and wait until they are made, or ought to be.

        Raises:
            DeviceError: gone, or the plotter reports an error, or is not where it was sent.
        """
        takes = self._carried.take(motions).seconds
        self._seconds += takes
        self._send(self._language.encode(motions), takes, motions)
        self._sent = end_of(motions) or self._sent

    def park(self) -> None:
        """Lift, put the tool away, go home."""
        takes = self._carried.take([Move(HOME)]).seconds
        self._seconds += takes
        self._send(self._language.parking(), takes)
        self._sent = HOME

    def photo(self) -> bytes | None:
        """It has no camera."""
        return None

    def unload(self) -> Unloaded:
        """A person takes the sheet out; nobody saw what was cut."""
        return Unloaded(None, [], self._seconds)

    def _send(self, text: str, takes: float, motions: Sequence[Motion] = ()) -> None:
        begun = self._clock()
        if not self.answers:
            self._write(text)
            self._sleep(max(0.0, takes - (self._clock() - begun)))
            return
        self._write(text + self._language.question())
        answers = self._answers(takes)
        error = self._language.error_of(answers)
        if error is not None:
            raise DeviceError(f"The plotter reports {error}.", "line lost")
        check_place(motions, self._language.position_of(answers))

    def _write(self, text: str) -> None:
        data = text.encode("ascii")
        try:
            for start in range(0, len(data), CHUNK):
                self._line.write(data[start : start + CHUNK])
        except serial.SerialTimeoutException as error:
            raise DeviceError(
                "The plotter takes nothing more: is it paused, or switched off? Look at its panel.",
                "plotter gone",
            ) from error
        except (OSError, serial.SerialException) as error:
            raise DeviceError(GONE, "plotter gone") from error

    def _answers(self, takes: float) -> list[str]:
        answers = self._read_answers(2 * takes + LATE_S)
        if answers is None:
            raise DeviceError(GONE, "plotter gone")
        return answers

    def _read_answers(self, patience_s: float) -> list[str] | None:
        """The answers to one question, each ended by CR or LF; None where they do not come."""
        end = self._clock() + patience_s
        while True:
            parts = [part for part in re.split(rb"[\r\n]+", self._buffer)[:-1] if part.strip()]
            if len(parts) >= self._language.answers:
                self._buffer = b""
                return [part.decode("ascii", "replace") for part in parts[: self._language.answers]]
            if self._clock() >= end or len(self._buffer) > 4096:
                return None
            try:
                self._buffer += self._line.read(max(1, min(self._line.in_waiting, 1024)))
            except (OSError, serial.SerialException) as error:
                raise DeviceError(GONE, "plotter gone") from error


@contextmanager
def plain_plotter(address: str, language: PlotterLanguage, allowed: Sequence[str]) -> Iterator[PlainPlotter]:
    """Open a plotter's line.

    Raises:
        DeviceError: nobody is there.
        BadAddress: not such an address, or not an allowed one.
    """
    try:
        line = _open(address, allowed)
    except (OSError, serial.SerialException) as error:
        raise DeviceError("The plotter does not answer. Switch it on and start the cut again.") from error
    with line:
        yield PlainPlotter(line, language)


def _open(address: str, allowed: Sequence[str]) -> serial.SerialBase:
    timeouts = {"timeout": 0.1, "write_timeout": WRITE_S}
    if not address.startswith("serial:"):
        url = parse(address, ("socket",))
        host, port = resolve(url.hostname or "", url.port or 0, allowed)
        numeric = f"[{host}]" if ":" in host else host
        return serial.serial_for_url(f"socket://{numeric}:{port}", **timeouts)
    device, baud, flow = serial_of(address)
    if f"serial:{device}" not in allowed:
        raise BadAddress(
            f"The line {device} is not among those that may be used. Add serial:{device} to PERISECT_DEVICE_NETWORKS."
        )
    wanted = {} if flow == "none" else {flow: True}
    # Nobody else may cut over the same line.
    return serial.serial_for_url(device, baudrate=baud, exclusive=True, **wanted, **timeouts)
