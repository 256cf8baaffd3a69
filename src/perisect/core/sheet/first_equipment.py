"""First choices of stock, printer and plotter for a new shop; each can be corrected later."""

from perisect.core.sheet.equipment import MarksRecipe
from perisect.core.sheet.shop_records import (
    EXAMPLE_PLOTTERS,
    EXAMPLE_PRINTERS,
    EXAMPLE_STOCKS,
    PrinterRecord,
    StockRecord,
)

_PLOTTERS = {each.id: each for each in EXAMPLE_PLOTTERS}

FIRST_PRINTERS = (
    PrinterRecord(id="desk", name="A4 or Letter printer", widest_mm=216, longest_mm=356, simulated=False),
    PrinterRecord(id="a3", name="A3 printer", widest_mm=330, longest_mm=490, simulated=False),
    EXAMPLE_PRINTERS[1].model_copy(update={"name": "Roll printer", "simulated": False}),
)
FIRST_PLOTTERS = (
    _PLOTTERS["desk"].model_copy(update={"name": "Plotter with mat and sensor", "simulated": False}),
    _PLOTTERS["counter"].model_copy(
        update={
            "name": "Plotter without sensor",
            "simulated": False,
            "has_sensor": False,
            "marks": MarksRecipe(),
        }
    ),
    _PLOTTERS["roll-plotter"].model_copy(update={"name": "Roll plotter", "simulated": False}),
)
FIRST_STOCKS: tuple[StockRecord, ...] = tuple(
    each.model_copy(update={"left": 0.0}) for each in EXAMPLE_STOCKS
)
SIMULATED_PRINTER = EXAMPLE_PRINTERS[0].model_copy(update={"name": "Practice printer"})
SIMULATED_PLOTTER = EXAMPLE_PLOTTERS[0].model_copy(update={"name": "Practice plotter"})
"""Simulated machines that stand in for ones that are not here yet."""
