"""A font of somebody's own: read, checked, and written anew, so that what is kept is ours."""

import io
import logging
from dataclasses import dataclass

from fontTools.ttLib import TTFont, TTLibError

# A broken font could fill the log with a line for each of its 65,535 names; what matters of it is refused below.
logging.getLogger("fontTools").setLevel(logging.CRITICAL)

MOST_BYTES = 20_000_000
MOST_UNPACKED = 60_000_000
MOST_GLYPHS = 70_000
KEPT_TABLES = {
    "head", "hhea", "maxp", "OS/2", "hmtx", "cmap", "name", "post", "glyf", "loca", "CFF ", "CFF2", "GDEF", "GPOS",
    "GSUB", "kern", "fvar", "gvar", "avar", "HVAR", "MVAR", "STAT",
}  # fmt: skip
"""What shaping and drawing need: no programs, no pictures, no colours."""
RIGHTS = {
    0x0002: "restricted: ask its maker before it is embedded",
    0x0004: "for print and preview",
    0x0008: "for editing",
}
"""Embedding rights by fsType (OpenType 1.9, OS/2)."""
FREE = "no restrictions said"


class FontRefused(ValueError):
    """A file that is no font, or none that can be used; the text says why."""


@dataclass(frozen=True)
class OwnFont:
    """A font as it is kept: its file as TrueType or OpenType, its name, what its maker lets others do, and how many
    letters it has."""

    file: bytes
    name: str
    rights: str
    letters: int


def read_font(data: bytes) -> OwnFont:
    """Read TTF, OTF or WOFF2. To be run in the sandbox: a font is a program as hostile as any picture.

    Raises:
        FontRefused.
    """
    if len(data) > MOST_BYTES:
        raise FontRefused(
            "The file is larger than 20 MB. Fonts for words are smaller; choose one style of it."
        )
    if data[:4] == b"ttcf":
        raise FontRefused("This file holds several fonts. Take one of them out of it, as TTF or OTF.")
    if data[:4] not in (b"\0\1\0\0", b"OTTO", b"true", b"wOF2", b"wOFF"):
        raise FontRefused("This is no font that Perisect reads. It reads TTF, OTF and WOFF2.")
    try:
        font = TTFont(io.BytesIO(data), lazy=False, recalcTimestamp=False)
        tables = [str(tag) for tag in font.keys() if tag not in KEPT_TABLES and tag != "GlyphOrder"]  # noqa: SIM118
        for tag in tables:
            del font[tag]
        glyphs = len(font.getGlyphOrder())
        if glyphs > MOST_GLYPHS:
            raise FontRefused(f"It has {glyphs} glyphs, more than any font needs.")
        letters = font.getBestCmap() or {}
        if not letters or not ("glyf" in font or "CFF " in font or "CFF2" in font):
            raise FontRefused("It has no letters that can be drawn.")
        name = str(font["name"].getDebugName(4) or font["name"].getDebugName(1) or "Font")
        rights = int(font["OS/2"].fsType) if "OS/2" in font else 0
        font.flavor = None
        out = io.BytesIO()
        font.save(out, reorderTables=False)
    except FontRefused:
        raise
    except (MemoryError, RecursionError) as error:
        raise FontRefused("The font needs more memory than it is given.") from error
    except TTLibError as error:
        raise FontRefused("The font is damaged or cut off. Export or download it again.") from error
    except Exception as error:
        # Its tables lead a reader to whatever exception; all of it means the same to a person.
        raise FontRefused("The font is damaged or cut off. Export or download it again.") from error
    if out.tell() > MOST_UNPACKED:
        raise FontRefused("Unpacked it is larger than any font.")
    told = next((words for bit, words in RIGHTS.items() if rights & bit), FREE)
    clean = "".join(letter for letter in name if letter.isprintable())[:80].strip() or "Font"
    return OwnFont(out.getvalue(), clean, told, len(letters))
