"""One PDF page, 1:1, of lines by layer: what cut files as PDF and named plates are both drawn on."""

import io
from collections.abc import Sequence
from typing import Literal

import numpy as np
import pikepdf
from numpy.typing import NDArray

from perisect.core.formats import CutSheet
from perisect.core.units import POINTS_PER_MM

VERSION = "1.7"


class LinePage:
    """A page of `width_mm` x `height_mm` on which each layer is an optional-content group of its name."""

    def __init__(self, width_mm: float, height_mm: float, opening: str = "1 j 1 J") -> None:
        self.pdf = pikepdf.new()
        self.resources = pikepdf.Dictionary()
        self._layers, self._groups = pikepdf.Dictionary(), pikepdf.Array()
        self._size_mm, k = (width_mm, height_mm), POINTS_PER_MM
        # Millimetres from the top left, as everywhere.
        self._content = [opening, f"{k:.6f} 0 0 {-k:.6f} 0 {height_mm * k:.6f} cm"]

    def layer(self, name: str, pen: str, paths: Sequence[str], paint: Literal["S", "f"] = "S") -> None:
        """Stroke (S) or fill (f) paths on a layer, with the operators `pen` that set colour, width (mm) and dash."""
        group = self.pdf.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name=pikepdf.String(name)))
        self._groups.append(group)
        key = f"/L{len(self._groups)}"
        self._layers[key] = group
        self._content.append(f"/OC {key} BDC q {pen}")
        self._content += [f"{path} {paint}" for path in paths]
        self._content.append("Q EMC")

    def bytes(self) -> bytes:
        """The file: the same for the same page."""
        box = [0, 0, *(side * POINTS_PER_MM for side in self._size_mm)]
        self.resources["/Properties"] = self._layers
        page = pikepdf.Dictionary(
            Type=pikepdf.Name.Page,
            MediaBox=box,
            TrimBox=box,
            Resources=self.resources,
            Contents=self.pdf.make_stream("\n".join(self._content).encode("ascii")),
        )
        self.pdf.pages.append(pikepdf.Page(self.pdf.make_indirect(page)))
        self.pdf.Root.OCProperties = pikepdf.Dictionary(
            OCGs=self._groups, D=pikepdf.Dictionary(ON=self._groups, Order=self._groups)
        )
        self.pdf.Root.ViewerPreferences = pikepdf.Dictionary(PrintScaling=pikepdf.Name("/None"))
        file = io.BytesIO()
        self.pdf.save(file, deterministic_id=True, min_version=VERSION)
        return file.getvalue()


def line_paths(sheet: CutSheet, process: str, closed: bool) -> list[str]:
    """The lines of a process as path operators in mm: as curves where they were fitted as such."""
    lines, curves = sheet.lines.get(process, []), sheet.curves.get(process, [])
    if len(curves) == len(lines):
        return [
            _path(curve.stretches[:1, 0], curve.stretches[:, 1:].reshape(-1, 6), "c") + " h" * curve.closed
            for curve in curves
        ]
    return [ring_path(line, closed) for line in lines]


def ring_path(line: NDArray[np.float64], closed: bool = True) -> str:
    """(n, 2) points in mm as path operators."""
    return _path(line[:1], line[1:], "l") + (" h" if closed else "")


def _path(first: NDArray[np.float64], rest: NDArray[np.float64], operator: str) -> str:
    told = [f"{x:.4f} {y:.4f} m" for x, y in first.tolist()]
    told += [" ".join(f"{value:.4f}" for value in row) + f" {operator}" for row in rest.tolist()]
    return " ".join(told)
