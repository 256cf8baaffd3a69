"""A job as one open zip: its pictures as they came, its recipe, the files of its sheets, and its log."""

import json
import tempfile
import zipfile
from typing import IO, Any

from perisect.core.artwork.die_dxf import looks_like_dxf
from perisect.core.job.files import CUT_WRITERS
from perisect.services.nests import nested_plan
from perisect.services.plans import plan
from perisect.services.print_files import PrintNote, noted_pdf
from perisect.store import artwork, jobs, runs, scales, tones
from perisect.store.database import transaction
from perisect.store.models import Run
from perisect.store.tones import ToneKey

MOST_SHEETS = 40
IN_MEMORY = 32 << 20
SUFFIXES = {
    b"\x89PNG": "png",
    b"\xff\xd8\xff": "jpg",
    b"RIFF": "webp",
    b"II*\0": "tif",
    b"MM\0*": "tif",
    b"%PDF": "pdf",
}
ZIP_TIME = (1980, 1, 1, 0, 0, 0)


def job_zip(job_id: int) -> IO[bytes]:
    """The file, to be read from its beginning; sheets that are alike are in it once each, forty at most.

    Raises:
        UnknownJob, ArtworkError, DiskFull.
    """
    with transaction() as session:
        job = jobs.get(session, job_id)
        title, recipe = job.title, jobs.recipe(session, job)
        cuts = runs.of_job(session, job_id)
        tone, scale = tones.get(session, ToneKey.of(recipe.sheet)).tone, scales.get(session, recipe.sheet)
    file = tempfile.SpooledTemporaryFile(max_size=IN_MEMORY)  # noqa: SIM115 - whoever reads it closes it
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:

        def put(name: str, data: bytes) -> None:
            archive.writestr(zipfile.ZipInfo(name, ZIP_TIME), data, zipfile.ZIP_DEFLATED)

        put("recipe.json", recipe.model_dump_json(indent=1).encode())
        put(
            "job.json",
            json.dumps({"format": "perisect job 1", "job": job_id, "title": title}, indent=1).encode(),
        )
        for sha256 in dict.fromkeys(design.artwork for design in recipe.designs):
            data = artwork.original(sha256)
            put(f"artwork/{sha256[:16]}.{_suffix(data)}", data)
        planned = plan(recipe)
        if planned.plan.layout.waiting:
            planned = nested_plan(recipe)
        for number in range(min(len(planned.plan.sheets.sheets), MOST_SHEETS)):
            base = f"sheets/sheet-{number + 1:02d}"
            note = PrintNote(f"job {job_id}, {title}")
            put(f"{base}.print.pdf", noted_pdf(planned, number, [note], tone, scale))
            for kind in CUT_WRITERS:
                put(f"{base}.cut.{kind}", planned.cut_files.file(kind, number))
        put("log.json", json.dumps([_told(run) for run in cuts], indent=1, default=str).encode())
    file.seek(0)
    return file


def _suffix(data: bytes) -> str:
    drawing = "dxf" if looks_like_dxf(data) else "svg"
    return next((suffix for head, suffix in SUFFIXES.items() if data.startswith(head)), drawing)


TOLD = (
    "id", "print_id", "plotter", "stock", "state", "message", "lines_done", "lines_total", "seconds", "cut_m",
    "registration", "slips", "slip_mean_mm", "slip_largest_mm", "measured_by", "stickers", "count", "counted_good",
    "counted_bad", "created_at", "finished_at",
)  # fmt: skip


def _told(run: Run) -> dict[str, Any]:
    return {name: getattr(run, name) for name in TOLD}
