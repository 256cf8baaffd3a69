"""Labels: a list drives text and codes on a design, one row a label."""

from perisect.core.sheet.labels.fit import FittedText, fit_text
from perisect.core.sheet.labels.label import LabelArt, Painted, PaintedCode, PaintedText, label_art
from perisect.core.sheet.labels.recipe import CodeBox, LabelRecipe, ShortForm, TextBox
from perisect.core.sheet.labels.table import Table, TableError, read_table

__all__ = [
    "CodeBox",
    "FittedText",
    "LabelArt",
    "LabelRecipe",
    "Painted",
    "PaintedCode",
    "PaintedText",
    "ShortForm",
    "Table",
    "TableError",
    "TextBox",
    "fit_text",
    "label_art",
    "read_table",
]
