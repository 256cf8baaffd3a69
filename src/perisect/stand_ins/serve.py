"""The stand-ins as processes: sockets on loopback, one thread a connection."""

import io
import socketserver
import threading
import time
from dataclasses import asdict
from typing import Any

import cv2
import numpy as np
from PIL import Image

from perisect.stand_ins import wire
from perisect.stand_ins.language import Language
from perisect.stand_ins.plotter import SENSOR_PX_PER_MM, Plotter
from perisect.stand_ins.printer import PX_PER_MM, Printer, PrintError

SLICE_S = 0.05


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True


class PrinterServer:
    """Takes a PDF, answers with the printed sheet as PNG."""

    def __init__(self, seed: int, host: str = "127.0.0.1", port: int = 0) -> None:
        printer, lock = Printer(seed), threading.Lock()

        class Handler(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                try:
                    _, pdf = wire.receive(self.request)
                    try:
                        with lock:
                            sheet, fault = printer.print_page(pdf)
                    except PrintError as error:
                        wire.send(self.request, {"error": str(error)})
                        return
                    file = io.BytesIO()
                    Image.fromarray(sheet).save(file, "PNG", compress_level=1)
                    wire.send(self.request, {"px_per_mm": PX_PER_MM, "fault": asdict(fault)}, file.getvalue())
                except (ConnectionError, OSError):
                    return

        self.server = _Server((host, port), Handler)
        self.port: int = self.server.server_address[1]


class PlotterServer:
    """HPGL on one port; loading, sensing and unloading on the next ("the tray")."""

    def __init__(
        self, seed: int, time_factor: float, host: str = "127.0.0.1", port: int = 0, tray_port: int = 0
    ) -> None:
        plotter, lock = Plotter(seed), threading.Lock()

        def travel(seconds: float) -> None:
            left = seconds / time_factor
            while left > 0:
                time.sleep(min(left, SLICE_S))
                left -= SLICE_S

        class Lines(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                language = Language(plotter, lambda text: self.request.sendall(text.encode()), travel)
                try:
                    while data := self.request.recv(1 << 16):
                        language.feed(data.decode("ascii", "replace"))
                except OSError:
                    pass
                plotter.lift()

        class Tray(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                try:
                    while True:
                        head, body = wire.receive(self.request)
                        with lock:
                            answer, reply = _tray(plotter, head, body)
                        wire.send(self.request, answer, reply)
                except (ConnectionError, OSError):
                    return

        self.lines = _Server((host, port), Lines)
        self.tray = _Server((host, tray_port), Tray)
        self.port: int = self.lines.server_address[1]
        self.tray_port: int = self.tray.server_address[1]


def _tray(plotter: Plotter, head: dict[str, Any], body: bytes) -> tuple[dict[str, Any], bytes]:
    """Answer one message of the tray port."""
    try:
        match head.get("ask"):
            case "load":
                grey = cv2.imdecode(np.frombuffer(body, np.uint8), cv2.IMREAD_GRAYSCALE)
                if grey is None:
                    return {"error": "the sheet is not a picture"}, b""
                plotter.load(np.asarray(grey, np.uint8), float(head["px_per_mm"]))
                return {"loaded": True}, b""
            case "sense":
                seen = plotter.sense(float(head["x_mm"]), float(head["y_mm"]))
                return {"px_per_mm": SENSOR_PX_PER_MM, "shape": seen.shape}, seen.tobytes()
            case "unload":
                strokes = plotter.unload()
                lengths = [len(stroke.tip) for stroke in strokes]
                points = np.vstack([stroke.tip for stroke in strokes]) if strokes else np.empty((0, 2))
                answer = {
                    "pens": [stroke.pen for stroke in strokes],
                    "lengths": lengths,
                    "seconds": plotter.time,
                }
                return answer, points.astype("<f8").tobytes()
            case other:
                return {"error": f"the tray knows load, sense and unload, not {other!r}"}, b""
    except (KeyError, TypeError, ValueError, cv2.error) as error:
        return {"error": f"not understood: {error}"}, b""


def run_printer(seed: int, port: int) -> None:
    """Serve until the process ends."""
    PrinterServer(seed, port=port).server.serve_forever()


def run_plotter(seed: int, port: int, tray_port: int, time_factor: float) -> None:
    """Serve both ports until the process ends."""
    plotter = PlotterServer(seed, time_factor, port=port, tray_port=tray_port)
    threading.Thread(target=plotter.tray.serve_forever, daemon=True).start()
    plotter.lines.serve_forever()
