"""Printers and plotters behind two protocols; an address is a URL, a plotter's language a name."""

from perisect.devices.errors import DeviceBusy, DeviceError
from perisect.devices.open import check_address, open_plotter, print_pdf
from perisect.devices.protocols import PlotterDriver, PrintedSheet, PrinterDriver, Unloaded

__all__ = [
    "DeviceBusy",
    "DeviceError",
    "PlotterDriver",
    "PrintedSheet",
    "PrinterDriver",
    "Unloaded",
    "check_address",
    "open_plotter",
    "print_pdf",
]
