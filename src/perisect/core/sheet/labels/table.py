"""A list as it comes out of other programs: a CSV or what was copied from a table."""

import codecs
import csv
import io
import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice

MOST_BYTES = 8_000_000
MOST_ROWS = 20_000
MOST_COLUMNS = 60
MOST_CELL = 400
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f]")


class TableError(ValueError):
    """It cannot be used as a list; the text says why and what to do."""


@dataclass(frozen=True, eq=False)
class Table:
    """Columns by name, rows of as many cells, and what was noticed on the way. One is itself alone: whoever
    keeps it compares hashes of its bytes."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    notes: tuple[str, ...] = ()

    def row(self, index: int) -> dict[str, str]:
        """A row by its columns' names."""
        return dict(zip(self.columns, self.rows[index], strict=True))


def read_table(data: bytes) -> Table:
    """Read a list whose first row names its columns.

    Cells are text whatever they look like: nothing is worked out. Short rows are filled up and what is
    too long is cut off, and both are told.

    Raises:
        TableError: no list, or more of one than is taken.
    """
    if len(data) > MOST_BYTES:
        raise TableError("The list is larger than 8 MB. Split it.")
    text, notes = _decoded(data)
    # Row after row: what is too long is refused before it is built.
    lines = list(islice(_rows(text), MOST_ROWS + 2))
    if len(lines) < 2:
        raise TableError("The list needs a row of column names and at least one row under it.")
    if len(lines) - 1 > MOST_ROWS:
        raise TableError(f"The list has more than {MOST_ROWS} rows, which is the most at a time. Split it.")
    head, *body = lines
    columns = _named(head[:MOST_COLUMNS])
    ragged = sum(len(row) != len(head) for row in body)
    if ragged:
        notes.append(
            f"{ragged} rows are shorter or longer than the first: empty cells were added, extra ones left out."
        )
    width = len(columns)
    rows = tuple(tuple(_clean(cell) for cell in (row + [""] * width)[:width]) for row in body)
    formulas = sum(cell.startswith("=") for row in rows for cell in row)
    if formulas:
        notes.append(f"{formulas} cells look like formulas: they are printed as they are written.")
    return Table(columns, rows, tuple(notes))


def _decoded(data: bytes) -> tuple[str, list[str]]:
    if data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return data.decode("utf-16", "replace"), []
    if b"\0" in data:
        raise TableError("This is not a list of text. Save it as CSV and drop it again.")
    try:
        return data.decode("utf-8-sig"), []
    except UnicodeDecodeError:
        note = "The list is not in UTF-8; it was read as Western European. Look at its accents."
        return data.decode("cp1252", "replace"), [note]


def _rows(text: str) -> Iterator[list[str]]:
    """Yield the rows that hold something, as they are read."""
    first = text.split("\n", 1)[0]
    delimiter = max("\t;,", key=first.count)
    try:
        for row in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter):
            if any(cell.strip() for cell in row):
                yield row
    except csv.Error as error:
        raise TableError(f"The list cannot be read ({error}). Save it as CSV and drop it again.") from error


def _named(head: list[str]) -> tuple[str, ...]:
    """Names of the columns, each once and none empty."""
    names: list[str] = []
    for number, cell in enumerate(head, start=1):
        name = re.sub(r"[{}]", "", _clean(cell))[:40] or f"column {number}"
        while name in names:
            name = f"{name[:36]} {number}"
        names.append(name)
    return tuple(names)


def _clean(cell: str) -> str:
    return _CONTROL.sub("", cell).strip()[:MOST_CELL]
