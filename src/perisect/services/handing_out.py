"""Sheets that come to paper without the printer link: handed out as a file, and said to be printed.

A print is a fact that somebody states. What was handed out is kept, so the cut follows what is on the paper whatever
becomes of the job meanwhile.
"""

import io
import zipfile

import cv2
import numpy as np

from perisect.core.job import JobRecipe
from perisect.core.job.print_order import print_order
from perisect.core.ledger.cut_picture import sheet_png
from perisect.core.prepress.raster import render_page
from perisect.services.cutting import UnknownPrint
from perisect.services.plans import Planned, plan
from perisect.services.print_files import sheet_pdf
from perisect.services.printing import nested_with_sheet, new_print
from perisect.store import blobs, jobs, prints, scales, tones
from perisect.store.database import transaction
from perisect.store.models import Print
from perisect.store.prints import Way

PROOF_EVERY = 3
"""Of the pixels of a sheet's picture, so many to one of its proof."""
ZIP_TIME = (1980, 1, 1, 0, 0, 0)
"""The earliest that a zip can hold: the same order gives the same bytes."""


class NotOut(Exception):
    """The sheet was not handed out, or what became of it was said already; the attribute is its state."""

    def __init__(self, state: str) -> None:
        super().__init__(state)
        self.state = state


def hand_out(job_id: int, number: int, way: Way) -> tuple[Print, Planned]:
    """Keep the print file of sheet `number` (from 1) for whoever prints it.

    Raises:
        UnknownJob, NoSuchSheet.
        DiskFull: there is no room.
    """
    blobs.need_room()
    planned = nested_with_sheet(job_id, number)
    with transaction() as session:
        sheet = planned.plan.recipe.sheet
        tone = tones.get(session, tones.ToneKey.of(sheet)).tone
        # A shop's printer is another one than that which was measured.
        scale = scales.get(session, sheet) if way == "own" else scales.AS_DRAWN
    pdf = sheet_pdf(planned, number - 1, tone, scale)
    with transaction() as session:
        new = new_print(session, job_id, planned, number, "out", way, tone)
        blobs.put(_file(new.id), pdf)
    return new, planned


def handed_out(print_id: int) -> bytes:
    """The print file as it was handed out.

    Raises:
        UnknownPrint: nothing was.
    """
    data = blobs.get(_file(print_id))
    if data is None:
        raise UnknownPrint(print_id)
    return data


def say_printed(print_id: int) -> None:
    """It is on paper: the sheet can be cut. Its picture is the file as drawn, for nobody scanned it.

    Raises:
        UnknownPrint.
        NotOut: it is taken back, or was never handed out.
        DiskFull.
    """
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        state = row.state
    if state == "printed":
        return
    if state != "out":
        raise NotOut(state)
    picture, px_per_mm = render_page(handed_out(print_id))
    name = blobs.put(f"prints/{print_id}/printed.png", sheet_png(picture))
    with transaction() as session:
        if not prints.say_printed(session, print_id, picture=name, px_per_mm=px_per_mm):
            state = session.get_one(Print, print_id).state
            if state != "printed":
                raise NotOut(state)


def package(print_id: int) -> bytes:
    """A zip for a print shop: the print file, a proof to look at, and what to ask for.

    Raises:
        UnknownPrint.
    """
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        recipe, number = JobRecipe.model_validate(row.recipe), row.sheet
        title = jobs.get(session, row.job_id).title
    pdf = handed_out(print_id)
    base = f"print-{print_id}-sheet-{number + 1:02d}"
    picture, _ = render_page(pdf)
    proof = cv2.resize(picture, None, fx=1 / PROOF_EVERY, fy=1 / PROOF_EVERY, interpolation=cv2.INTER_AREA)
    text = print_order(plan(recipe).plan, title, number, f"{base}.pdf")
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        for name, data in (
            (f"{base}.pdf", pdf),
            (f"{base}-proof.png", sheet_png(np.asarray(proof, np.uint8))),
            ("please-print.txt", text),
        ):
            archive.writestr(zipfile.ZipInfo(name, ZIP_TIME), data)
    return file.getvalue()


def _file(print_id: int) -> str:
    return f"prints/{print_id}/sheet.pdf"
