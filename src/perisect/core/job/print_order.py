"""What a print shop is asked for, in words."""

from perisect.core.job.plan import JobPlan
from perisect.core.ledger.scale_check import NoSuchMarks, spans


def print_order(
    plan: JobPlan, title: str, number: int, file_name: str, press: tuple[str, str] | None = None
) -> str:
    """A text for whoever prints sheet `number` (from 0) elsewhere. Lengths in mm.

    Two distances between marks are named, so that the size can be measured when it comes back.

    Args:
        press: the file in the inks of a press and the name of its profile, where there is one.
    """
    stock = plan.area.stock
    lines = [
        f"Print order: {title}, sheet {number + 1} of {len(plan.sheets.sheets)}",
        "",
        f"File       {file_name}: one page of {stock.width_mm:g} x {stock.height_mm:g} mm. Bleed is in it.",
        f"Material   {plan.recipe.sheet.on.name}, printed on the sticker face.",
        "Size       100 %. No fit to page, no scaling, no imposition.",
        *_colours(file_name, press),
        "Marks      The black marks are read by a cutting plotter: print them as they are, solid black, and leave",
        "           them bare. No trimming, and no further crop marks.",
        "Laminate   If any is ordered: matt over the marks, or none there.",
    ]
    try:
        lines += [
            f"Check      {span.mm:.2f} mm from the {span.from_name} mark to the {span.to_name}."
            for span in spans(plan.area.marks)
        ]
    except NoSuchMarks:
        pass  # Marks of a plotter's own pattern may stand anywhere.
    return "\n".join(lines) + "\n"


def _colours(file_name: str, press: tuple[str, str] | None) -> list[str]:
    if press is None:
        return ["Colour     RGB; the file names sRGB as its output intent."]
    name, profile = press
    return [
        f"Colour     {name} is in CMYK for “{profile}”, which is its output intent: print it without another",
        f"           conversion. {file_name} is the same in RGB (sRGB), if you convert colours yourselves.",
    ]
