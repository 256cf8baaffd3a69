"""Which driver an address and a language ask for."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager

from perisect.devices.address import LOOPBACK
from perisect.devices.errors import BadAddress, DeviceError
from perisect.devices.hpgl import Hpgl
from perisect.devices.paper_printers import IppPrinter, QueuePrinter, SocketPrinter
from perisect.devices.plain_plotter import check_line, plain_plotter
from perisect.devices.protocols import PlotterDriver, PlotterLanguage, PrintedSheet, PrinterDriver
from perisect.devices.wire_plotter import ports_of, wire_plotter
from perisect.devices.wire_printer import WirePrinter

PRINTERS: dict[str, Callable[[str, Sequence[str]], PrinterDriver]] = {
    "wire": WirePrinter,
    "socket": SocketPrinter,
    "ipp": IppPrinter,
    "lp": QueuePrinter,
}
"""Drivers by the scheme of the address."""

PLOTTERS: dict[
    str, Callable[[str, PlotterLanguage, Sequence[str]], AbstractContextManager[PlotterDriver]]
] = {"wire": wire_plotter, "socket": plain_plotter, "serial": plain_plotter}

LANGUAGES: dict[str, PlotterLanguage] = {language.name: language for language in (Hpgl(),)}


def print_pdf(address: str, pdf: bytes, allowed: Sequence[str] = LOOPBACK) -> PrintedSheet | None:
    """Print one page at a printer; what came out where the printer shows it.

    Raises:
        DeviceError: no such printer, or it refuses.
    """
    try:
        return _printer(address, allowed).print(pdf)
    except BadAddress as error:
        raise DeviceError(f"The printer cannot be reached. {error}") from error


def _printer(address: str, allowed: Sequence[str]) -> PrinterDriver:
    driver = PRINTERS.get(address.partition(":")[0])
    if driver is None:
        raise BadAddress(
            f"{address[:80]} is no address of such a device. Give it as socket://host:9100, ipp://host/path, "
            "lp:NAME or wire://host:port."
        )
    return driver(address, allowed)


@contextmanager
def open_plotter(address: str, language: str, allowed: Sequence[str] = LOOPBACK) -> Iterator[PlotterDriver]:
    """Hold a plotter for one run.

    Raises:
        DeviceError: no such plotter, it is off, or another run has it.
    """
    try:
        spoken = LANGUAGES.get(language)
        if spoken is None:
            raise BadAddress(f"No driver speaks {language}.")
        link = _plotter(address)(address, spoken, allowed)
        with link as plotter:
            yield plotter
    except BadAddress as error:
        raise DeviceError(f"The plotter cannot be reached. {error}") from error


def _plotter(
    address: str,
) -> Callable[[str, PlotterLanguage, Sequence[str]], AbstractContextManager[PlotterDriver]]:
    driver = PLOTTERS.get(address.partition(":")[0])
    if driver is None:
        raise BadAddress(
            f"{address[:80]} is no address of a plotter. Give it as socket://host:port, serial:///dev/ttyUSB0 or "
            "wire://host:port?tray=port."
        )
    return driver


def check_address(kind: str, address: str, language: str = "hpgl") -> None:
    """Whether a driver knows an address and a language; nothing is connected.

    Raises:
        BadAddress: none does.
    """
    if kind == "plotter":
        if _plotter(address) is plain_plotter:
            check_line(address)
        else:
            ports_of(address)
        if language not in LANGUAGES:
            raise BadAddress(f"No driver speaks {language}. Known are {', '.join(sorted(LANGUAGES))}.")
    else:
        _printer(address, ())
