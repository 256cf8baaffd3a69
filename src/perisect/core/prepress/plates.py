"""Cut lines as named separations, for a RIP that cuts: a PDF of its own, beside the print file.

A RIP knows a line by the exact name of its plate. Each plate is a Separation colour (ISO 32000-2, 8.6.6.4) with what
stands in for it in CMYK, drawn with overprint so that it knocks nothing out, on a layer of its own.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass

import pikepdf

from perisect.core.formats import CutSheet
from perisect.core.formats.line_page import LinePage, line_paths
from perisect.core.process import processes

HAIRLINE_MM = 0.1
TAKEN = {"cyan", "magenta", "yellow", "black", "all", "none", "red", "green", "blue", "gray", "grey", "white"}
"""Names that mean an ink of the press, or all or none of them."""
MOST_LETTERS = 60


class PlateError(ValueError):
    """A plate's name or numbers that no RIP could take; the text says what to do."""


@dataclass(frozen=True)
class Plate:
    """A plate's name, what stands in for it (CMYK, 0 to 1), and the width of its lines, mm."""

    name: str
    cmyk: tuple[float, float, float, float] = (0.0, 1.0, 0.0, 0.0)
    width_mm: float = HAIRLINE_MM

    def __post_init__(self) -> None:
        name = self.name
        if not name.strip() or name != name.strip() or len(name) > MOST_LETTERS:
            raise PlateError(
                f"A plate's name has 1 to {MOST_LETTERS} letters, none of them a space at its ends."
            )
        if re.search(r"[\x00-\x1f\x7f]", name):
            raise PlateError("A plate's name is letters, digits and signs on one line.")
        if name.casefold() in TAKEN:
            raise PlateError(f"“{name}” is an ink of the press: give the plate another name.")
        if not all(0 <= part <= 1 for part in self.cmyk):
            raise PlateError(
                "What stands in for a plate is four shares from 0 to 1: cyan, magenta, yellow, black."
            )
        if not 0.01 <= self.width_mm <= 5:
            raise PlateError("A plate's lines are 0.01 to 5 mm wide.")


def checked(plates: Mapping[str, Plate]) -> Mapping[str, Plate]:
    """Plates by process, no name given twice.

    Raises:
        PlateError.
    """
    names = [plate.name.casefold() for plate in plates.values()]
    twice = {name for name in names if names.count(name) > 1}
    if twice:
        name = next(plate.name for plate in plates.values() if plate.name.casefold() in twice)
        raise PlateError(f"“{name}” is given to two kinds of line: a RIP could not tell them apart.")
    return plates


def write_plates_pdf(sheet: CutSheet, plates: Mapping[str, Plate]) -> bytes:
    """One page, 1:1, with the lines of each process that has a plate, and nothing else.

    Args:
        plates: by process.

    Raises:
        PlateError: two plates of one name.
    """
    checked(plates)
    page = LinePage(sheet.width_mm, sheet.height_mm, "/OVER gs 1 j 1 J")
    spaces = pikepdf.Dictionary()
    for number, process in enumerate(processes(), start=1):
        plate = plates.get(process.name)
        drawn = line_paths(sheet, process.name, process.closed) if plate is not None else []
        if plate is None or not drawn:
            continue
        spaces[f"/S{number}"] = _separation(page.pdf, plate)
        page.layer(plate.name, f"/S{number} CS 1 SCN {plate.width_mm:.4f} w", drawn)
    over = pikepdf.Dictionary(Type=pikepdf.Name.ExtGState, OP=True, op=True, OPM=1)
    page.resources["/ColorSpace"] = spaces
    page.resources["/ExtGState"] = pikepdf.Dictionary(OVER=over)
    return page.bytes()


def _separation(pdf: pikepdf.Pdf, plate: Plate) -> pikepdf.Object:
    # From no ink to what stands in for the plate (an exponential function of degree 1).
    tint = pikepdf.Dictionary(
        FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=[float(part) for part in plate.cmyk], N=1
    )
    # A name is any bytes; those of UTF-8 are what programs show.
    name = pikepdf.Name("/" + plate.name)
    return pdf.make_indirect(pikepdf.Array([pikepdf.Name.Separation, name, pikepdf.Name.DeviceCMYK, tint]))
