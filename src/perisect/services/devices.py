"""Where the shop's devices are."""

from dataclasses import dataclass

from perisect.core.sheet.shop_records import Kind, PlotterRecord, PrinterRecord
from perisect.devices.errors import DeviceError
from perisect.devices.reach import check_reach, try_reach
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
            return PrinterAt(record, _there(equipment.address_of(session, "printer", record), record))
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
            return PlotterAt(record, _there(equipment.address_of(session, "plotter", record), record))
    except equipment.UnknownEquipment as error:
        raise DeviceError(
            "The shop no longer has the plotter of this job. Choose another one at the Sheet station."
        ) from error


def _there(address: str, record: PrinterRecord | PlotterRecord) -> str:
    if address:
        return address
    if record.simulated:
        raise DeviceError(
            f"{record.name} has no address, and no simulated machine stands in for it. Start Perisect with its "
            "simulated machines, or give the address in the shop."
        )
    instead = (
        "print by your own dialog" if isinstance(record, PrinterRecord) else "take the cut file at Print"
    )
    raise DeviceError(
        f"{record.name} has no address yet. Give it under Stocks and machines, or {instead}.",
    )


def allowed() -> tuple[str, ...]:
    """Networks that devices may be in."""
    return settings().networks


def check_device(kind: Kind, address: str, language: str = "hpgl") -> list[tuple[str, int]]:
    """Check that an address is one that a device of this shop may have.

    Returns:
        Numeric hosts and ports that it is reached at.

    Raises:
        BadAddress: it is not; the text says what to do.
    """
    return check_reach(kind, address, language, allowed(), settings().own_ports)


def try_device(kind: Kind, address: str, language: str = "hpgl") -> str | None:
    """Try whether a device answers at an address; None where it does, else what is wrong.

    Raises:
        BadAddress: it is no address of a device of this shop.
    """
    return try_reach(kind, address, check_device(kind, address, language))
