"""The map of the cut error beside what is cut, on plotters that were used for some years."""

from collections.abc import Iterator
from functools import lru_cache, partial

import numpy as np
import shapely
from numpy.typing import NDArray
from tests.core import cut_sheets

from bench.figure import Figure
from perisect.core.cutting.error_map import predicted_error
from perisect.core.cutting.order import CutLine
from perisect.core.cutting.trueing import AS_IT_IS, Trueing
from perisect.core.ledger.calibration import SheetSlips, calibrate
from perisect.core.ledger.cut_picture import sheet_png
from perisect.core.ledger.machine_history import history_of
from perisect.core.ledger.slip import WantedSticker
from perisect.core.sheet import A4, MarkSettings
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS
from perisect.devices.cut_run import CutJob, cut_loaded
from perisect.devices.open import open_plotter
from perisect.devices.protocols import PrintedSheet
from perisect.stand_ins.shop import stand_ins

PLOTTERS, LOGGED, CUT = 1, 30, 200
"""Sheets cut in each of two ways: 400 in all for a plotter."""
MIDDLE = (A4.width_mm / 2, A4.height_mm / 2)
TURNS = np.arange(1, 1000)
MARKS = tuple((mark.x_mm, mark.y_mm) for mark in cut_sheets.MARKS)


def map_beside_what_is_cut() -> Iterator[Figure]:
    """Of sheets cut after 30 were logged: how far the predicted error lies beside the root mean square of what was
    cut, at the sticker where it lies farthest. Once as the plotter is, once with its calibration taken out."""
    for seed in range(PLOTTERS):
        with stand_ins(seed + 1, (), EXAMPLE_PLOTTERS[:1], worn=True) as machines:
            (address,) = machines.plotters.values()
            slips = partial(_slips, address)
            log = [slips(AS_IT_IS) for _ in range(LOGGED)]
            found = calibrate(log)
            assert found is not None
            for name, trueing in (("as it is", AS_IT_IS), ("calibrated", found.trueing)):
                history = history_of(log, trueing)
                cuts = [slips(trueing) for _ in range(CUT)]
                places = cuts[0].places_mm
                told = predicted_error(MARKS, places, history, MIDDLE, TURNS[: len(places)])
                seen = np.sqrt(np.mean([(cut.slips_mm**2).sum(axis=1) for cut in cuts], axis=0))
                off = np.abs(told / seen - 1)
                mean = f"plotter {seed + 1} {name}, {1000 * seen.mean():.0f} µm: map off"
                yield Figure(mean, 100 * float(off.max()), 15.0, "%", "at the worst sticker", 15.0)


@lru_cache(maxsize=1)
def _printed() -> tuple[PrintedSheet, list[WantedSticker]]:
    picture, wanted = cut_sheets.sheet(1)
    return PrintedSheet(sheet_png(picture), cut_sheets.K), wanted


def _slips(address: str, trueing: Trueing) -> SheetSlips:
    """Slips of one sheet, printed as it is drawn, laid in and cut."""
    printed, wanted = _printed()
    rings = [shapely.get_coordinates(each.kiss)[:-1] for each in wanted]
    lines = [CutLine("kiss", n, ring) for n, ring in enumerate(rings)]
    record = EXAMPLE_PLOTTERS[0]
    job = CutJob(
        cut_sheets.MARKS,
        MarkSettings(),
        A4.height_mm,
        lines,
        (record.corner_x_mm, record.corner_y_mm),
        aim=lambda fit: trueing.trued(fit, MIDDLE),
    )
    with open_plotter(address, record.language) as device:
        done = cut_loaded(device, printed, job)
    strokes = (done.unloaded.strokes or [])[1 : 1 + len(lines)]
    places = np.array([_middle(ring) for ring in rings])
    return SheetSlips(
        places,
        np.array([_middle(tip) for tip in strokes]) - places,
        MIDDLE,
        trueing,
        MARKS,
        np.arange(1, len(places) + 1),
    )


def _middle(ring: NDArray[np.float64]) -> NDArray[np.float64]:
    return shapely.get_coordinates(shapely.centroid(shapely.Polygon(ring)))[0]
