"""Where the shop's devices are."""

from dataclasses import dataclass

from perisect.core.sheet.shop_records import PlotterRecord, PrinterRecord
from perisect.devices.errors import DeviceError
from perisect.store import equipment
from perisect.store.database import transaction
from perisect.store.settings import settings


@dataclass(frozen=True)
class PrinterAt:
    """A printer of the shop and its address."""

    record: PrinterRecord
    address: str


@dataclass(frozen=True)
class PlotterAt:
    """A plotter of the shop and its address."""

    record: PlotterRecord
    address: str


def printer_at(printer_id: str) -> PrinterAt:
    """The shop's printer of this id.

    Raises:
        DeviceError: the shop has none, or a simulated one does not run.
    """
    try:
        with transaction() as session:
            record = equipment.one_of(session, "printer", PrinterRecord, printer_id)
            return PrinterAt(record, _there(equipment.address_of(session, "printer", record), record.name))
    except equipment.UnknownEquipment as error:
        raise DeviceError(
            "The shop no longer has the printer of this job. Choose another one at the Sheet station."
        ) from error


def plotter_at(plotter_id: str) -> PlotterAt:
    """The shop's plotter of this id.

    Raises:
        DeviceError: the shop has none, or a simulated one does not run.
    """
    try:
        with transaction() as session:
            record = equipment.one_of(session, "plotter", PlotterRecord, plotter_id)
            return PlotterAt(record, _there(equipment.address_of(session, "plotter", record), record.name))
    except equipment.UnknownEquipment as error:
        raise DeviceError(
            "The shop no longer has the plotter of this job. Choose another one at the Sheet station."
        ) from error


def _there(address: str, name: str) -> str:
    if not address:
        raise DeviceError(
            f"{name} has no address, and no simulated machine stands in for it. Start Perisect with its simulated "
            "machines, or give the address in the shop."
        )
    return address


def allowed() -> tuple[str, ...]:
    """Networks that devices may be in."""
    return settings().networks
