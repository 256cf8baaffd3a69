"""Station 2: the outline of the art and the lines that cut around it."""

from perisect.core.lines.border import CutLines, SizedArt, cut_lines
from perisect.core.lines.outline import Outline, trace

__all__ = ["CutLines", "Outline", "SizedArt", "cut_lines", "trace"]
