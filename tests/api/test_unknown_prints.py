"""A print of which nobody knows whether it came out: never failed, never printed again without a look."""

import io
import socket
import struct
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any

import httpx
import numpy as np
import pytest
from PIL import Image

from perisect.devices import paper_printers, wire, wire_printer
from perisect.devices.errors import DeviceError
from perisect.devices.open import open_plotter, print_pdf
from perisect.services import printing
from perisect.store import blobs
from tests.api.test_print_and_cut_api import at_address

Work = Callable[[], None]


@contextmanager
def device(answers: Callable[[socket.socket], None]) -> Iterator[int]:
    """A device at a port of loopback, which does what is given with each connection."""
    with socket.create_server(("127.0.0.1", 0)) as server:

        def serve() -> None:
            while True:
                try:
                    peer, _ = server.accept()
                except OSError:
                    return
                threading.Thread(target=once, args=(peer,), daemon=True).start()

        def once(peer: socket.socket) -> None:
            with peer:
                try:
                    answers(peer)
                except OSError:
                    pass

        threading.Thread(target=serve, daemon=True).start()
        yield server.getsockname()[1]


def drip(peer: socket.socket) -> None:
    """A byte every tenth of a second, for ever."""
    while True:
        peer.sendall(b"\0")
        time.sleep(0.1)


def drip_http(peer: socket.socket) -> None:
    peer.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 100000\r\n\r\n")
    drip(peer)


def showing(png: bytes, head: bytes = b'{"px_per_mm": 10}') -> Callable[[socket.socket], None]:
    """A printer that prints whatever it is sent and shows this."""

    def answer(peer: socket.socket) -> None:
        wire.receive(peer)
        peer.sendall(struct.pack(">II", len(head), len(png)) + head + png)

    return answer


