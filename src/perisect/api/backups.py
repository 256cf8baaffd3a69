"""Everything comes and goes: the shop in one file, a job as a zip, every table as CSV, and what nobody needs."""

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Literal

from fastapi import APIRouter, UploadFile
from fastapi.responses import FileResponse, StreamingResponse
from pydantic import BaseModel
from starlette.background import BackgroundTask

from perisect.api.problems import Problem
from perisect.services import retention
from perisect.services.backup import BackupError, restore, write_backup
from perisect.services.job_zip import job_zip
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


class RestoredView(BaseModel):
    """What was put back."""

    rows: int
    files: int


class LeftOverView(BaseModel):
    """Files that nothing refers to any more, by why; nothing is removed by looking."""

    files: int
    bytes: int
    why: dict[str, int]


@router.get("/shop/backup.zip", response_class=FileResponse)
def get_backup() -> FileResponse:
    """The whole shop as one file, as it is now, while others work."""
    with tempfile.NamedTemporaryFile(suffix=".zip", delete=False) as file:
        path = Path(file.name)
    try:
        write_backup(path)
    except OSError as error:
        path.unlink(missing_ok=True)
        raise Problem(507, "The disk is full.", "Make room for a backup, then try again.") from error
    return FileResponse(
        path, media_type="application/zip", filename="shop.zip", background=BackgroundTask(path.unlink, True)
    )


@router.post("/shop/restore")
def post_restore(file: UploadFile) -> RestoredView:
    """Put a backup into an empty shop; a shop that has anything stays as it is."""
    try:
        made = restore(file.file)
    except BackupError as error:
        raise Problem(422, "This backup is not put back.", str(error)) from error
    return RestoredView(rows=made.rows, files=made.blobs)


@router.get("/jobs/{job_id}/job.zip", response_class=StreamingResponse)
def get_job_zip(job_id: int) -> StreamingResponse:
    """A job as one open zip: pictures, recipe, files of its sheets, log."""
    file = job_zip(job_id)

    def blocks() -> Iterator[bytes]:
        with file:
            while block := file.read(BLOCK):
                yield block

    name = {"Content-Disposition": f'attachment; filename="job-{job_id}.zip"'}
    return StreamingResponse(blocks(), media_type="application/zip", headers=name)


@router.get("/tables/{table}.csv", response_class=StreamingResponse)
def get_csv(table: TableName) -> StreamingResponse:
    """A table of the shop as CSV with its column names, for spreadsheets."""

    def rows() -> Iterator[bytes]:
        with dump.connection() as connection:
            dump.begin_snapshot(connection)
            yield from dump.for_spreadsheets(dump.csv_of(connection, table))

    name = {"Content-Disposition": f'attachment; filename="{table}.csv"'}
    return StreamingResponse(rows(), media_type="text/csv; charset=utf-8", headers=name)


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
