"""How the shop's parts are: database, queue, workers, devices, disk."""

from typing import Literal

from pydantic import BaseModel
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from perisect.core.sheet.shop_records import PlotterRecord, PrinterRecord
from perisect.services.job_view import WORKER_QUIET, worker_lives
from perisect.store import blobs, equipment
from perisect.store.database import transaction
from perisect.store.settings import settings

Up = Literal["up", "down", "unknown"]
WORKERS = (
    "SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - make_interval(secs => :s)"
)


class DeviceHealth(BaseModel):
    """A device by its name, and whether it has an address. Whether it is switched on is seen when it is used."""

    kind: Literal["printer", "plotter"]
    name: str
    state: Literal["addressed", "no address"]


class Health(BaseModel):
    """The parts; `queued` is how much waits, `free_mb` the room on the disk where that is known."""

    status: Literal["up", "degraded", "down"]
    database: Up
    queue: Up
    workers: int
    queued: int
    devices: list[DeviceHealth]
    disk: Literal["room", "full", "unknown"]
    free_mb: int | None


def health() -> Health:
    """Every part as it is now."""
    free = blobs.free_bytes()
    least = settings().least_free_mb * 1_000_000
    disk: Literal["room", "full", "unknown"] = (
        "unknown" if free is None else "room" if free > least else "full"
    )
    free_mb = None if free is None else free // 1_000_000
    try:
        with transaction() as session:
            lives = worker_lives(session)
            workers = session.scalar(text(WORKERS), {"s": WORKER_QUIET.total_seconds()}) or 0
            queued = (
                session.scalar(text("SELECT count(*) FROM procrastinate_jobs WHERE status = 'todo'")) or 0
            )
            devices = _devices(session)
    except SQLAlchemyError:
        return Health(
            status="down",
            database="down",
            queue="unknown",
            workers=0,
            queued=0,
            devices=[],
            disk=disk,
            free_mb=free_mb,
        )
    good = lives and disk != "full" and all(device.state == "addressed" for device in devices)
    return Health(
        status="up" if good else "degraded",
        database="up",
        queue="up" if lives else "down",
        workers=workers,
        queued=queued,
        devices=devices,
        disk=disk,
        free_mb=free_mb,
    )


def _devices(session: Session) -> list[DeviceHealth]:
    found = []
    for printer in equipment.all_of(session, "printer", PrinterRecord):
        there = bool(equipment.address_of(session, "printer", printer))
        found.append(
            DeviceHealth(kind="printer", name=printer.name, state="addressed" if there else "no address")
        )
    for plotter in equipment.all_of(session, "plotter", PlotterRecord):
        there = bool(equipment.address_of(session, "plotter", plotter))
        found.append(
            DeviceHealth(kind="plotter", name=plotter.name, state="addressed" if there else "no address")
        )
    return found
