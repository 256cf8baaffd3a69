"""Plotters that only take their language: by a socket and by a serial line, with answers and without."""

import os
import socket
import threading
import time
import tty
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import numpy as np
import pytest
import serial

from perisect.core.cutting.carriage import Carriage
from perisect.core.cutting.program import Cut, Move, Tool
from perisect.devices.errors import BadAddress, DeviceError
from perisect.devices.hpgl import Hpgl
from perisect.devices.open import check_address, open_plotter
from perisect.devices.plain_plotter import PlainPlotter
from perisect.devices.protocols import PrintedSheet

SQUARE = np.array([[10, 10], [30, 10], [30, 30], [10, 30], [10, 10]], float)
MOTIONS = [Tool("kiss", 1, 4, 10), Move((10.0, 10.0)), Cut(SQUARE)]
AS_HPGL = "SP1;VS4;FS10;PU400,400;PD1200,400,1200,1200,400,1200,400,400;PU;"


class Talker:
    """A plotter at the other end of a line: keeps what it gets and answers OA and OE, or nothing."""

    def __init__(self, receive: Callable[[], bytes], send: Callable[[bytes], object], answers: bool) -> None:
        self.got, self.at, self.error, self._rest = "", (0, 0), 0, ""
        self._receive, self._send, self._answers = receive, send, answers

    def run(self) -> None:
        try:
            while data := self._receive():
                self._rest += data.decode("ascii")
                *whole, self._rest = self._rest.split(";")
                for command in whole:
                    self._one(command)
        except OSError:
            pass

    def _one(self, command: str) -> None:
        if command == "OA":
            self._tell(f"{self.at[0]},{self.at[1]},0")
        elif command == "OE":
            self._tell(str(self.error))
        else:
            self.got += f"{command};"
            if command[:2] in ("PU", "PD", "PA") and len(command) > 2:
                numbers = [int(each) for each in command[2:].split(",")]
                self.at = numbers[-2], numbers[-1]

    def _tell(self, text: str) -> None:
        if self._answers:
            self._send(f"{text}\r".encode())


@contextmanager
def at_socket(answers: bool) -> Iterator[tuple[str, Talker]]:
    with socket.create_server(("127.0.0.1", 0)) as server:
        talkers: list[Talker] = []
        there = threading.Event()

        def serve() -> None:
            try:
                peer, _ = server.accept()
            except OSError:
                return
            with peer:
                talkers.append(Talker(lambda: peer.recv(4096), peer.sendall, answers))
                there.set()
                talkers[0].run()

        threading.Thread(target=serve, daemon=True).start()
        yield f"socket://127.0.0.1:{server.getsockname()[1]}", _Late(there, talkers)  # type: ignore[misc]


class _Late:
    """The talker, once somebody is connected."""

    def __init__(self, there: threading.Event, talkers: list[Talker]) -> None:
        self.__dict__.update(_there=there, _talkers=talkers)

    def __getattr__(self, name: str) -> object:
        assert self._there.wait(5)
        return getattr(self._talkers[0], name)

    def __setattr__(self, name: str, value: object) -> None:
        assert self._there.wait(5)
        setattr(self._talkers[0], name, value)


def test_one_that_answers_is_done_when_it_says_so_and_tells_where_it_was_jogged_to() -> None:
    with at_socket(True) as (address, peer), open_plotter(address, "hpgl") as plotter:
        assert isinstance(plotter, PlainPlotter)
        assert plotter.answers
        plotter.load(PrintedSheet(b"", 1.0))
        plotter.carry_out(MOTIONS)
        assert peer.got == AS_HPGL
        peer.at = 4100, 8021  # somebody used its own keys
        assert plotter.where() == (102.5, 200.525)
        plotter.park()
        assert peer.got.endswith("PU;SP0;PA0,0;")
        assert plotter.unload().strokes is None
        peer.error = 3
        with pytest.raises(DeviceError, match="reports error 3"):
            plotter.carry_out(MOTIONS)
        with pytest.raises(DeviceError, match="no sensor"):
            plotter.look(10, 10)
        assert plotter.photo() is None


