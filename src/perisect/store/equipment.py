"""Stocks, printers and plotters: the shop's own, or the examples until it has any."""

from collections.abc import Sequence
from typing import TypeVar

from pydantic import BaseModel
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from perisect.core.sheet.shop_records import (
    EXAMPLE_PLOTTERS,
    EXAMPLE_PRINTERS,
    EXAMPLE_STOCKS,
    EquipmentRecord,
    Kind,
    PlotterRecord,
    PrinterRecord,
    StockRecord,
)
from perisect.store.locks import hold
from perisect.store.models import DeviceAddress, Equipment
from perisect.store.versions import check_version, version_of

MOST = 100

KINDS: dict[Kind, tuple[type[BaseModel], tuple[EquipmentRecord, ...]]] = {
    "stock": (StockRecord, EXAMPLE_STOCKS),
    "printer": (PrinterRecord, EXAMPLE_PRINTERS),
    "plotter": (PlotterRecord, EXAMPLE_PLOTTERS),
}

T = TypeVar("T", StockRecord, PrinterRecord, PlotterRecord)


class TooMany(ValueError):
    """The shop has as many of a kind as it may."""


class LastOne(ValueError):
    """A shop without any of a kind cannot work."""


class UnknownEquipment(KeyError):
    """The shop has none of this kind and id."""

    def __init__(self, kind: str, equipment_id: str) -> None:
        super().__init__(equipment_id)
        self.kind = kind


def all_of(session: Session, kind: Kind, model: type[T]) -> list[T]:
    """All of a kind by name; the examples in their own order."""
    rows = session.scalars(select(Equipment).where(Equipment.kind == kind)).all()
    if not rows:
        return [model.model_validate(each.model_dump()) for each in KINDS[kind][1]]
    found = [model.model_validate(row.recipe) for row in rows]
    return sorted(found, key=lambda each: each.name.lower())


def one_of(session: Session, kind: Kind, model: type[T], equipment_id: str) -> T:
    """The one of this id.

    Raises:
        UnknownEquipment: there is none.
    """
    for each in all_of(session, kind, model):
        if each.id == equipment_id:
            return each
    raise UnknownEquipment(kind, equipment_id)


def save(session: Session, kind: Kind, record: BaseModel, expected: str | None = None) -> None:
    """Save one; one of the same id is replaced.

    Args:
        session: the transaction that it is saved in.
        kind: what it is.
        record: what is said of it from now on.
        expected: the version that the change was made from.

    Raises:
        TooMany: there are as many as there may be.
        StaleRecord: somebody changed it meanwhile.
    """
    _own(session, kind)
    equipment_id = str(record.model_dump()["id"])
    row = session.get(Equipment, (kind, equipment_id), populate_existing=True)
    check_version(expected, None if row is None else row.recipe)
    if row is None:
        if _count(session, kind) >= MOST:
            raise TooMany
        row = Equipment(kind=kind, id=equipment_id)
        session.add(row)
    row.recipe = record.model_dump(mode="json")
    session.flush()


def versions(session: Session) -> dict[str, str]:
    """Return the version of every stock, printer and plotter, by kind and id with a colon between."""
    rows = session.scalars(select(Equipment)).all()
    found = {f"{row.kind}:{row.id}": version_of(row.recipe) for row in rows}
    for kind, (_, examples) in KINDS.items():
        if not any(row.kind == kind for row in rows):
            found |= {f"{kind}:{each.id}": version_of(each.model_dump(mode="json")) for each in examples}
    return found


def delete(session: Session, kind: Kind, equipment_id: str) -> bool:
    """Take one away; whether there was one. Jobs that use it keep its numbers.

    Raises:
        LastOne: it is the last of its kind.
    """
    _own(session, kind)
    row = session.get(Equipment, (kind, equipment_id))
    if row is None:
        return False
    if _count(session, kind) == 1:
        raise LastOne
    session.delete(row)
    session.flush()
    return True


def has_own(session: Session) -> bool:
    """Return whether the shop has any equipment of its own."""
    return session.scalar(select(Equipment.id).limit(1)) is not None


def hold_all(session: Session) -> None:
    """Let nobody else change equipment until this transaction ends."""
    for kind in KINDS:
        hold(session, f"equipment {kind}")


def put_first(session: Session, kind: Kind, records: Sequence[EquipmentRecord]) -> None:
    """Save what a shop begins with; its examples are none of its own then."""
    session.add_all(Equipment(kind=kind, id=each.id, recipe=each.model_dump(mode="json")) for each in records)
    session.flush()


def set_simulated_address(session: Session, kind: Kind, equipment_id: str, address: str) -> None:
    """Say where the simulated machine of a record without an address listens."""
    hold(session, "device_address")
    row = session.get(DeviceAddress, (kind, equipment_id))
    if row is None:
        row = DeviceAddress(kind=kind, id=equipment_id)
        session.add(row)
    row.address = address


def address_of(session: Session, kind: Kind, record: PrinterRecord | PlotterRecord) -> str:
    """Return where a device is; empty for one that has no address, or is a simulated one that does not run."""
    return record.address or (simulated_address(session, kind, record.id) if record.simulated else "")


def simulated_address(session: Session, kind: Kind, equipment_id: str) -> str:
    """Where the simulated machine of a record listens; empty when it does not run."""
    row = session.get(DeviceAddress, (kind, equipment_id))
    return "" if row is None else row.address


def simulated_addresses(session: Session) -> dict[tuple[str, str], str]:
    """Where every simulated machine listens, by kind and id."""
    return {(row.kind, row.id): row.address for row in session.scalars(select(DeviceAddress))}


def _count(session: Session, kind: Kind) -> int:
    return session.scalar(select(func.count()).where(Equipment.kind == kind)) or 0


def _own(session: Session, kind: Kind) -> None:
    """Make the examples the shop's own before the first change; one change of a kind at a time."""
    hold(session, f"equipment {kind}")
    if not _count(session, kind):
        for each in KINDS[kind][1]:
            session.add(Equipment(kind=kind, id=each.id, recipe=each.model_dump(mode="json")))
        session.flush()
