"""The stand-in printer as a process."""

import io
import socketserver
import threading
from dataclasses import asdict

from PIL import Image

from perisect.core.prepress.raster import RasterError
from perisect.devices import wire
from perisect.stand_ins.printer import LARGEST_MM, Printer, PrinterStopped
from perisect.stand_ins.server import Server


class PrinterServer:
    """Takes a PDF, answers with the printed sheet as PNG; one page at a time."""

    def __init__(
        self,
        seed: int,
        largest_mm: tuple[float, float] = LARGEST_MM,
        host: str = "127.0.0.1",
        port: int = 0,
        fault: str | None = None,
    ) -> None:
        printer, lock = Printer(seed, largest_mm, fault), threading.Lock()

        class Handler(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                try:
                    _, pdf = wire.receive(self.request)
                    try:
                        with lock:
                            sheet, px_per_mm, fault = printer.print_page(pdf)
                    except RasterError as error:
                        wire.send(self.request, {"error": str(error)})
                        return
                    except PrinterStopped as stopped:
                        if str(stopped) != "offline":
                            wire.send(self.request, {"trouble": str(stopped)})
                        return
                    file = io.BytesIO()
                    Image.fromarray(sheet).save(file, "PNG", compress_level=1)
                    wire.send(self.request, {"px_per_mm": px_per_mm, "fault": asdict(fault)}, file.getvalue())
                except (ConnectionError, OSError):
                    return

        self.server = Server((host, port), Handler)
        self.port: int = self.server.server_address[1]

    @property
    def address(self) -> str:
        """Where it is."""
        return f"wire://127.0.0.1:{self.port}"


def run_printer(seed: int, port: int, largest_mm: tuple[float, float], fault: str | None = None) -> None:
    """Serve until the process ends."""
    PrinterServer(seed, largest_mm, port=port, fault=fault).server.serve_forever()
