"""A thousand labels from a list, with a QR code each."""

import io
import time
from collections.abc import Iterator

import cv2
import numpy as np
import pypdfium2
import segno
import shapely
from PIL import Image, ImageDraw

from bench.figure import Figure
from perisect.core.artwork import decode
from perisect.core.job import DesignRecipe, JobRecipe, plan_job, trace_artwork
from perisect.core.job.files import CUT_WRITERS, CutFiles, print_pdf
from perisect.core.prepress.print_file import encode_picture
from perisect.core.sheet.labels import CodeBox, LabelRecipe, TextBox, read_table
from perisect.core.sheet.placement import placed

HASH, LIST = "1" * 64, "0" * 64
ROWS = 1000


def thousand_labels() -> Iterator[Figure]:
    """Time and size of all print and cut files; codes that OpenCV does not read from the printed pictures."""
    picture = Image.new("RGBA", (700, 360), (0, 0, 0, 0))
    ImageDraw.Draw(picture).rounded_rectangle((4, 4, 695, 355), 60, fill=(250, 240, 215, 255))
    file = io.BytesIO()
    picture.save(file, "PNG")
    traced, rgba = trace_artwork(decode(file.getvalue()))
    rows = "\n".join(f"Reed honey no {n};{n}" for n in range(ROWS))
    start = time.perf_counter()
    table = read_table(f"name;code\n{rows}".encode())
    labels = LabelRecipe(
        table=LIST,
        texts=(TextBox(template="{name}", x=0.05, y=0.05, width=0.55, height=0.15),),
        codes=(
            CodeBox(template="https://reedwater.example/{code}", x=0.62, y=0.08, width=0.34, height=0.34),
        ),
    )
    jar = DesignRecipe(id="d", name="Jar", artwork=HASH, longest_mm=45, border_mm=0, labels=labels)
    plan = plan_job(JobRecipe(designs=(jar,)), {HASH: traced}, tables={LIST: table})
    encoded, texts = encode_picture(rgba), CutFiles(plan)
    sheets = range(len(plan.sheets.sheets))
    pdfs = [print_pdf(plan, number, {HASH: encoded}) for number in sheets]
    cuts = sum(len(texts.file(kind, number)) for number in sheets for kind in CUT_WRITERS)
    taken = time.perf_counter() - start
    start = time.perf_counter()
    for n in range(ROWS):
        segno.make_qr(f"https://reedwater.example/{n}", error="m", boost_error=False, mask=3)
    codes = time.perf_counter() - start
    yield Figure(f"{ROWS} labels, all files", taken, codes, "s", "codes alone  ", 10.0)
    size = (sum(map(len, pdfs)) + cuts) / 1e6
    once = sum(len(text) for text in map(str, table.rows)) / 1e6
    yield Figure(f"{ROWS} labels, all files", size, once, "MB", "the list     ", 20.0)
    read = set()
    k = 400 / 25.4
    for number, pdf in enumerate(pdfs):
        page = np.array(pypdfium2.PdfDocument(pdf)[0].render(scale=400 / 72).to_pil().convert("RGB"))
        for p in plan.sheets.sheets[number]:
            box = placed(shapely.box(0, 0, p.width_mm, p.height_mm), p).bounds
            left, top, right, bottom = (int(side * k) for side in box)
            read.add(_read(page[top:bottom, left:right]))
    unread = ROWS - len(read & {f"https://reedwater.example/{n}" for n in range(ROWS)})
    yield Figure("QR codes that were not read back", unread, ROWS, " ", "codes        ", 0)


def _read(picture: np.ndarray) -> str:
    """A code as OpenCV's detector reads it, at 400 ppi or doubled."""
    detector = cv2.QRCodeDetector()
    found = detector.detectAndDecode(picture)[0]
    return found or detector.detectAndDecode(cv2.resize(picture, None, fx=2, fy=2))[0]
