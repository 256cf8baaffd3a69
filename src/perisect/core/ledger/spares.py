"""How many to print so that enough of them are good."""

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
