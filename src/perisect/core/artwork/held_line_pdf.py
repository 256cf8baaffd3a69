"""Cut lines that a page of a PDF holds already: strokes in a spot colour or on a layer named so."""

import io
from dataclasses import dataclass, field

import pikepdf

from perisect.core.artwork.held_line import OWN, names_a_line, processes_of
from perisect.core.artwork.pdf_forms import Instruction, with_forms_inlined

MOST_BYTES = 20_000_000
"""Of a page's content, unpacked: more is a drawing that somebody flattened, and no cut line."""

_STROKES = {"S", "s"}
_PAINTS = _STROKES | {"f", "F", "f*", "B", "B*", "b", "b*"}
_OTHER_PAINTS = {"Do", "sh", "Tj", "TJ", "'", '"', "INLINE IMAGE"}
_NO_PAINT = pikepdf.ContentStreamInstruction([], pikepdf.Operator("n"))
_FILL = pikepdf.ContentStreamInstruction([], pikepdf.Operator("f"))
_BLACK = pikepdf.ContentStreamInstruction([0], pikepdf.Operator("g"))


@dataclass(frozen=True)
class PartedPage:
    """A page taken apart, each part as a PDF.

    Attributes:
        name: of the line round the pieces; empty if there is none.
        art: the page without any line.
        lines: the lines round the pieces, as they are drawn.
        area: what those lines go round, filled.
        further: lines beside those, by their process.
    """

    name: str
    art: bytes
    lines: bytes
    area: bytes
    further: dict[str, bytes]


@dataclass
class _Named:
    """Names in a page's resources that stand for lines, with what they are called."""

    colours: dict[str, str] = field(default_factory=dict)
    layers: dict[str, str] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.every)

    @property
    def every(self) -> tuple[str, ...]:
        """All the names."""
        return (*self.colours.values(), *self.layers.values())


@dataclass
class _Split:
    art: list[Instruction] = field(default_factory=list)
    lines: list[Instruction] = field(default_factory=list)
    area: list[Instruction] = field(default_factory=list)
    further: dict[str, list[Instruction]] = field(default_factory=dict)
    name: str = ""
    paints_art: bool = False


def parted_page(data: bytes, number: int, round_the_piece: bool = True) -> PartedPage | None:
    """Take the named lines of a page apart from its art.

    Args:
        data: the PDF.
        number: the page, from 1.
        round_the_piece: False if none of its lines goes round a piece.

    Returns:
        Its parts; None if it names no line, or nothing else is drawn.
    """
    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            page = pdf.pages[number - 1]
            if len(_content(page)) > MOST_BYTES:
                return None
            content = with_forms_inlined(page, _holds_lines)
            named = _named(page.get("/Resources", pikepdf.Dictionary()))
            processes = processes_of(named.every, round_the_piece)
            if not processes:
                return None
            split = _split(content, named, processes)
            if not (split.name or split.further) or not split.paints_art:
                return None
            art, lines, area = (
                _with_content(pdf, number, each) for each in (split.art, split.lines, split.area)
            )
            further = {process: _with_content(pdf, number, each) for process, each in split.further.items()}
            return PartedPage(split.name[:80], art, lines, area, further)
    except (pikepdf.PdfError, ValueError, TypeError, LookupError, AttributeError, RecursionError):
        # It can be drawn whole; a page that cannot be taken apart has no line that could be told.
        return None


def _content(page: pikepdf.Page) -> bytes:
    page.contents_coalesce()
    return bytes(page.Contents.read_bytes())


def _holds_lines(form: pikepdf.Object) -> bool:
    """Return whether a form names lines, or lies on a layer that does, or holds a form that does."""
    waiting, seen = [form], set[tuple[int, int]]()
    while waiting:
        each = waiting.pop()
        # A form may be in many others, or in itself.
        if each.objgen in seen and each.is_indirect:
            continue
        seen.add(each.objgen)
        layer = each.get("/OC", pikepdf.Dictionary())
        resources = each.get("/Resources", pikepdf.Dictionary())
        if names_a_line(str(layer.get("/Name", ""))) or _named(resources):
            return True
        inner = dict(resources.get("/XObject", pikepdf.Dictionary())).values()
        waiting += [item for item in inner if item.get("/Subtype") == "/Form"]
    return False


def _named(resources: pikepdf.Object) -> _Named:
    found = _Named()
    for key, space in dict(resources.get("/ColorSpace", pikepdf.Dictionary())).items():
        if isinstance(space, pikepdf.Array) and space[0] == "/Separation":
            name = str(space[1]).removeprefix("/")
            if names_a_line(name):
                found.colours[key] = name
    for key, group in dict(resources.get("/Properties", pikepdf.Dictionary())).items():
        name = str(group.get("/Name", "")) if isinstance(group, pikepdf.Dictionary) else ""
        if names_a_line(name):
            found.layers[key] = name
    return found


def _split(content: list[Instruction], named: _Named, processes: dict[str, str]) -> _Split:
    """One reading of the page: what strokes a line is nothing in the art, and all else is nothing in the lines."""
    split = _Split()
    split.further = {process: [] for process in sorted({*processes.values()} - {OWN})}
    drawn: set[str] = set()
    colour = ""
    kept: list[str] = []
    layers: list[str] = []
    for instruction in content:
        operator, operands = str(instruction.operator), instruction.operands
        if operator == "q":
            kept.append(colour)
        elif operator == "Q" and kept:
            colour = kept.pop()
        elif operator in ("CS", "RG", "G", "K"):
            colour = named.colours.get(str(operands[0]), "") if operator == "CS" else ""
        elif operator in ("BDC", "BMC"):
            tag = str(operands[1]) if len(operands) > 1 and isinstance(operands[1], pikepdf.Name) else ""
            layers.append(named.layers.get(tag, layers[-1] if layers else ""))
        elif operator == "EMC" and layers:
            layers.pop()
        name = (layers[-1] if layers else "") or colour
        if operator in _PAINTS:
            process = processes.get(name, "") if operator in _STROKES else ""
            is_line = bool(process)
            is_cut = process == OWN
            drawn.add(process)
            for other, lines in split.further.items():
                lines.append(instruction if process == other else _NO_PAINT)
            split.art.append(_NO_PAINT if is_line else instruction)
            split.lines.append(instruction if is_cut else _NO_PAINT)
            split.area += [_FILL] if is_cut else [_NO_PAINT]
            split.name = split.name or (name if is_cut else "")
            split.paints_art |= not is_line
        else:
            split.art.append(instruction)
            split.paints_art |= operator in _OTHER_PAINTS
            if operator not in _OTHER_PAINTS:
                split.lines.append(instruction)
                for lines in split.further.values():
                    lines.append(instruction)
                split.area.append(instruction)
                if operator in ("cs", "rg", "g", "k", "sc", "scn"):
                    split.area.append(_BLACK)
    split.area.insert(0, _BLACK)
    split.further = {process: lines for process, lines in split.further.items() if process in drawn}
    return split


def _with_content(pdf: pikepdf.Pdf, number: int, content: list[Instruction]) -> bytes:
    page = pdf.pages[number - 1]
    page.Contents = pdf.make_stream(pikepdf.unparse_content_stream(content))
    file = io.BytesIO()
    pdf.save(file)
    return file.getvalue()
