"""`perisect test-cut`: a whole test-cut dialogue against the simulated plotter, its person played by what is seen."""

import time
from dataclasses import asdict
from typing import Any

import numpy as np

from perisect.core.cutting.belief import (
    LEAST_LINER_UM,
    MAX_LADDERS,
    NoLiner,
    Tried,
    believe,
    next_ladder,
    prior_of,
    propose,
)
from perisect.core.cutting.knife import knife_of
from perisect.core.cutting.ladder import LadderPlace, ladder_program, ladder_size
from perisect.core.cutting.setting import default_setting
from perisect.core.ledger.cut_picture import sheet_png
from perisect.core.process import process
from perisect.core.sheet.equipment import StockRecipe
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS
from perisect.devices.open import open_plotter
from perisect.devices.protocols import PrintedSheet
from perisect.stand_ins.bite import Bite
from perisect.stand_ins.shop import stand_ins

SCRAP_MM = (120.0, 60.0)
PX_PER_MM = 4.0


class TestCutError(Exception):
    """The dialogue cannot be played; the text says why."""


def play_test_cut(seed: int, stock: StockRecipe, process_name: str | None = None) -> dict[str, Any]:
    """Ladders with their answers, the proposal, and whether it is truly clean, which nobody asks before it is made.

    Args:
        process_name: None for a kiss cut, or for through where the stock has no liner.

    Raises:
        TestCutError: a kiss cut in a stock without a liner.
    """
    begun = time.perf_counter()
    record = EXAMPLE_PLOTTERS[seed % len(EXAMPLE_PLOTTERS)]
    cut = process(process_name or ("kiss" if stock.liner_um >= LEAST_LINER_UM else "through"))
    process_name, start = cut.name, default_setting(cut, record.force)
    try:
        prior = prior_of(cut, stock.face_um, stock.liner_um, record.force)
    except NoLiner as error:
        raise TestCutError(
            f"{stock.name} has no liner for a kiss cut to stop on: it is cut through alone."
        ) from error
    bite = Bite(seed, stock.face_um, stock.liner_um, record.force, process_name)
    eye = np.random.default_rng([seed, 9])
    white = np.full((round(SCRAP_MM[1] * PX_PER_MM), round(SCRAP_MM[0] * PX_PER_MM), 3), 255, np.uint8)
    scrap = PrintedSheet(sheet_png(white), PX_PER_MM)
    knife = knife_of(record)
    tried: list[Tried] = []
    ladders: list[list[dict[str, Any]]] = []
    proposal = propose(believe(prior, tried), record.force)
    with stand_ins(seed, (), (record,)) as machines:
        for _ in range(MAX_LADDERS):
            forces = next_ladder(believe(prior, tried), record.force)
            width, height = ladder_size(len(forces))
            at = LadderPlace(
                record.corner_x_mm + (SCRAP_MM[0] - width) / 2,
                record.corner_y_mm + (SCRAP_MM[1] - height) / 2,
            )
            with open_plotter(machines.plotter, record.language) as plotter:
                plotter.load(scrap)
                for step in ladder_program(process_name, start, forces, at, knife):
                    plotter.carry_out(step.motions)
                plotter.park()
                plotter.unload()
            answers = [Tried(force, bite.look(force, eye)) for force in forces]
            tried += answers
            ladders.append(
                [asdict(step) | {"setting": start.model_dump() | {"force": step.force}} for step in answers]
            )
            proposal = propose(believe(prior, tried), record.force)
            if proposal.is_sure:
                break
    return {
        "seed": seed,
        "stock": stock.name,
        "process": process_name,
        "plotter": record.name,
        "force_unit": record.force.unit,
        "ladders": ladders,
        "proposal": start.model_dump() | {"force": proposal.force},
        "probability_clean": proposal.probability_clean,
        "truly_clean": bite.nominal(proposal.force) == "clean",
        "seconds": time.perf_counter() - begun,
    }
