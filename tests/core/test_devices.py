"""Talking to the devices: messages arrive whole or not at all, and a device that is gone is said."""

import socket
import struct
import threading
from collections.abc import Iterator

import numpy as np
import pytest

from perisect.core.cutting.registration import register
from perisect.core.cutting.sensing import sense_marks
from perisect.core.ledger.cut_picture import decode_sheet, draw_cuts
from perisect.core.prepress.print_file import write_print_pdf
from perisect.core.prepress.raster import render_page
from perisect.core.sheet import A4, LETTER, MarkSettings, marks_for
from perisect.devices import address, wire
from perisect.devices.cut_run import nominal
from perisect.devices.errors import DeviceBusy, DeviceError
from perisect.devices.open import open_plotter, print_pdf
from perisect.devices.protocols import PrintedSheet
from perisect.stand_ins.printer import Printer
from perisect.stand_ins.shop import stand_ins

pytestmark = pytest.mark.slow

MARKS = marks_for(A4, MarkSettings())
PAGE = write_print_pdf(A4, MARKS, MarkSettings(), [], {})


@pytest.fixture
def pair() -> Iterator[tuple[socket.socket, socket.socket]]:
    one, other = socket.socketpair()
    other.settimeout(5)
    with one, other:
        yield one, other


def test_a_message_comes_as_it_was_sent(pair: tuple[socket.socket, socket.socket]) -> None:
    body = bytes(range(256)) * 5000
    sender = threading.Thread(target=wire.send, args=(pair[0], {"ask": "load", "px": 1.5}, body))
    sender.start()
    assert wire.receive(pair[1]) == ({"ask": "load", "px": 1.5}, body)
    sender.join()


@pytest.mark.parametrize(
    "raw",
    [
        struct.pack(">II", 5, 0) + b"[1,2]",
        struct.pack(">II", 4, 0) + b"nope",
        struct.pack(">II", 1 << 30, 0),
        struct.pack(">II", 2, 1 << 31) + b"{}",
        struct.pack(">II", 20, 0) + b"{",
        b"\x00",
    ],
)
def test_what_is_no_message_is_an_error(raw: bytes, pair: tuple[socket.socket, socket.socket]) -> None:
    pair[0].sendall(raw)
    pair[0].shutdown(socket.SHUT_WR)
    with pytest.raises(wire.WireError):
        wire.receive(pair[1])


def test_a_page_is_rendered_true_to_size() -> None:
    for stock in (A4, LETTER):
        marks = marks_for(stock, MarkSettings())
        page, k = render_page(write_print_pdf(stock, marks, MarkSettings(), [], {}))
        assert k == pytest.approx(300 / 25.4)
        assert page.shape[1] == pytest.approx(stock.width_mm * k, abs=0.6)
        mark = marks[3]
        x, y = int(mark.x_mm * k), int(mark.y_mm * k)
        part = 255 - page[y - 50 : y + 50, x - 50 : x + 50].min(axis=2).astype(float)
        rows, columns = np.mgrid[y - 50 : y + 50, x - 50 : x + 50] + 0.5
        centre = np.array([(columns * part).sum(), (rows * part).sum()]) / part.sum() / k
        assert centre == pytest.approx((mark.x_mm, mark.y_mm), abs=0.01)


@pytest.mark.long
def test_printers_are_off_by_little_each_in_its_own_way() -> None:
    faults = []
    for seed in range(20):
        printer = Printer(seed)
        _, _, first = printer.print_page(PAGE)
        _, _, second = printer.print_page(PAGE)
        assert (first.scale_x, first.scale_y) == (second.scale_x, second.scale_y)  # the device's own
        assert first.turn_deg != second.turn_deg  # the sheet's own
        assert max(abs(first.scale_x), abs(first.scale_y)) <= 0.002
        assert abs(first.turn_deg) <= 0.15
        faults.append((first.scale_x, first.scale_y))
    assert len(set(faults)) == 20


def test_registration_finds_what_printer_and_loading_did() -> None:
    with stand_ins(seed=12) as machines:
        printed = print_pdf(machines.printer, PAGE)
        with open_plotter(machines.plotter, "hpgl") as plotter:
            plotter.load(printed)
            found = sense_marks(MARKS, MarkSettings(), nominal(A4.height_mm, (20, 20)), plotter.look)
    fit = register([(m.x_mm, m.y_mm) for m in MARKS], [(f.x_mm, f.y_mm) for f in found])
    fault = Printer(12).print_page(PAGE)[2]
    told = fit.describe()
    assert told["scale_x_pct"] == pytest.approx(fault.scale_x * 100, abs=0.02)
    assert told["scale_y_pct"] == pytest.approx(fault.scale_y * 100, abs=0.02)
    assert abs(told["skew_deg"]) < 0.02
    assert abs(told["turn_deg"]) <= 1.2
    assert fit.residual_mm < 0.05


