"""How long work takes, by when the log says that things were asked for and done.

What lies between two entries is work or a pause, so the middle of what may be work is told, and only of enough of it.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from statistics import median

LEAST_TIMES = 5
LONGEST_S = {"print_min": 1800.0, "sheet_min": 900.0, "sticker_s": 120.0}
"""By the rate that it is compared with; what takes longer was interrupted."""
UNIT_S = {"print_min": 60.0, "sheet_min": 60.0, "sticker_s": 1.0}

Span = tuple[datetime, datetime]


@dataclass(frozen=True)
class WorkTime:
    """What a rate of the shop's costs is by its log, in the rate's own unit, and by how many times."""

    rate: str
    value: float
    times: int


def print_time(prints: Iterable[Sequence[Span]]) -> WorkTime | None:
    """Of a sheet at a printer: from when it was asked for, or the one before it was done.

    Args:
        prints: for each printer when sheets were asked for and done, in their order.
    """
    seconds = []
    for mine in prints:
        free: datetime | None = None
        for asked, done in mine:
            begun = asked if free is None else max(asked, free)
            seconds.append((done - begun).total_seconds())
            free = done
    return _middle("print_min", seconds)


def sheet_time(cuts: Iterable[Sequence[Span]]) -> WorkTime | None:
    """By hand at a sheet: between the end of a cut and the next one's beginning a sheet is taken off and another one
    laid in.

    Args:
        cuts: for each plotter when cuts began and were over, in their order.
    """
    gaps = [(begun - over).total_seconds() for mine in cuts for (_, over), (begun, _) in pairwise(mine)]
    return _middle("sheet_min", gaps)


def sticker_time(counts: Iterable[tuple[datetime, datetime, int]]) -> WorkTime | None:
    """By hand at a sticker: when a cut was over, when it was counted, and how many stickers were."""
    return _middle(
        "sticker_s", [(counted - over).total_seconds() / many for over, counted, many in counts if many]
    )


def _middle(rate: str, seconds: Sequence[float]) -> WorkTime | None:
    # A clock that was set back tells nothing.
    work = [each for each in seconds if 0 < each <= LONGEST_S[rate]]
    if len(work) < LEAST_TIMES:
        return None
    return WorkTime(rate, median(work) / UNIT_S[rate], len(work))
