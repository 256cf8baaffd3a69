"""The shipped font as a PDF holds it: embedded, with the letters of Windows Latin 1."""

import io
from dataclasses import dataclass
from functools import lru_cache

import pikepdf
from fontTools import subset
from fontTools.ttLib import TTFont

from perisect.core.fonts import FOLDER

FIRST, LAST = 32, 255
ENCODING = "cp1252"
NAME = "PSTEXT+AtkinsonHyperlegibleNext"
"""Six letters and a plus are how a PDF says that a font is a part of one (ISO 32000-2, 9.9.2)."""
NONSYMBOLIC = 32


@dataclass(frozen=True)
class _Letters:
    file: bytes
    widths: tuple[int, ...]
    """Of the codes from `FIRST` to `LAST`, thousandths of the size; 0 for a code without a letter."""
    ascent: int
    descent: int
    capitals: int
    box: tuple[int, int, int, int]


@lru_cache(maxsize=1)
def _letters() -> _Letters:
    codes = bytes(range(FIRST, LAST + 1)).decode(ENCODING, "replace")
    font = TTFont(FOLDER / "text.ttf", recalcTimestamp=False)
    cut = subset.Subsetter(subset.Options(hinting=False, layout_features=[], notdef_outline=True))
    cut.populate(text=codes.replace("\ufffd", ""))
    cut.subset(font)
    file = io.BytesIO()
    font.save(file)
    names, advances = font.getBestCmap(), font["hmtx"]
    scale = 1000 / font["head"].unitsPerEm

    def width(letter: str) -> int:
        name = names.get(ord(letter))
        return 0 if name is None else round(advances[name][0] * scale)

    head, lines = font["head"], font["OS/2"]
    box = (head.xMin, head.yMin, head.xMax, head.yMax)
    return _Letters(
        file=file.getvalue(),
        widths=tuple(width(letter) for letter in codes),
        ascent=round(font["hhea"].ascent * scale),
        descent=round(font["hhea"].descent * scale),
        capitals=round(lines.sCapHeight * scale),
        box=tuple(round(each * scale) for each in box),
    )


def page_font(pdf: pikepdf.Pdf) -> pikepdf.Object:
    """The font, embedded in a PDF."""
    letters = _letters()
    file = pdf.make_stream(letters.file, Length1=len(letters.file))
    descriptor = pikepdf.Dictionary(
        Type=pikepdf.Name.FontDescriptor,
        FontName=pikepdf.Name(f"/{NAME}"),
        Flags=NONSYMBOLIC,
        FontBBox=list(letters.box),
        ItalicAngle=0,
        Ascent=letters.ascent,
        Descent=letters.descent,
        CapHeight=letters.capitals,
        StemV=80,
        FontFile2=file,
    )
    font = pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.TrueType,
        BaseFont=pikepdf.Name(f"/{NAME}"),
        FirstChar=FIRST,
        LastChar=LAST,
        Widths=list(letters.widths),
        FontDescriptor=pdf.make_indirect(descriptor),
        Encoding=pikepdf.Name.WinAnsiEncoding,
    )
    return pdf.make_indirect(font)


def width_pt(text: str, size_pt: float) -> float:
    """How wide a line is, points."""
    widths = _letters().widths
    codes = text.encode(ENCODING, "replace")
    return sum(widths[code - FIRST] for code in codes if code >= FIRST) * size_pt / 1000
