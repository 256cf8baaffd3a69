"""Station 4: print files, and sheets sent to a printer."""

from dataclasses import asdict
from typing import Annotated, Literal

from fastapi import APIRouter, Path, Query, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.api.sheet_views import LineTotalView, line_totals_view
from perisect.api.views import PrintView, print_view
from perisect.core.job.area_plates import area_plates
from perisect.core.job.files import CUT_MEDIA_TYPES, CutKind
from perisect.core.prepress.margin_note import NoteImpossible
from perisect.core.prepress.plates import write_plates_pdf
from perisect.core.prepress.plates_check import plates_in
from perisect.services import shop, stockroom
from perisect.services.handing_out import (
    NotOut,
    handed_out,
    handed_out_together,
    package,
    printed_picture,
    say_printed,
)
from perisect.services.job_view import waiting_prints
from perisect.services.plans import plan
from perisect.services.print_files import PrintNote, noted_pdf
from perisect.services.printing import (
    MOST_AT_ONCE,
    Copies,
    TooManyPrints,
    ask_for_prints,
    ask_for_rest,
    nested_with_sheet,
)
from perisect.store import blobs, jobs, prints, scales, tones
from perisect.store.database import transaction
from perisect.store.models import Print
from perisect.store.prints import Way
from perisect.store.tones import ToneKey

router = APIRouter(tags=["print"])
NOT_OUT = {"cancelled": "This print was cancelled.", "spoiled": "This sheet is marked as spoiled."}
HAS_BEGUN = ("This print has begun already.", "Stop it at the printer, or stop waiting for it here.")
NOT_CANCELLED = {
    "printed": ("This sheet is printed already.", "Say that it is spoiled if it is of no use."),
    "unknown": ("The printer had this sheet.", "Look at the printer, then say whether it came out."),
    "spoiled": ("This sheet is marked as spoiled.", "There is nothing to undo."),
    "failed": ("This print has failed already.", "There is nothing to undo."),
}
"""Title and detail for a print that ended otherwise first."""


Name = Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f\x7f]*\S[^\x00-\x1f\x7f]*$")]


PrintNumber = Annotated[int | None, Query(alias="print", ge=1, le=2**31 - 1)]
"""A print of the job, whose stock and film count."""


class PrintOrder(BaseModel):
    """Which sheet (from 1), and how it comes to paper."""

    sheet: Annotated[int, Field(ge=1, le=100_000)] = 1
    way: Way = "link"


class CopiesOrder(BaseModel):
    """Sheets from `first` to `last` (from 1), each `copies` times; with names a copy for each name, written in its
    margin."""

    first: Annotated[int, Field(ge=1, le=100_000)] = 1
    last: Annotated[int, Field(ge=1, le=100_000)] = 1
    copies: Annotated[int, Field(ge=1, le=MOST_AT_ONCE)] = 1
    names: Annotated[list[Name], Field(max_length=MOST_AT_ONCE)] = []
    way: Way = "link"


Spoiled = Literal["poor print", "thrown away", "cut twice", "wrong side"]


class SpoiledSheet(BaseModel):
    """What became of a printed sheet."""

    why: Spoiled = "thrown away"


@router.get("/api/jobs/{job_id}/sheets/{number}/print.pdf", response_class=Response)
def get_print_file(job_id: int, number: int) -> Response:
    """The print file of a sheet (from 1)."""
    planned = nested_with_sheet(job_id, number)
    with transaction() as session:
        sheet = planned.plan.recipe.sheet
        tone, scale = tones.get(session, ToneKey.of(sheet)).tone, scales.get(session, sheet)
        title = jobs.get(session, job_id).title
    note = PrintNote(f"job {job_id}, {title}")
    pdf = noted_pdf(planned, number - 1, [note], tone, scale)
    return _download(pdf, "application/pdf", f"job-{job_id}-sheet-{number:02d}.print.pdf")


@router.get("/api/jobs/{job_id}/sheets/{number}/cut.{kind}", response_class=Response)
def get_cut_file(job_id: int, number: int, kind: CutKind) -> Response:
    """A cut file of a sheet (from 1)."""
    data = nested_with_sheet(job_id, number).cut_files.file(kind, number - 1)
    return _download(data, CUT_MEDIA_TYPES[kind], f"job-{job_id}-sheet-{number:02d}.cut.{kind}")


class FoundPlate(BaseModel):
    """A separation that a file holds: how many lines or areas, how long all lines, and what its areas cover."""

    name: str
    objects: int
    length_mm: float
    area_mm2: float


