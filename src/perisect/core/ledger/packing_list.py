"""What goes into a parcel, and addresses for parcels, as pages to print."""

from collections.abc import Sequence
from dataclasses import dataclass

from perisect.core.fonts.font import font
from perisect.core.prepress.text_page import Words, broken, text_page
from perisect.core.sheet import Stock

A4 = Stock("a4", "A4", 210.0, 297.0)
LEFT_MM, LINE_MM = 22.0, 7.0
RULE = "0.76 0.81 0.78 RG 0.3 w"
ACROSS, DOWN = 3, 8
MOST_ADDRESSES = ACROSS * DOWN
LEAST_MM, USUAL_MM = 1.6, 3.0


@dataclass(frozen=True)
class PackedLine:
    """So many of something go in, of so many that were wanted."""

    name: str
    size_mm: float
    packed: int
    wanted: int


@dataclass(frozen=True)
class Packed:
    """What a packing list says."""

    shop: str
    order: int
    who: str
    address: tuple[str, ...]
    note: str
    lines: tuple[PackedLine, ...]


def packing_list(packed: Packed) -> bytes:
    """A page of A4 with what is in the parcel, and a box to tick for each line."""
    words = [
        Words(packed.shop, LEFT_MM, 24, 3.0, "head"),
        Words(f"Order {packed.order}", LEFT_MM, 44, 5.4, "head"),
        *(Words(line, LEFT_MM, 56 + 6 * n, 3.0) for n, line in enumerate((packed.who, *packed.address)[:7])),
    ]
    operators, y = [RULE], 108.0
    for line in packed.lines[:24]:
        lacking = "" if line.packed >= line.wanted else f"  ({line.wanted - line.packed} to follow)"
        words.append(Words(f"{line.packed} ×", LEFT_MM + 10, y, 3.0))
        text = fitting(f"{line.name}, {line.size_mm:g} mm{lacking}", 138, 3.0)
        words.append(Words(text, LEFT_MM + 28, y, 3.0))
        operators.append(f"{LEFT_MM} {y - 3.4} 4 4 re S")
        operators.append(f"{LEFT_MM} {y + 2.4} m 188 {y + 2.4} l S")
        y += LINE_MM
    if len(packed.lines) > 24:
        words.append(Words(f"and {len(packed.lines) - 24} lines more", LEFT_MM + 28, y, 3.0))
        y += LINE_MM
    note = [line for part in packed.note.splitlines() for line in broken(part, 166, 3.0)]
    words += [Words(line, LEFT_MM, y + 10 + 6 * n, 3.0) for n, line in enumerate(note[:8])]
    return text_page(A4, words, operators)


def fitting(text: str, width_mm: float, size_mm: float) -> str:
    """A text that is no wider than this, its end left out where it is."""
    if font("text").shape(text).width * size_mm <= width_mm:
        return text
    while text and font("text").shape(f"{text}…").width * size_mm > width_mm:
        text = text[:-1]
    return f"{text.rstrip()}…"


def address_sheet(addresses: Sequence[Sequence[str]]) -> bytes:
    """Up to 24 addresses, three across and eight down on A4, with lines to cut along; a long line is set smaller."""
    wide, high = A4.width_mm / ACROSS, A4.height_mm / DOWN
    words = []
    for number, lines in enumerate(addresses[:MOST_ADDRESSES]):
        left, top = number % ACROSS * wide, number // ACROSS * high
        for row, line in enumerate(lines[:5]):
            natural = font("text").shape(line).width
            size = max(LEAST_MM, min(USUAL_MM, (wide - 14) / natural if natural else USUAL_MM))
            words.append(Words(fitting(line, wide - 12, size), left + 7, top + 9 + 5.6 * row, size))
    across = [f"{n * wide:.3f} 0 m {n * wide:.3f} {A4.height_mm} l S" for n in range(1, ACROSS)]
    down = [f"0 {n * high:.3f} m {A4.width_mm} {n * high:.3f} l S" for n in range(1, DOWN)]
    return text_page(A4, words, [RULE, *across, *down])
