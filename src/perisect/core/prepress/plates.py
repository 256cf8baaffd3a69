"""Cut lines, white and varnish as named separations, for a RIP that cuts: a PDF of its own, beside the print file.

A RIP knows a line by the exact name of its plate. Each plate is a Separation colour (ISO 32000-2, 8.6.6.4) with what
stands in for it in CMYK, drawn with overprint so that it knocks nothing out, on a layer of its own.
"""

import unicodedata
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass

import numpy as np
import pikepdf
from numpy.typing import NDArray

from perisect.core.formats import CutSheet
from perisect.core.formats.line_page import LinePage, line_paths, ring_path
from perisect.core.process import processes

HAIRLINE_MM = 0.1
TAKEN = {"cyan", "magenta", "yellow", "black", "all", "none", "red", "green", "blue", "gray", "grey", "white"}
"""Names that mean an ink of the press, or all or none of them."""
MOST_LETTERS = 60
MOST_SPREAD_MM = 5.0


class PlateError(ValueError):
    """A plate's name or numbers that no RIP could take; the text says what to do."""


@dataclass(frozen=True)
class Plate:
    """A plate's name, what stands in for it (CMYK, 0 to 1), and the width of its lines, mm."""

    name: str
    cmyk: tuple[float, float, float, float] = (0.0, 1.0, 0.0, 0.0)
    width_mm: float = HAIRLINE_MM

    def __post_init__(self) -> None:
        _check(self.name, self.cmyk, TAKEN)
        if not 0.01 <= self.width_mm <= 5:
            raise PlateError("A plate's lines are 0.01 to 5 mm wide.")


@dataclass(frozen=True)
class AreaPlate:
    """The plate of an area: its name, what stands in for it, and how far it reaches past what it is computed from, mm;
    less than 0 where it stays inside."""

    name: str
    cmyk: tuple[float, float, float, float] = (0.3, 0.0, 0.1, 0.0)
    spread_mm: float = 0.0

    def __post_init__(self) -> None:
        # White is what a press calls its white.
        _check(self.name, self.cmyk, TAKEN - {"white"})
        if not abs(self.spread_mm) <= MOST_SPREAD_MM:
            raise PlateError(f"A plate spreads or chokes by {MOST_SPREAD_MM:g} mm at most.")


AREAS = {"white": -0.1, "varnish": 0.0}
"""Kinds of areas, and by how much each usually spreads, mm: white stays inside the art, so that none looks out."""


@dataclass(frozen=True)
class DrawnArea:
    """An area of a sheet by its kind, with its plate and its (n, 2) rings in mm, holes the other way round."""

    kind: str
    plate: AreaPlate
    rings: tuple[NDArray[np.float64], ...]


def _check(name: str, cmyk: tuple[float, float, float, float], taken: Set[str]) -> None:
    if not name.strip() or name != name.strip() or len(name) > MOST_LETTERS:
        raise PlateError(f"A plate's name has 1 to {MOST_LETTERS} letters, none of them a space at its ends.")
    if not name.isprintable():
        # Spaces of other widths, marks of direction and the like: two names would look alike and be none of a RIP's.
        raise PlateError(
            "A plate's name is letters, digits, signs and plain spaces on one line: type it anew."
        )
    if _folded(name) in taken:
        raise PlateError(f"“{name}” is an ink of the press: give the plate another name.")
    if not all(0 <= part <= 1 for part in cmyk):
        raise PlateError(
            "What stands in for a plate is four shares from 0 to 1: cyan, magenta, yellow, black."
        )


def _folded(name: str) -> str:
    """What names are told apart by: neither case nor width nor how a letter is put together counts."""
    return unicodedata.normalize("NFKC", name).casefold()


def checked(plates: Mapping[str, Plate | AreaPlate]) -> Mapping[str, Plate | AreaPlate]:
    """Plates by process or kind of area, no name given twice.

    Raises:
        PlateError.
    """
    names = [_folded(plate.name) for plate in plates.values()]
    twice = {name for name in names if names.count(name) > 1}
    if twice:
        name = next(plate.name for plate in plates.values() if _folded(plate.name) in twice)
        raise PlateError(f"“{name}” is given to two plates: a RIP could not tell them apart.")
    return plates


def write_plates_pdf(sheet: CutSheet, plates: Mapping[str, Plate], areas: Sequence[DrawnArea] = ()) -> bytes:
    """One page, 1:1, with the areas and the lines of each process that have a plate, and nothing else.

    Args:
        plates: by process.
        areas: white under the art first, varnish last.

    Raises:
        PlateError: two plates of one name.
    """
    checked({**plates, **{area.kind: area.plate for area in areas}})
    page = LinePage(sheet.width_mm, sheet.height_mm, "/OVER gs 1 j 1 J")
    spaces = pikepdf.Dictionary()
    for number, area in enumerate(areas, start=1):
        if area.rings:
            spaces[f"/A{number}"] = _separation(page.pdf, area.plate)
            whole = " ".join(ring_path(ring) for ring in area.rings)
            page.layer(area.plate.name, f"/A{number} cs 1 scn", [whole], "f")
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


def _separation(pdf: pikepdf.Pdf, plate: Plate | AreaPlate) -> pikepdf.Object:
    # From no ink to what stands in for the plate (an exponential function of degree 1).
    tint = pikepdf.Dictionary(
        FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=[float(part) for part in plate.cmyk], N=1
    )
    # A name is any bytes; those of UTF-8 are what programs show.
    name = pikepdf.Name("/" + plate.name)
    return pdf.make_indirect(pikepdf.Array([pikepdf.Name.Separation, name, pikepdf.Name.DeviceCMYK, tint]))
