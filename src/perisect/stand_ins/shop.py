"""Stand-ins for the machines of a shop, each of its own kind and size."""

import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from socketserver import BaseServer
from zlib import crc32

from perisect.core.sheet.shop_records import (
    EXAMPLE_PLOTTERS,
    EXAMPLE_PRINTERS,
    PlotterRecord,
    PrinterRecord,
)
from perisect.stand_ins.plotter import Plate
from perisect.stand_ins.plotter_faults import PLOTTER_FAULTS
from perisect.stand_ins.plotter_server import PlotterServer
from perisect.stand_ins.plotter_truth import WELL, truth_of
from perisect.stand_ins.printer_faults import PRINTER_FAULTS
from perisect.stand_ins.printer_server import PrinterServer

FAULTS = (*PRINTER_FAULTS, *PLOTTER_FAULTS)
BESIDE_MM = 20.0
"""Plate beyond what the plotter takes, on each side."""


@dataclass(frozen=True)
class StandIns:
    """Addresses by the machines' ids."""

    printers: dict[str, str]
    plotters: dict[str, str]

    @property
    def printer(self) -> str:
        """The first printer's."""
        return next(iter(self.printers.values()))

    @property
    def plotter(self) -> str:
        """The first plotter's."""
        return next(iter(self.plotters.values()))


def plate_of(record: PlotterRecord) -> Plate:
    """The plate of a plotter with these numbers."""
    right = max(record.cutting_width_mm, record.mat_width_mm) + record.corner_x_mm + BESIDE_MM
    return Plate(
        width_mm=right,
        height_mm=record.longest_mm + record.corner_y_mm + BESIDE_MM,
        corner_mm=(record.corner_x_mm, record.corner_y_mm),
        blade_offset_mm=max(record.knife_offset_mm, 0.01),
        force=record.force,
    )


def seed_of(seed: int, machine_id: str) -> int:
    """Machines of one shop are off in ways of their own; the first of the examples as the shop's seed says."""
    return seed if machine_id == "desk" else (seed + crc32(machine_id.encode())) % 2**31


@contextmanager
def stand_ins(
    seed: int,
    printers: Sequence[PrinterRecord] = EXAMPLE_PRINTERS,
    plotters: Sequence[PlotterRecord] = EXAMPLE_PLOTTERS,
    time_factor: float = float("inf"),
    fault: str | None = None,
    lines: int = 0,
    worn: bool = False,
) -> Iterator[StandIns]:
    """Machines on free ports, served by threads of this process, in simulated time only unless told otherwise.

    Args:
        fault: what goes wrong, a name of `FAULTS`; None for machines that are well.
        lines: of the run that a fault of the plotter's line ends.
        worn: whether the plotters were used for some years.
    """
    printing = {
        each.id: PrinterServer(
            seed_of(seed, each.id),
            (each.widest_mm, each.longest_mm),
            fault=fault if fault in PRINTER_FAULTS else None,
        )
        for each in printers
    }
    cutting = {
        each.id: PlotterServer(
            seed_of(seed, each.id),
            time_factor,
            plate_of(each),
            fault=fault if fault in PLOTTER_FAULTS else None,
            lines=lines,
            truth=truth_of(seed_of(seed, each.id)) if worn else WELL,
        )
        for each in plotters
    }
    servers: list[BaseServer] = [each.server for each in printing.values()]
    servers += [server for each in cutting.values() for server in (each.lines, each.tray)]
    for server in servers:
        threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True).start()
    try:
        yield StandIns(
            {key: server.address for key, server in printing.items()},
            {key: server.address for key, server in cutting.items()},
        )
    finally:
        for server in servers:
            server.shutdown()
            server.server_close()
