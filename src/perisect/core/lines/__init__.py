"""Station 2: the outline of the art and the lines that cut around it."""

from perisect.core.lines.cut_lines import CutLines
from perisect.core.lines.line_error import LineError
from perisect.core.lines.outline import Outline, trace
from perisect.core.lines.recipe import HangRecipe, LineRecipe, PatchRecipe, TabRecipe
from perisect.core.lines.sized_art import SizedArt, cut_lines

__all__ = [
    "CutLines",
    "HangRecipe",
    "LineError",
    "LineRecipe",
    "Outline",
    "PatchRecipe",
    "SizedArt",
    "TabRecipe",
    "cut_lines",
    "trace",
]
