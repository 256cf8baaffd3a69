"""Sheets that come to paper without the printer link: handed out as a file, and said to be printed.

A print is a fact that somebody states. What was handed out is kept, so the cut follows what is on the paper whatever
becomes of the job meanwhile.
"""

import io
import zipfile
from functools import partial

import cv2
import numpy as np
import pikepdf

from perisect import sandbox
from perisect.core.job import JobRecipe
from perisect.core.job.print_order import print_order
from perisect.core.ledger.cut_picture import BLANK_PX_PER_MM, blank_sheet, sheet_png
from perisect.core.prepress.cmyk import in_cmyk, is_cmyk
from perisect.core.prepress.page import VERSION
from perisect.core.prepress.raster import render_page
from perisect.services import stockroom
from perisect.services.plans import plan
from perisect.services.print_files import noted_pdf
from perisect.services.printing import PrintFile
from perisect.store import blobs, jobs, prints, tones
from perisect.store.database import transaction
from perisect.store.models import Print
from perisect.store.prints import BARE, UnknownPrint
from perisect.store.tones import ToneKey

PROOF_EVERY = 3
"""Of the pixels of a sheet's picture, so many to one of its proof."""
ZIP_TIME = (1980, 1, 1, 0, 0, 0)
"""The earliest that a zip can hold: the same order gives the same bytes."""


class NotOut(Exception):
    """The sheet was not handed out, or what became of it was said already; the attribute is its state."""

    def __init__(self, state: str) -> None:
        super().__init__(state)
        self.state = state


def handed_out(print_id: int) -> bytes:
    """The print file as it was handed out: it follows from what the print keeps, and is made when it is asked for.

    Raises:
        UnknownPrint: nothing was.
        ArtworkError.
        DiskFull: there is no room.
    """
    data = blobs.get(_file(print_id))
    if data is not None:
        return data
    with transaction() as session:
        row = session.get(Print, print_id)
        # The file of one that goes by the printer link is made by its worker, until a person says that it came out.
        if row is None or (row.way == "link" and row.state not in ("printed", "spoiled")):
            raise UnknownPrint(print_id)
        file = PrintFile.of(session, row)
    pdf = file.pdf()
    blobs.put(_file(print_id), pdf)
    return pdf


def handed_out_together(batch: str) -> bytes:
    """What was handed out together as one file, a page a print in their order.

    Raises:
        UnknownPrint: there is no such batch.
        ArtworkError.
    """
    with transaction() as session:
        files = [PrintFile.of(session, row) for row in prints.of_batch(session, batch) if row.way != "link"]
    if not files:
        raise UnknownPrint(batch)
    # Copies of one sheet share its pictures; the pages are put back in the order of the prints.
    by_sheet = {file.number: [each for each in files if each.number == file.number] for file in files}
    sources = {
        number: pikepdf.open(
            io.BytesIO(
                noted_pdf(plan(some[0].recipe), number, [f.note for f in some], some[0].tone, some[0].scale)
            )
        )
        for number, some in by_sheet.items()
    }
    turn, out = dict.fromkeys(by_sheet, 0), pikepdf.new()
    root = sources[files[0].number].Root
    for key in ("/ViewerPreferences", "/OutputIntents"):
        out.Root[key] = out.copy_foreign(sources[files[0].number].make_indirect(root[key]))
    for file in files:
        out.pages.append(sources[file.number].pages[turn[file.number]])
        turn[file.number] += 1
    saved = io.BytesIO()
    out.save(saved, deterministic_id=True, min_version=VERSION)
    return saved.getvalue()


def say_printed(print_id: int) -> None:
    """It is on paper: the sheet can be cut.

    Raises:
        UnknownPrint.
        NotOut: it is taken back, or was never handed out.
    """
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        ours, recipe, number = row.way != "shop", JobRecipe.model_validate(row.recipe), row.sheet
    # A print shop prints on its own stock.
    uses = stockroom.safely_used_by(recipe, number) if ours else []
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        if prints.say_printed(session, print_id):
            stockroom.sheet_printed(session, row, uses)
            return
        session.refresh(row)
        if row.state != "printed":
            raise NotOut(row.state)


def printed_picture(print_id: int) -> tuple[str, float] | None:
    """Name of a printed sheet's picture, and its px per mm; None as long as it is not printed. That of a sheet which
    no printer of ours printed is its file as drawn, for nobody scanned it.

    Raises:
        UnknownPrint.
        DiskFull: there is no room.
    """
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        if row.picture is not None:
            return row.picture, row.px_per_mm or 1.0
        if row.state not in ("printed", "spoiled"):
            return None
        bare = JobRecipe.model_validate(row.recipe) if row.way == BARE else None
    if bare is None:
        picture, px_per_mm = render_page(handed_out(print_id))
    else:
        picture, px_per_mm = blank_sheet(plan(bare).plan.area.stock), BLANK_PX_PER_MM
    name = blobs.put(f"prints/{print_id}/printed.png", sheet_png(picture))
    with transaction() as session:
        row = session.get_one(Print, print_id)
        row.picture, row.px_per_mm = name, px_per_mm
    return name, px_per_mm


def package(print_id: int) -> bytes:
    """A zip for a print shop: the print file, also in four inks where the profile of printer and stock is one of them,
    a proof to look at, and what to ask for.

    Raises:
        UnknownPrint.
    """
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        recipe, number = JobRecipe.model_validate(row.recipe), row.sheet
        title = jobs.get(session, row.job_id).title
        tone = tones.get(session, ToneKey.of(recipe.sheet))
    pdf = handed_out(print_id)
    base = f"print-{print_id}-sheet-{number + 1:02d}"
    profile = tone.profile()
    in_inks = (
        sandbox.call(partial(in_cmyk, profile=profile), pdf, kind=sandbox.work.COLOURS)
        if profile is not None and is_cmyk(profile)
        else None
    )
    press = None if in_inks is None else (f"{base}.cmyk.pdf", tone.profile_name or "your press")
    picture, _ = render_page(pdf)
    proof = cv2.resize(picture, None, fx=1 / PROOF_EVERY, fy=1 / PROOF_EVERY, interpolation=cv2.INTER_AREA)
    text = print_order(plan(recipe).plan, title, number, f"{base}.pdf", press)
    files: list[tuple[str, bytes | str]] = [(f"{base}.pdf", pdf)]
    if in_inks is not None:
        files.append((f"{base}.cmyk.pdf", in_inks))
    files += [(f"{base}-proof.png", sheet_png(np.asarray(proof, np.uint8))), ("please-print.txt", text)]
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        for name, data in files:
            archive.writestr(zipfile.ZipInfo(name, ZIP_TIME), data)
    return file.getvalue()


def _file(print_id: int) -> str:
    return f"prints/{print_id}/sheet.pdf"