@pytest.mark.parametrize(("scheme", "drips"), [("wire", drip), ("ipp", drip_http)])
def test_a_printer_that_drips_is_ended(scheme: str, drips: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(wire_printer, "MAX_PRINT_S", 0.8)
    monkeypatch.setattr(paper_printers, "MAX_PRINT_S", 0.8)
    began = time.monotonic()
    with device(drips) as port, pytest.raises(DeviceError) as told:
        print_pdf(f"{scheme}://127.0.0.1:{port}", b"%PDF-1.7")
    assert told.value.began
    assert 0.7 < time.monotonic() - began < 3


def test_a_plotter_that_drips_is_ended(monkeypatch: pytest.MonkeyPatch) -> None:
    from perisect.devices import wire_plotter

    monkeypatch.setattr(wire_plotter, "TIMEOUT_S", 0.8)
    began = time.monotonic()
    with (
        device(drip) as port,
        pytest.raises(DeviceError, match="stopped answering"),
        open_plotter(f"wire://127.0.0.1:{port}?tray={port}", "hpgl"),
    ):
        pass
    assert time.monotonic() - began < 3


def test_a_printer_that_is_away_has_begun_nothing() -> None:
    from perisect.devices import address

    patience, address.PATIENCE_S = address.PATIENCE_S, 0.1
    try:
        for at in ("wire://127.0.0.1:9", "socket://127.0.0.1:9", "ipp://127.0.0.1:9"):
            with pytest.raises(DeviceError) as told:
                print_pdf(at, b"%PDF-1.7")
            assert not told.value.began
    finally:
        address.PATIENCE_S = patience


def asked(api: httpx.Client, job: dict) -> dict[str, Any]:
    found: dict[str, Any] = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    return found


def test_a_print_that_hangs_is_given_up_and_answered(api: httpx.Client, work: Work, job: dict) -> None:
    stop = threading.Event()

    def hang(peer: socket.socket) -> None:
        stop.wait(60)

    with device(hang) as port, at_address("printer", "desk", f"wire://127.0.0.1:{port}"):
        sheet = asked(api, job)
        prints = f"/api/prints/{sheet['id']}"
        worker = threading.Thread(target=work)
        worker.start()
        try:
            while api.get(prints).json()["state"] != "printing":
                time.sleep(0.05)
            assert api.post(f"{prints}/cancel").status_code == 409
            given_up = api.post(f"{prints}/give-up").json()
            assert given_up["state"] == "unknown"
            assert "Look at the printer" in given_up["message"]
            # It is not printed again with the rest, and not cut, before somebody looked.
            assert api.post(f"/api/jobs/{job['id']}/prints/rest").json() == []
            assert api.post(f"{prints}/cuts").status_code == 409
            assert api.post(f"{prints}/printed").json()["state"] == "printed"
            assert api.post(f"{prints}/not-printed").status_code == 409
        finally:
            stop.set()
            worker.join(30)
    # What the worker says in the end is not news any more.
    assert api.get(prints).json()["state"] == "printed"
    assert api.get(f"{prints}/printed.png").status_code == 200


def test_a_sheet_that_did_not_come_out_is_asked_for_again(api: httpx.Client, work: Work, job: dict) -> None:
    with device(lambda peer: None) as port, at_address("printer", "desk", f"wire://127.0.0.1:{port}"):
        sheet = asked(api, job)
        work()
    prints = f"/api/prints/{sheet['id']}"
    told = api.get(prints).json()
    assert (told["state"], "not known" in told["message"]) == ("unknown", True)
    assert api.post(f"{prints}/not-printed").json()["state"] == "failed"
    assert api.post(f"{prints}/printed").status_code == 409
    assert len(api.post(f"/api/jobs/{job['id']}/prints/rest").json()) == 1
    work()


def test_a_disk_that_fills_up_while_it_prints_leaves_it_unknown(
    api: httpx.Client, work: Work, job: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> None:
        raise blobs.DiskFull

    monkeypatch.setattr(printing, "_keep", full)
    sheet = asked(api, job)
    work()
    told = api.get(f"/api/prints/{sheet['id']}").json()
    assert told["state"] == "unknown"
    assert "disk was full" in told["message"]
    monkeypatch.undo()
    # On paper it is as good as any: it can be cut once somebody has looked.
    assert api.post(f"/api/prints/{sheet['id']}/printed").json()["state"] == "printed"
    assert api.post(f"/api/prints/{sheet['id']}/cuts").status_code == 202
    work()


def bomb() -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.zeros((20_000, 20_000), np.uint8)).save(file, "PNG")
    return file.getvalue()


@pytest.mark.parametrize("shown", [bomb, lambda: b"GIF89a", lambda: b""])
def test_what_is_no_picture_of_a_sheet_is_not_used(
    shown: Callable[[], bytes], api: httpx.Client, work: Work, job: dict
) -> None:
    with device(showing(shown())) as port, at_address("printer", "desk", f"wire://127.0.0.1:{port}"):
        sheet = asked(api, job)
        work()
    told = api.get(f"/api/prints/{sheet['id']}").json()
    assert told["state"] == "printed"
    # The sheet as drawn stands for the one that nobody saw.
    png = api.get(f"/api/prints/{sheet['id']}/printed.png").content
    assert Image.open(io.BytesIO(png)).size[0] < 20_000


@pytest.mark.parametrize("head", [b"{}", b'{"px_per_mm": "x"}', b'{"px_per_mm": 1e400}', b'{"px_per_mm": 0}'])
def test_an_answer_that_says_nothing_leaves_it_unknown(head: bytes) -> None:
    with device(showing(b"", head)) as port, pytest.raises(DeviceError) as told:
        print_pdf(f"wire://127.0.0.1:{port}", b"%PDF-1.7")
    assert told.value.began


def test_of_cancel_and_printed_one_wins_and_the_other_is_told(api: httpx.Client, job: dict) -> None:
    for _ in range(4):
        out = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1, "way": "own"}).json()
        paths = [f"/api/prints/{out['id']}/{act}" for act in ("cancel", "printed") * 4]
        with ThreadPoolExecutor(8) as crowd:
            answers = list(crowd.map(api.post, paths))
        state = api.get(f"/api/prints/{out['id']}").json()["state"]
        won = {"printed": "printed", "cancelled": "cancel"}[state]
        assert all((each.status_code == 200) == each.url.path.endswith(won) for each in answers)
        assert {each.status_code for each in answers} == {200, 409}


def test_a_cut_that_lost_its_picture_is_measured_by_ruler(
    api: httpx.Client, work: Work, job: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    from perisect.services import cutting

    def full(*_: object) -> None:
        raise blobs.DiskFull

    sheet = asked(api, job)
    work()
    monkeypatch.setattr(cutting, "measured", full)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    path = f"/api/runs/{run['id']}"
    done = api.get(path).json()
    assert (done["state"], done["slips"], done["has_picture"]) == ("done", None, False)
    assert "from a scan or by ruler" in done["message"]
    # A millimetre more white on the left than on the right is half a millimetre of slip.
    white = {"left_mm": 2.5, "right_mm": 1.5, "top_mm": 2.0, "bottom_mm": 2.0}
    readings = [{"sticker": number, **white} for number in api.get(f"{path}/ruler").json()]
    read = api.post(f"{path}/ruler", json={"readings": readings}).json()
    assert read["measured_by"] == "ruler"
    assert [slip["slip_mm"] for slip in read["slips"]] == [pytest.approx(0.5, abs=0.01)] * 2
