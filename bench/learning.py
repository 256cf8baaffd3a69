"""What is learned from measured sheets, against what is true: borders, plotters, pictures of cut sheets."""

from collections.abc import Iterator

import numpy as np
from tests.core import cut_sheets
from tests.core.test_calibration import REACH, plotter
from tests.core.test_cut_scan import laid_flat
from tests.core.test_safe_border import Sheets, sizes

from bench.figure import Figure
from perisect.core.ledger.calibration import calibrate
from perisect.core.ledger.cut_scan import read_cuts
from perisect.core.ledger.flat_sheet import NotTheSheet
from perisect.core.ledger.safe_border import safe_border
from perisect.stand_ins import cut_photo

SHOPS, PLOTTERS, PICTURES = 400, 200, 100


def borders_by_the_log() -> Iterator[Figure]:
    """Of 400 shops: those whose safe border loses at most 5 of 100 stickers, and how wide it is beside full
    knowledge; with slips as they are, and as they are read off a picture."""
    for sheets, noise in ((10, 0.0), (30, 0.0), (100, 0.0), (30, 0.03)):
        kept, wide = [], []
        for seed in range(SHOPS):
            shop = Sheets(seed)
            found = safe_border(shop(sheets, noise=noise))
            assert found is not None
            true = sizes(shop(3000, 12))
            kept.append((true <= found.border_mm).mean() >= 0.95)
            wide.append(found.border_mm / np.quantile(true, 0.95))
        what = f"{sheets} sheets" + (f" read to {noise} mm" if noise else "")
        yield Figure(f"borders that hold, {what}", 100 * float(np.mean(kept)), 95.0, "%", "stated")
        yield Figure(f"border beside full knowledge, {what}", float(np.median(wide)), 1.0, "", "the least")


def calibrations_by_the_log() -> Iterator[Figure]:
    """Of 200 plotters with one thing wrong, or nothing: those where exactly that is named."""
    right = []
    for seed in range(PLOTTERS):
        wrong, shop = plotter(seed)
        found = calibrate([shop.sheet() for _ in range(10)])
        assert found is not None
        named = {each.name for each in found.real} | ({"scatter"} if found.is_scattered else set())
        right.append(named == ({wrong} if wrong in REACH or wrong == "scatter" else set()))
    yield Figure("what is wrong with a plotter, named", 100 * float(np.mean(right)), 95.0, "%", "asked for")


def pictures_of_cut_sheets() -> Iterator[Figure]:
    """How far what is read from 100 photos and 100 scans is off, at 95 of 100 stickers."""
    for name, take, asked in (("photos", cut_photo.photo, 0.08), ("scans", cut_photo.scan, 0.04)):
        off, missed, sure = [], 0, []
        for seed in range(PICTURES):
            printed, wanted = cut_sheets.sheet(seed)
            lies, true = cut_sheets.cut(printed, wanted, seed)
            try:
                found = read_cuts(laid_flat(take(lies, cut_sheets.K, seed)), cut_sheets.grey(printed), wanted)
            except NotTheSheet:
                missed += len(wanted)
                continue
            for each, (dx, dy) in zip(found, true, strict=True):
                if each.dx_mm is None or each.dy_mm is None or each.sure_mm is None:
                    missed += 1
                    continue
                off.append(float(np.hypot(each.dx_mm - dx, each.dy_mm - dy)))
                sure.append(off[-1] <= each.sure_mm)
        everyone = np.array(off + [9.0] * missed)
        yield Figure(
            f"slip on {PICTURES} {name}, 95 of 100",
            float(np.quantile(everyone, 0.95)),
            asked,
            "mm",
            "asked for",
        )
        yield Figure(f"within what is stated, {name}", 100 * float(np.mean(sure)), 95.0, "%", "stated")
