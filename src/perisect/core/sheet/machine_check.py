"""Whether a sheet is larger than its printer or its plotter takes."""

from collections.abc import Iterator

from perisect.core.finding import Finding
from perisect.core.message import mm, says
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.stock import Stock


def machine_findings(stock: Stock, sheet: SheetRecipe) -> Iterator[Finding]:
    """A sheet, or a panel of a roll, that a machine cannot take as it lies: width across, height along the feed."""
    printer, plotter = sheet.printed_by, sheet.cut_by
    limits = (
        (printer.name, "wide", stock.width_mm, printer.widest_mm),
        (printer.name, "long", stock.height_mm, printer.longest_mm),
        (plotter.name, "long", stock.height_mm, plotter.longest_mm),
    )
    for name, how, size, limit in limits:
        if size > limit:
            yield Finding(
                code="machine_small",
                station="sheet",
                severity="stop",
                message=says(
                    f"machine_small.{how}", stock=stock.name, size=mm(size), machine=name, limit=mm(limit)
                ),
                measured=size,
                limit=limit,
                unit="mm",
            )