def test_one_that_is_not_where_it_was_sent_is_noticed() -> None:
    with at_socket(True) as (address, peer), open_plotter(address, "hpgl") as plotter:
        peer._one = lambda command: Talker._one(peer, command if command[:2] != "PD" else "PD1200,400")
        with pytest.raises(DeviceError, match="not where it was sent"):
            plotter.carry_out(MOTIONS)


class _SilentLine:
    """An open line on which nobody answers."""

    in_waiting = 0

    def __init__(self) -> None:
        self.written = b""

    def write(self, data: bytes) -> None:
        assert len(data) <= 256
        self.written += data

    def read(self, size: int) -> bytes:
        return b""


def test_one_that_says_nothing_is_paced_by_what_its_motions_take() -> None:
    """20 mm at 4 cm/s from rest to rest: 0.5 s and what gathering speed costs, v/a a side; and the way there."""
    now, line = [0.0], _SilentLine()

    def sleep(seconds: float) -> None:
        now[0] += seconds

    def clock() -> float:
        now[0] += 0.01
        return now[0]

    carriage = Carriage(travel_mm_s=100, acceleration_mm_s2=1e9)
    plotter = PlainPlotter(line, Hpgl(), carriage, clock, sleep)  # type: ignore[arg-type]
    assert not plotter.answers
    begun = now[0]
    plotter.carry_out([Tool("kiss", 1, 4, 10), Move((0.0, 50.0)), Cut(np.array([[0.0, 50], [20, 50]]))])
    assert now[0] - begun == pytest.approx(50 / 100 + 20 / 40, abs=0.06)
    assert plotter.where() == (20.0, 50.0)  # as it was sent
    plotter.park()
    assert plotter.where() == (0.0, 0.0)
    assert plotter.unload().seconds == pytest.approx(0.5 + 0.5 + np.hypot(20, 50) / 100, abs=0.01)
    assert b"PU0,2000;PD800,2000;PU;" in line.written


def test_a_serial_line_with_a_plotter_that_answers() -> None:
    ours, theirs = os.openpty()
    tty.setraw(ours)
    tty.setraw(theirs)
    name = os.ttyname(theirs)
    talker = Talker(lambda: os.read(ours, 4096), lambda data: os.write(ours, data), True)
    threading.Thread(target=talker.run, daemon=True).start()
    address = f"serial://{name}?baud=9600&flow=none"
    try:
        with (
            pytest.raises(DeviceError, match="not among those that may be used"),
            open_plotter(address, "hpgl"),
        ):
            pass
        with open_plotter(address, "hpgl", (f"serial:{name}",)) as plotter:
            plotter.carry_out(MOTIONS)
            assert talker.got == AS_HPGL
            with (
                pytest.raises(DeviceError, match="does not answer"),
                open_plotter(address, "hpgl", (f"serial:{name}",)),
            ):
                pass  # one at a time
    finally:
        os.close(ours)
        os.close(theirs)


def test_a_full_buffer_that_never_empties_is_said() -> None:
    class Full(_SilentLine):
        def write(self, data: bytes) -> None:
            raise serial.SerialTimeoutException("Write timeout")

    with pytest.raises(DeviceError, match="paused, or switched off"):
        PlainPlotter(Full(), Hpgl(), clock=time.monotonic)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("address", "says"),
    [
        ("serial:///dev/../etc/passwd", "names no serial line"),
        ("serial:///etc/passwd", "names no serial line"),
        ("serial://host/dev/ttyUSB0", "names no serial line"),
        ("serial:///dev/ttyUSB0?baud=12", "runs at"),
        ("serial:///dev/ttyUSB0?flow=magic", "Flow control"),
        ("socket://127.0.0.1", "is no address"),
        ("rfc2217://127.0.0.1:5", "is no address"),
        ("spy:///dev/ttyUSB0", "is no address"),
    ],
)
def test_addresses_that_are_none(address: str, says: str) -> None:
    with pytest.raises(BadAddress, match=says):
        check_address("plotter", address)
    check_address("plotter", "serial:///dev/ttyUSB0?baud=19200&flow=rtscts")
    check_address("plotter", "socket://127.0.0.1:9100")


def test_a_stranger_s_network_is_not_reached() -> None:
    with (
        pytest.raises(DeviceError, match="none of the networks"),
        open_plotter("socket://192.0.2.7:9100", "hpgl"),
    ):
        pass
