"""What a print shop is asked for, in words."""

from perisect.core.job.plan import JobPlan


def print_order(plan: JobPlan, title: str, number: int, file_name: str) -> str:
    """A text for whoever prints sheet `number` (from 0) elsewhere. Lengths in mm.

    Two distances between marks are named, so that the size can be measured when it comes back.
    """
    stock, marks = plan.area.stock, plan.area.marks
    first = marks[0]
    level = [mark for mark in marks[1:] if abs(mark.y_mm - first.y_mm) < 0.01]
    below = [mark for mark in marks[1:] if abs(mark.x_mm - first.x_mm) < 0.01]
    lines = [
        f"Print order: {title}, sheet {number + 1} of {len(plan.sheets.sheets)}",
        "",
        f"File       {file_name}: one page of {stock.width_mm:g} x {stock.height_mm:g} mm. Bleed is in it.",
        f"Material   {plan.recipe.sheet.on.name}, printed on the sticker face.",
        "Size       100 %. No fit to page, no scaling, no imposition.",
        "Colour     RGB; the file names sRGB as its output intent.",
        "Marks      The black marks are read by a cutting plotter: print them as they are, solid black, and leave",
        "           them bare. No trimming, and no further crop marks.",
        "Laminate   If any is ordered: matt over the marks, or none there.",
    ]
    if level:
        lines.append(
            f"Check      {level[-1].x_mm - first.x_mm:.2f} mm from the {first.name} mark to the {level[-1].name}."
        )
    if below:
        lines.append(
            f"Check      {below[-1].y_mm - first.y_mm:.2f} mm from the {first.name} mark to the {below[-1].name}."
        )
    return "\n".join(lines) + "\n"