def _plates_pdf(job_id: int, number: int) -> bytes:
    planned = nested_with_sheet(job_id, number)
    with transaction() as session:
        plates, areas = shop.get_plates(session), shop.get_area_plates(session)
    if not plates and not areas:
        raise Problem(
            409, "No kind of line has a plate yet.", "Name the plates that your RIP knows, at Print."
        )
    drawn = area_plates(planned.plan, number - 1, areas)
    return write_plates_pdf(planned.cut_files.in_order(number - 1), plates, drawn)


@router.get("/api/jobs/{job_id}/sheets/{number}/plates.pdf", response_class=Response)
def get_plates_file(job_id: int, number: int) -> Response:
    """The lines of a sheet (from 1) as named separations."""
    return _download(
        _plates_pdf(job_id, number), "application/pdf", f"job-{job_id}-sheet-{number:02d}.plates.pdf"
    )


@router.get("/api/jobs/{job_id}/sheets/{number}/plates")
def get_plates(job_id: int, number: int) -> list[FoundPlate]:
    """The plates that the file of a sheet (from 1) really holds, read back from it."""
    found = plates_in(_plates_pdf(job_id, number))
    return [FoundPlate(**asdict(f)) for f in found]


@router.get("/api/jobs/{job_id}/sheets/{number}/lines")
def get_line_totals(job_id: int, number: int) -> list[LineTotalView]:
    """Count and length of a sheet's lines by process, in the order they are cut."""
    return line_totals_view(nested_with_sheet(job_id, number), number - 1)


@router.post("/api/jobs/{job_id}/prints", status_code=202)
async def post_print(job_id: int, order: PrintOrder) -> PrintView:
    """Send a sheet to its printer, or hand its file out to whoever prints it."""

    def ask() -> PrintView:
        (print_,) = _asked(job_id, Copies(order.sheet, order.sheet), order.way)
        return print_

    return await run_in_threadpool(ask)


@router.post("/api/jobs/{job_id}/prints/copies", status_code=202)
def post_copies(job_id: int, order: CopiesOrder) -> list[PrintView]:
    """Print a range of sheets so many times, or once for each name."""
    names = tuple(name.strip() for name in order.names)
    return _asked(job_id, Copies(order.first, order.last, order.copies, names), order.way)


def _asked(job_id: int, copies: Copies, way: Way) -> list[PrintView]:
    try:
        made, planned = ask_for_prints(job_id, copies, way)
    except NoteImpossible as error:
        raise Problem(422, "This name cannot be printed.", str(error)) from error
    except TooManyPrints as error:
        raise Problem(
            422, f"{error.many} prints are too many at once.", f"Ask for {MOST_AT_ONCE} at most."
        ) from error
    with transaction() as session:
        return [print_view(queued, planned.made_key) for queued in waiting_prints(session, made)]


@router.post("/api/jobs/{job_id}/prints/rest", status_code=202)
def post_rest_of_prints(job_id: int) -> list[PrintView]:
    """Send every sheet that is not printed yet to its printer."""
    made, planned = ask_for_rest(job_id)
    with transaction() as session:
        return [print_view(queued, planned.made_key) for queued in waiting_prints(session, made)]


@router.post("/api/prints/{print_id}/spoiled")
def post_spoiled(print_id: int, spoiled: SpoiledSheet) -> PrintView:
    """Say that a printed sheet is of no use any more: it is to be printed again."""
    with transaction() as session:
        row = _there(session.get(Print, print_id))
        thrown_away = prints.spoil(session, print_id, f"You said: {spoiled.why}.")
        session.refresh(row)
        if thrown_away:
            stockroom.sheet_spoiled(session, row)
        else:
            if row.state == "printed":
                raise Problem(409, "This sheet is being cut.", "Cancel the cut first.")
            if row.state != "spoiled":
                raise Problem(409, "This sheet is not printed.", "There is nothing to throw away.")
    return get_print(print_id)


@router.post("/api/prints/{print_id}/not-spoiled")
def post_not_spoiled(print_id: int) -> PrintView:
    """Take back that a sheet is spoiled, as long as it was not printed again."""
    with transaction() as session:
        row = _there(session.get(Print, print_id))
        if prints.not_spoiled(session, print_id):
            session.refresh(row)
            stockroom.sheet_not_spoiled(session, row)
        else:
            session.refresh(row)
            if row.state != "printed":
                raise Problem(
                    409,
                    "This sheet stays spoiled.",
                    "It was printed again meanwhile, or it never was spoiled.",
                )
    return get_print(print_id)


