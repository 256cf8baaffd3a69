"""Forms of a PDF page (ISO 32000-1, 8.10) written into the page itself, so that its lines are all in one place."""

from collections.abc import Callable, Sequence
from itertools import count
from typing import Any

import pikepdf

MAX_DEPTH = 8
"""Most forms inside each other. Chosen: drawing programs nest two or three."""
MAX_INSTRUCTIONS = 500_000
"""Most instructions of a page with its forms. Chosen: those of 20 MB of content."""

Instruction = pikepdf.ContentStreamInstruction | pikepdf.ContentStreamInlineImage
Names = Callable[[pikepdf.Object], bool]
"""Whether a form, or what it holds, is wanted."""

_CATEGORY = {
    "CS": ("/ColorSpace", 0),
    "cs": ("/ColorSpace", 0),
    "SCN": ("/Pattern", -1),
    "scn": ("/Pattern", -1),
    "gs": ("/ExtGState", 0),
    "Do": ("/XObject", 0),
    "Tf": ("/Font", 0),
    "sh": ("/Shading", 0),
    "BDC": ("/Properties", 1),
    "DP": ("/Properties", 1),
}
"""Resource category of the name that an operator takes, and which operand it is."""


def with_forms_inlined(page: pikepdf.Page, is_wanted: Names) -> list[Instruction]:
    """Return the content of a page with some of its forms written out; its resources take theirs in.

    Args:
        page: the page; its `Resources` are replaced.
        is_wanted: whether a form is written out.

    Raises:
        ValueError: forms lie too deep in each other, or there is too much content.
    """
    resources = page.get("/Resources", pikepdf.Dictionary())
    page.Resources = _copied(resources)
    found: list[Instruction] = []
    _write(pikepdf.parse_content_stream(page), resources, page.Resources, None, is_wanted, found, 0, count())
    return found


def _copied(resources: pikepdf.Object) -> pikepdf.Dictionary:
    return pikepdf.Dictionary(
        {
            key: pikepdf.Dictionary(dict(value)) if isinstance(value, pikepdf.Dictionary) else value
            for key, value in dict(resources).items()
        }
    )


def _write(
    content: list[Instruction],
    own: pikepdf.Object,
    merged: pikepdf.Dictionary,
    prefix: str | None,
    is_wanted: Names,
    found: list[Instruction],
    depth: int,
    numbers: "count[int]",
) -> None:
    """Append instructions, the names that they take changed to those of the merged resources."""
    if depth > MAX_DEPTH or len(found) + len(content) > MAX_INSTRUCTIONS:
        raise ValueError("there is too much in this page")
    for instruction in content:
        if isinstance(instruction, pikepdf.ContentStreamInlineImage):
            found.append(instruction)
            continue
        operator = str(instruction.operator)
        form = _form(instruction, own) if operator == "Do" else None
        if form is not None and is_wanted(form):
            _write_form(form, own, merged, is_wanted, found, depth, numbers)
        else:
            found.append(instruction if prefix is None else _renamed(instruction, own, merged, prefix))


def _form(instruction: pikepdf.ContentStreamInstruction, own: pikepdf.Object) -> pikepdf.Object | None:
    there = own.get("/XObject", pikepdf.Dictionary()).get(str(instruction.operands[0]))
    return there if there is not None and there.get("/Subtype") == "/Form" else None


def _write_form(
    form: pikepdf.Object,
    around: pikepdf.Object,
    merged: pikepdf.Dictionary,
    is_wanted: Names,
    found: list[Instruction],
    depth: int,
    numbers: "count[int]",
) -> None:
    prefix = f"Form{next(numbers)}x"
    layer = form.get("/OC")
    if layer is not None:
        found.append(
            _instruction([pikepdf.Name.OC, _taken(merged, "/Properties", prefix, "layer", layer)], "BDC")
        )
    found.append(_instruction([], "q"))
    if "/Matrix" in form:
        found.append(_instruction(list(form.Matrix), "cm"))
    if "/BBox" in form:
        left, bottom, right, top = (float(side) for side in form.BBox)
        found.append(_instruction([left, bottom, right - left, top - bottom], "re"))
        found += [_instruction([], "W"), _instruction([], "n")]
    own = form.get("/Resources", around)
    _write(pikepdf.parse_content_stream(form), own, merged, prefix, is_wanted, found, depth + 1, numbers)
    found.append(_instruction([], "Q"))
    if layer is not None:
        found.append(_instruction([], "EMC"))


def _renamed(
    instruction: pikepdf.ContentStreamInstruction,
    own: pikepdf.Object,
    merged: pikepdf.Dictionary,
    prefix: str,
) -> pikepdf.ContentStreamInstruction:
    operator, operands = str(instruction.operator), list(instruction.operands)
    if operator not in _CATEGORY or not operands:
        return instruction
    category, at = _CATEGORY[operator]
    if at >= len(operands) or not isinstance(operands[at], pikepdf.Name):
        return instruction
    name = str(operands[at])
    there = own.get(category, pikepdf.Dictionary()).get(name)
    if there is None:
        # A name that needs no resource, such as a device's colours.
        return instruction
    operands[at] = _taken(merged, category, prefix, name.removeprefix("/"), there)
    return _instruction(operands, operator)


def _taken(
    merged: pikepdf.Dictionary, category: str, prefix: str, name: str, value: pikepdf.Object
) -> pikepdf.Name:
    """Take a resource over, and return the name that it has now."""
    if category not in merged:
        merged[category] = pikepdf.Dictionary()
    key = pikepdf.Name(f"/{prefix}{name}")
    merged[category][key] = value
    return key


def _instruction(operands: Sequence[Any], operator: str) -> pikepdf.ContentStreamInstruction:
    return pikepdf.ContentStreamInstruction(operands, pikepdf.Operator(operator))
