"""How many to print so that enough of them are good."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.special import betainc

SURE = 0.95
MOST_PRINTED = 2_000_000


class NeverEnough(ValueError):
    """So many are rejected that no number is enough."""


def least_to_print(order: int, reject_rate: float, sure: float = SURE) -> int:
    """The least n for which P(good >= order) >= `sure`, when each is rejected with `reject_rate` by itself.

    Exact, by the binomial law, whose upper tail is the regularized incomplete beta function (Abramowitz and Stegun
    26.5.24); n is found by halving, for the probability grows with it.

    Raises:
        NeverEnough: more than `MOST_PRINTED` would be needed.
    """
    if order <= 0:
        return 0
    good = 1 - reject_rate
    low, high = order, order

    def is_enough(n: int) -> bool:
        return bool(betainc(order, n - order + 1, good) >= sure)

    while not is_enough(high):
        low, high = high + 1, high * 2
        if high > MOST_PRINTED:
            raise NeverEnough(f"more than {MOST_PRINTED} would have to be printed")
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if is_enough(middle) else (middle + 1, high)
    return low


BELIEVED_SHARES = (0.0,) * 6 + (0.005,) * 6 + (0.01,) * 4 + (0.02,) * 2 + (0.1, 0.35)
"""Of rejects on a sheet, before anything was counted: mostly a few, now and then a sheet of which a third is lost."""
WEIGHS_AS = 12.0
"""So many counted sheets weigh as much as that."""
DRAWS = 2000
MOST_SHEETS_DRAWN = 40
"""Of more sheets the law of large numbers makes each like the mean."""


class RejectLog:
    """How many of a sheet are rejected, by the sheets that were counted; stickers of one sheet share its fate.

    The next sheet's share is believed to be that of a sheet drawn from those counted and from what is believed of shops
    before they count (a smoothed bootstrap, Rubin 1981), each share itself a beta posterior of its count.

    Args:
        sheets: good and bad stickers of each.
    """

    def __init__(self, sheets: Sequence[tuple[int, int]]) -> None:
        self._counts = np.array([each for each in sheets if sum(each)], float).reshape(-1, 2)

    def enough(self, wanted: int, sheets: Sequence[int]) -> float:
        """The chance that at least `wanted` of the stickers of these sheets are good."""
        rng = np.random.default_rng(len(sheets) + 1000 * wanted)
        good = sum((rng.binomial(many, 1 - self._shares(rng)) for many in sheets), start=np.zeros(DRAWS))
        return float((good >= wanted).mean())

    def least(self, wanted: int, a_sheet: int, sure: float = SURE) -> tuple[int, float]:
        """How many to print, so many on a sheet, that enough are good with this chance; and that chance.

        Raises:
            NeverEnough.
        """
        if wanted <= 0:
            return 0, 1.0

        def chance(many: int) -> float:
            return self.enough(wanted, [*([a_sheet] * (many // a_sheet)), many % a_sheet])

        low = high = wanted
        while chance(high) < sure:
            low, high = high + 1, high + max(high // 8, 1)
            if high > MOST_PRINTED:
                raise NeverEnough(f"more than {MOST_PRINTED} would have to be printed")
        while low < high:
            middle = (low + high) // 2
            low, high = (low, middle) if chance(middle) >= sure else (middle + 1, high)
        return low, chance(low)

    def _shares(self, rng: np.random.Generator) -> NDArray[np.float64]:
        """(DRAWS,) rejected shares of a sheet."""
        believed = rng.choice(BELIEVED_SHARES, DRAWS)
        if not len(self._counts):
            return believed
        good, bad = self._counts[rng.integers(0, len(self._counts), DRAWS)].T
        seen = rng.beta(bad + 0.1, good + 2.0)
        from_log = rng.uniform(size=DRAWS) < len(self._counts) / (len(self._counts) + WEIGHS_AS)
        return np.where(from_log, seen, believed)