@router.get("/api/prints/{print_id}")
def get_print(print_id: int) -> PrintView:
    """How a print stands."""
    with transaction() as session:
        row = _there(session.get(Print, print_id))
        (queued,) = waiting_prints(session, [row])
        recipe = jobs.recipe(session, jobs.get(session, row.job_id))
    return print_view(queued, plan(recipe).made_key)


@router.post("/api/prints/{print_id}/printed")
def post_printed(print_id: int) -> PrintView:
    """Say that a sheet which was handed out, or of which nobody knew, is on paper."""
    try:
        say_printed(print_id)
    except NotOut as error:
        told = NOT_OUT.get(error.state, "This print goes by the printer link.")
        raise Problem(409, told, "Download the file again, then confirm that it is printed.") from error
    return get_print(print_id)


@router.get("/api/prints/{print_id}/sheet.pdf", response_class=Response)
def get_handed_out(print_id: int) -> Response:
    """The print file as it was handed out."""
    return Response(
        handed_out(print_id), media_type="application/pdf", headers={"Content-Disposition": "inline"}
    )


@router.get("/api/batches/{batch}/sheets.pdf", response_class=Response)
def get_batch(batch: Annotated[str, Path(max_length=40)]) -> Response:
    """What was handed out together, as one file."""
    return Response(
        handed_out_together(batch), media_type="application/pdf", headers={"Content-Disposition": "inline"}
    )


@router.post("/api/batches/{batch}/printed")
def post_batch_printed(batch: Annotated[str, Path(max_length=40)]) -> list[PrintView]:
    """Say that everything of a batch that was handed out, and not taken back, is on paper."""
    with transaction() as session:
        out = [row.id for row in prints.of_batch(session, batch) if row.state == "out"]
    for print_id in out:
        try:
            say_printed(print_id)
        except NotOut:
            continue  # Taken back meanwhile.
    return [get_print(print_id) for print_id in out]


@router.get("/api/prints/{print_id}/package.zip", response_class=Response)
def get_package(print_id: int) -> Response:
    """What a print shop needs: the print file, a proof, and what to ask for."""
    return _download(package(print_id), "application/zip", f"print-{print_id}.zip")


@router.post("/api/prints/{print_id}/cancel")
def post_cancel_print(print_id: int) -> PrintView:
    """Take a print out of its queue, or take back what was handed out.

    One that the printer has begun is not stopped: see `give-up`.
    """
    with transaction() as session:
        row = _there(session.get(Print, print_id))
        if not prints.cancel(session, print_id):
            session.refresh(row)
            if row.state != "cancelled":
                raise Problem(409, *NOT_CANCELLED.get(row.state, HAS_BEGUN))
    return get_print(print_id)


@router.post("/api/prints/{print_id}/give-up")
def post_give_up(print_id: int) -> PrintView:
    """Stop waiting for a print that was begun. Whether its sheet comes out is not known then, until somebody says."""
    with transaction() as session:
        row = _there(session.get(Print, print_id))
        if not prints.give_up(session, print_id):
            session.refresh(row)
            if row.state != "unknown":
                raise Problem(409, "This print is not at the printer.", "Check its state.")
    return get_print(print_id)


@router.post("/api/prints/{print_id}/not-printed")
def post_not_printed(print_id: int) -> PrintView:
    """Say that a sheet of which nobody knew did not come out."""
    with transaction() as session:
        row = _there(session.get(Print, print_id))
        if not prints.say_not_printed(session, print_id):
            session.refresh(row)
            if row.state != "failed":
                raise Problem(409, "The result of this print is known already.", "Check its state.")
    return get_print(print_id)


@router.get("/api/prints/{print_id}/printed.png", response_class=Response)
def get_printed(print_id: int) -> Response:
    """The printed sheet."""
    found = printed_picture(print_id)
    return picture(found[0] if found else None)


def picture(name: str | None) -> Response:
    """A kept picture.

    Raises:
        Problem: there is none yet.
    """
    data = blobs.get(name) if name else None
    if data is None:
        raise Problem(404, "There is no picture of this yet.", "Wait until it is done.")
    return Response(data, media_type="image/png", headers={"Cache-Control": "private, max-age=86400"})


def _there(row: Print | None) -> Print:
    if row is None:
        raise Problem(404, "There is no such print.", "Print the sheet again.")
    return row


def _download(data: bytes, media_type: str, name: str) -> Response:
    return Response(
        data, media_type=media_type, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
