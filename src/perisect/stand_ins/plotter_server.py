"""The stand-in plotter as a process: its lines on one port, its tray on another."""

import io
import socket
import socketserver
import struct
import threading
import time
from typing import Any

import cv2
import numpy as np
from PIL import Image

from perisect.devices import wire
from perisect.stand_ins.language import Language
from perisect.stand_ins.plotter import SENSOR_PX_PER_MM, Plate, Plotter
from perisect.stand_ins.plotter_faults import Trouble
from perisect.stand_ins.plotter_truth import WELL, Truth, truth_of
from perisect.stand_ins.server import Server

SLICE_S = 0.05
MOST_PX = 120_000_000
"""Pixels of the largest sheet that is laid in."""

LEAVING_S = 1.0
"""A client that has just gone is noticed within this time; whoever comes next is patient for so long."""


class _Hold:
    """Who has the plotter: the client of the lines port, and the tray's client that showed it is the same."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._lines: socket.socket | None = None
        self._tray: socket.socket | None = None

    def connect(self, lines: socket.socket) -> bool:
        """Whether a client may send lines: one at a time."""
        with self._changed:
            if not self._changed.wait_for(lambda: self._lines is None, LEAVING_S):
                return False
            self._lines = lines
            self._changed.notify_all()
            return True

    def disconnect(self, peer: socket.socket) -> None:
        """A client has gone."""
        with self._changed:
            self._lines = None if self._lines is peer else self._lines
            self._tray = None if self._tray is peer else self._tray
            self._changed.notify_all()

    def take(self, tray: socket.socket, lines_port: int) -> bool:
        """Whether a client of the tray has the plotter: nobody else has, and the lines are its own."""

        def mine() -> bool:
            return self._tray is None and self._lines is not None and _port(self._lines) == lines_port

        with self._changed:
            if self._tray is not tray:
                if not self._changed.wait_for(mine, LEAVING_S):
                    return False
                self._tray = tray
            return True

    def has(self, tray: socket.socket) -> bool:
        """Whether this client has it."""
        with self._changed:
            return self._tray is tray


def _port(peer: socket.socket) -> int:
    try:
        return int(peer.getpeername()[1])
    except OSError:
        return 0


class PlotterServer:
    """Lines on one port; loading, sensing and unloading on the next ("the tray"). One client at a time."""

    def __init__(
        self,
        seed: int,
        time_factor: float,
        plate: Plate | None = None,
        host: str = "127.0.0.1",
        port: int = 0,
        tray_port: int = 0,
        fault: str | None = None,
        lines: int = 0,
        truth: Truth = WELL,
    ) -> None:
        plotter, lock, hold = Plotter(seed, plate or Plate(), truth=truth), threading.Lock(), _Hold()
        plotter.trouble = None if fault is None else Trouble(fault, seed)
        self.plotter = plotter
        happens = _Happens(plotter, lines)

        def travel(seconds: float) -> None:
            left = seconds / time_factor
            while left > 0:
                time.sleep(min(left, SLICE_S))
                left -= SLICE_S

        class Lines(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                if not hold.connect(self.request):
                    return
                language = Language(plotter, lambda text: self.request.sendall(text.encode()), travel)
                try:
                    while data := self.request.recv(1 << 16):
                        language.feed(happens.to(data.decode("ascii", "replace")))
                        if happens.over:
                            # Switched off; whoever switches it on again finds it as ever.
                            happens.over = False
                            return
                except OSError:
                    pass
                finally:
                    plotter.lift()
                    hold.disconnect(self.request)

        class Tray(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                try:
                    while True:
                        head, body = wire.receive(self.request)
                        if head.get("ask") == "hold":
                            mine = hold.take(self.request, int(head.get("lines") or 0))
                            wire.send(self.request, {"held": True} if mine else {"error": "busy"})
                            continue
                        if not hold.has(self.request):
                            wire.send(self.request, {"error": "the plotter is held by another run"})
                            continue
                        with lock:
                            answer, reply = _tray(plotter, head, body)
                        wire.send(self.request, answer, reply)
                except (ConnectionError, OSError, ValueError, TypeError):
                    return
                finally:
                    hold.disconnect(self.request)

        self.lines = Server((host, port), Lines)
        self.tray = Server((host, tray_port), Tray)
        self.port: int = self.lines.server_address[1]
        self.tray_port: int = self.tray.server_address[1]

    @property
    def address(self) -> str:
        """Where it is."""
        return f"wire://127.0.0.1:{self.port}?tray={self.tray_port}"


class _Happens:
    """A fault of the line or the carriage, once, as far into a run's lines as the fault says.

    Args:
        lines: of the run; 0 for a machine that does not know.
    """

    def __init__(self, plotter: Plotter, lines: int) -> None:
        self._plotter, self._done, self.over = plotter, 0, False
        trouble = plotter.trouble
        self._at = -1 if trouble is None else max(1, round(trouble.share * lines))

    def to(self, text: str) -> str:
        """What of a text arrives."""
        trouble = self._plotter.trouble
        if trouble is None or self._at < 0 or "PD" not in text:
            return text
        self._done += 1
        if self._done <= self._at:
            return text
        self._at = -1
        match trouble.name:
            case "sheet-moved":
                self._plotter.slide(trouble.moved_mm)
                return text
            case "lost-bytes":
                middle = text.index("PD") + (len(text) - text.index("PD")) // 2
                return text[:middle] + text[middle + 9 :]
            case "power-cut" | "cable" | "stall":
                # Half of the line is cut; then nothing comes any more, or the carriage does not move on.
                first = text.index("PD")
                numbers = text[first + 2 : text.index(";", first)].split(",")
                half = numbers[: max(2, len(numbers) // 4 * 2)]
                self.over = trouble.name != "stall"
                after = text[text.rindex("PU;") + 3 :] if trouble.name == "stall" else ""
                return f"{text[:first]}PD{','.join(half)};PU;{after}"
            case _:
                return text


def _tray(plotter: Plotter, head: dict[str, Any], body: bytes) -> tuple[dict[str, Any], bytes]:
    """Answer one message of the tray port."""
    try:
        match head.get("ask"):
            case "load":
                refused = _refused(plotter, body, float(head["px_per_mm"]))
                if refused is not None:
                    return {"error": refused}, b""
                grey = cv2.imdecode(np.frombuffer(body, np.uint8), cv2.IMREAD_GRAYSCALE)
                if grey is None:
                    return {"error": "the sheet is not a picture"}, b""
                thick = float(head.get("face_um", 90)), float(head.get("liner_um", 80))
                again = bool(head.get("again")) and plotter.grey is not None
                plotter.load(np.asarray(grey, np.uint8), float(head["px_per_mm"]), thick, again)
                return {"loaded": True}, b""
            case "sense":
                seen = plotter.sense(float(head["x_mm"]), float(head["y_mm"]))
                return {"px_per_mm": SENSOR_PX_PER_MM, "shape": seen.shape}, seen.tobytes()
            case "photo":
                file = io.BytesIO()
                Image.fromarray(plotter.photo()).save(file, "PNG", compress_level=2)
                return {"photo": True}, file.getvalue()
            case "unload":
                strokes = plotter.unload()
                lengths = [len(stroke.tip) for stroke in strokes]
                points = np.vstack([stroke.tip for stroke in strokes]) if strokes else np.empty((0, 2))
                answer = {
                    "pens": [stroke.pen for stroke in strokes],
                    "lengths": lengths,
                    "seconds": plotter.busy_s,
                }
                return answer, points.astype("<f8").tobytes()
            case other:
                return {"error": f"the tray knows hold, load, sense, photo and unload, not {other!r}"}, b""
    except (KeyError, TypeError, ValueError, cv2.error) as error:
        return {"error": f"not understood: {error}"}, b""


def _refused(plotter: Plotter, png: bytes, px_per_mm: float) -> str | None:
    """Why a picture is not laid in, from its header alone; None when it may be read.

    A PNG's width and height stand at bytes 16 to 24 (ISO/IEC 15948, IHDR).
    """
    if png[:8] != b"\x89PNG\r\n\x1a\n" or len(png) < 24:
        return "the sheet is not a picture"
    width, height = struct.unpack(">II", png[16:24])
    if not 0 < px_per_mm < 100 or not width * height:
        return "the sheet has no size"
    width_mm, height_mm = width / px_per_mm, height / px_per_mm
    plate = plotter.plate
    if width * height > MOST_PX or width_mm > plate.width_mm or height_mm > plate.height_mm:
        return (
            f"a sheet of {width_mm:.0f} × {height_mm:.0f} mm is larger than the plate of "
            f"{plate.width_mm:g} × {plate.height_mm:g} mm"
        )
    return None


def run_plotter(seed: int, port: int, tray_port: int, time_factor: float, plate: Plate, worn: bool) -> None:
    """Serve both ports until the process ends."""
    truth = truth_of(seed) if worn else WELL
    plotter = PlotterServer(seed, time_factor, plate, port=port, tray_port=tray_port, truth=truth)
    threading.Thread(target=plotter.tray.serve_forever, daemon=True).start()
    plotter.lines.serve_forever()
