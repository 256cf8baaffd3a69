"""The font files that ship, for labels, words, and drawings whose own fonts are not on this machine."""

from pathlib import Path
from typing import Literal

FOLDER = Path(__file__).parent
FAMILY = "Atkinson Hyperlegible Next"
"""The family of `text.ttf` and `text-bold.ttf`."""
FontName = Literal["text", "text-bold", "head", "mono", "script", "stencil", "round"]
TITLES: dict[FontName, str] = {
    "text": "Plain",
    "text-bold": "Plain, bold",
    "head": "Headings",
    "mono": "Typewriter",
    "script": "Script",
    "stencil": "Stencil",
    "round": "Round",
}
"""What each is called where one is chosen."""
OTHER_SCRIPTS = (
    "noto",
    "noto-arabic",
    "noto-hebrew",
    "noto-devanagari",
    "noto-thai",
    "noto-armenian",
    "noto-georgian",
)
"""Fonts for letters that a chosen one lacks, tried in this order."""
