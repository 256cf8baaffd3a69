"""The font files that ship, for labels and for drawings whose own fonts are not on this machine."""

from pathlib import Path

FOLDER = Path(__file__).parent
FAMILY = "Atkinson Hyperlegible Next"
"""The family of `text.ttf` and `text-bold.ttf`."""
