"""Everything comes and goes: the shop in one file, a job as a zip, every table as CSV, and what nobody needs."""

import subprocess
import tempfile
from collections.abc import Iterator
from typing import IO, Literal

from fastapi import APIRouter, UploadFile
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from perisect.api.problems import Problem
from perisect.api.streams import closing
from perisect.services import retention
from perisect.services.backup import BackupUnderWay, stream_backup
from perisect.services.job_zip import job_zip
from perisect.services.restore import BackupError
from perisect.services.restore_apart import RestoreFailed, restore_apart
from perisect.store import dump

router = APIRouter(prefix="/api", tags=["backup"])

TableName = Literal[
    "job",
    "print",
    "run",
    "shelf_item",
    "shelf_use",
    "customer_order",
    "order_item",
    "stock_move",
    "stock_item",
    "equipment",
    "cut_book",
    "ladder_cut",
    "print_scale",
    "setup_card",
    "head_check",
    "tone",
    "vernier_page",
    "plotter_trueing",
    "setup",
    "size_by_use",
    "step",
    "artwork",
]
BLOCK = 1 << 20
IN_MEMORY = 8 << 20


class RestoredView(BaseModel):
    """What was put back."""

    rows: int
    files: int


class LeftOverView(BaseModel):
    """Files that nothing refers to any more, by why; nothing is removed by looking."""

    files: int
    bytes: int
    why: dict[str, int]


@router.get("/shop/backup.zip", response_class=StreamingResponse)
def get_backup() -> StreamingResponse:
    """The whole shop as one file, as it is now, while others work; one at a time."""
    blocks = stream_backup()
    try:
        first = next(blocks)
    except BackupUnderWay as error:
        raise Problem(
            409, "A backup is already being made.", "Wait until it is ready, then try again.", 20
        ) from error
    name = {"Content-Disposition": 'attachment; filename="shop.zip"'}
    return StreamingResponse(closing(first, blocks), media_type="application/zip", headers=name)


@router.post("/shop/restore")
def post_restore(file: UploadFile) -> RestoredView:
    """Put a backup into an empty shop; a shop that has anything stays as it is."""
    try:
        made = restore_apart(file.file)
    except BackupError as error:
        raise Problem(422, "The backup was not restored.", str(error)) from error
    except (RestoreFailed, subprocess.TimeoutExpired) as error:
        raise Problem(
            422, "This backup cannot be read.", "Nothing was changed. Take another copy of the backup."
        ) from error
    return RestoredView(rows=made.rows, files=made.blobs)


@router.get("/jobs/{job_id}/job.zip", response_class=StreamingResponse)
def get_job_zip(job_id: int) -> StreamingResponse:
    """A job as one open zip: pictures, recipe, files of its sheets, log."""
    name = {"Content-Disposition": f'attachment; filename="job-{job_id}.zip"'}
    return StreamingResponse(_read(job_zip(job_id)), media_type="application/zip", headers=name)


@router.get("/tables/{table}.csv", response_class=StreamingResponse)
def get_csv(table: TableName) -> StreamingResponse:
    """A table of the shop as CSV with its column names, for spreadsheets."""

    # Written aside, so that the database is not held by whoever reads slowly.
    file = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115 - whoever reads it closes it
    with dump.connection() as connection:
        dump.begin_snapshot(connection)
        for row in dump.for_spreadsheets(dump.csv_of(connection, table)):
            file.write(row)
    file.seek(0)
    name = {"Content-Disposition": f'attachment; filename="{table}.csv"'}
    return StreamingResponse(_read(file), media_type="text/csv; charset=utf-8", headers=name)


def _read(file: IO[bytes]) -> Iterator[bytes]:
    with file:
        while block := file.read(BLOCK):
            yield block


@router.get("/shop/left-over")
def get_left_over() -> LeftOverView:
    """Files that nothing refers to any more."""
    return _told(retention.left_over())


@router.delete("/shop/left-over")
def delete_left_over() -> LeftOverView:
    """Remove them; what went."""
    found = retention.left_over()
    retention.remove(found)
    return _told(found)


def _told(found: list[retention.LeftOver]) -> LeftOverView:
    why: dict[str, int] = {}
    for each in found:
        why[each.why] = why.get(each.why, 0) + 1
    return LeftOverView(files=len(found), bytes=sum(each.bytes for each in found), why=why)
