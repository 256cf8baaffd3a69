"""What is said of a printer's head: when it was looked at, and where it has gaps."""

from collections import Counter
from collections.abc import Sequence
from datetime import datetime, timedelta

from perisect.core.finding import Finding
from perisect.core.message import Message, quantity, says
from perisect.core.prepress.head_read import Gap
from perisect.core.prepress.print_head import GROUPS

OLD_AFTER = timedelta(days=7)
"""A head that stands dries out; after a week it is looked at again."""


def head_findings(gaps: Sequence[Gap], read_at: datetime | None, now: datetime) -> list[Finding]:
    """A head that nobody looked at lately, or that has gaps."""
    if read_at is None:
        return [_look(says("head_unseen"))]
    if gaps:
        many = Counter(gap.ink for gap in gaps)
        told = ", ".join(f"{ink} {count}" for ink, count in many.items())
        return [_look(says("head_gaps", groups=GROUPS, gaps=told), len(gaps))]
    if now - read_at > OLD_AFTER:
        days = (now - read_at).days
        return [_look(says("head_old", days=quantity(days, "days", 0)), days)]
    return []


def _look(message: Message, measured: float | None = None) -> Finding:
    return Finding(code=message.code, station="print", severity="look", message=message, measured=measured)
