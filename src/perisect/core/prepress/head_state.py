"""What is said of a printer's head: when it was looked at, and where it has gaps."""

from collections import Counter
from collections.abc import Sequence
from datetime import datetime, timedelta

from perisect.core.finding import Finding
from perisect.core.prepress.head_read import Gap
from perisect.core.prepress.print_head import GROUPS

OLD_AFTER = timedelta(days=7)
"""A head that stands dries out; after a week it is looked at again."""
CLEAN = (
    "Clean the head as the printer's manual says, and print the pattern once more: a head that drops lines ruins a "
    "sheet."
)
PRINT_IT = "Print its pattern before a long job."


def head_findings(gaps: Sequence[Gap], read_at: datetime | None, now: datetime) -> list[Finding]:
    """A head that nobody looked at lately, or that has gaps."""
    if read_at is None:
        return [_look("head_unseen", f"Nobody has looked at this printer's head yet. {PRINT_IT}")]
    if gaps:
        many = Counter(gap.ink for gap in gaps)
        told = ", ".join(f"{ink} {count}" for ink, count in many.items())
        text = f"Of {GROUPS} groups of nozzles an ink some do not fire: {told}. {CLEAN}"
        return [_look("head_gaps", text, len(gaps))]
    if now - read_at > OLD_AFTER:
        days = (now - read_at).days
        return [_look("head_old", f"The head was looked at {days} days ago. {PRINT_IT}", days)]
    return []


def _look(code: str, text: str, measured: float | None = None) -> Finding:
    return Finding(code=code, station="print", severity="look", text=text, measured=measured)
