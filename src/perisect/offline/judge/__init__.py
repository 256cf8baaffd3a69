"""`perisect judge`: whole simulated shops, once by what Perisect advises and once by habit."""

from perisect.offline.judge.run import judge
from perisect.offline.judge.ways import HABITS

__all__ = ["HABITS", "judge"]