def test_the_plotter_reports_errors_and_goes_on() -> None:
    with stand_ins(seed=1) as machines, open_plotter(machines.plotter, "hpgl") as plotter:
        plotter.send("IN;SP1;PU400,400;")
        with pytest.raises(DeviceError, match="error 6"):
            plotter.send("PD999999,0;")
        plotter.send("PD800,400;PU;")
        done = plotter.unload()
    assert len(done.strokes) == 1
    assert done.pens == [1]
    assert done.seconds > 0


def test_a_tray_that_gets_rubbish_says_so_and_goes_on() -> None:
    with stand_ins(seed=1) as machines, open_plotter(machines.plotter, "hpgl") as plotter:
        with pytest.raises(DeviceError, match="not a picture"):
            plotter.load(PrintedSheet(b"rubbish", 10))
        with pytest.raises(DeviceError, match="knows hold"):
            plotter._ask({"ask": "coffee"})
        with pytest.raises(DeviceError, match="not understood"):
            plotter._ask({"ask": "sense", "x_mm": "left"})
        view = plotter.look(50, 50)
    assert view.grey.shape == (161, 161)
    assert view.grey.mean() < 128  # no sheet: the plate is dark


def test_a_device_that_is_off_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(address, "PATIENCE_S", 0.1)
    nowhere = "wire://127.0.0.1:9?tray=9"
    with pytest.raises(DeviceError, match="printer does not answer"):
        print_pdf(nowhere, PAGE)
    with pytest.raises(DeviceError, match="plotter does not answer"), open_plotter(nowhere, "hpgl"):
        pass


def test_a_device_that_comes_back_in_time_is_waited_for() -> None:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]

    def later() -> None:
        with socket.create_server(("127.0.0.1", port)) as server:
            peer, _ = server.accept()
            with peer:
                wire.receive(peer)
                wire.send(peer, {"px_per_mm": 10}, b"sheet")

    thread = threading.Timer(0.5, later)
    thread.start()
    assert print_pdf(f"wire://127.0.0.1:{port}", PAGE) == PrintedSheet(b"sheet", 10)
    thread.join()


def test_the_printer_s_refusal_is_passed_on() -> None:
    with stand_ins(seed=1) as machines, pytest.raises(DeviceError, match="not a PDF"):
        print_pdf(machines.printer, b"hello")


def test_cuts_are_drawn_where_they_were_made() -> None:
    sheet = np.full((200, 200, 3), 255, np.uint8)
    line = np.array([[5.0, 5.0], [15.0, 5.0]])
    drawn = draw_cuts(sheet, 10.0, [line], [1])
    marked = np.argwhere(drawn.min(axis=2) < 250)
    assert marked[:, 0].mean() == pytest.approx(49.5, abs=0.6)
    assert (marked[:, 1].min(), marked[:, 1].max()) == pytest.approx((50, 150), abs=4)
    with pytest.raises(ValueError, match="not a picture"):
        decode_sheet(b"rubbish")


def test_a_plotter_serves_one_run_at_a_time() -> None:
    with stand_ins(seed=1) as machines:
        with open_plotter(machines.plotter, "hpgl") as first:
            for _ in range(3):
                with pytest.raises(DeviceBusy), open_plotter(machines.plotter, "hpgl"):
                    pass
            assert first.look(50, 50).grey.shape == (161, 161)
        with open_plotter(machines.plotter, "hpgl") as second:
            second.park()


def test_lines_of_a_stranger_are_not_taken_while_a_run_holds_the_plotter() -> None:
    with stand_ins(seed=1) as machines, open_plotter(machines.plotter, "hpgl") as plotter:
        port = int(machines.plotter.split(":")[2].split("?")[0])
        with socket.create_connection(("127.0.0.1", port), 5) as stranger:
            try:
                stranger.sendall(b"IN;SP2;PU400,400;PD8000,8000;OA;")
                assert stranger.recv(100) == b""
            except ConnectionError:
                pass
        assert plotter.unload().strokes == []


@pytest.mark.parametrize(
    ("where", "says"),
    [
        ("http://127.0.0.1:80", "no address of such a device"),
        ("wire://127.0.0.1", "no address of such a device"),
        ("wire://127.0.0.1:99999999", "no address"),
        ("nonsense", "no address of such a device"),
        ("wire://192.0.2.7:9100", "none of the networks"),
    ],
)
def test_an_address_that_is_none_or_lies_elsewhere_is_said(where: str, says: str) -> None:
    with pytest.raises(DeviceError, match=says):
        print_pdf(where, PAGE)


def test_a_sheet_too_large_for_the_plate_is_refused_by_its_header() -> None:
    header = b"\x89PNG\r\n\x1a\n" + struct.pack(">I4sII", 13, b"IHDR", 60_000, 60_000) + b"\0" * 20
    refused = pytest.raises(DeviceError, match="larger than the plate of 345 × 490 mm")
    with stand_ins(seed=1) as machines, open_plotter(machines.plotter, "hpgl") as plotter, refused:
        plotter.load(PrintedSheet(header, 10.0))
