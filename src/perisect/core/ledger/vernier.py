"""What a person read off the calibration page."""

from perisect.core.cutting.trueing import Trueing
from perisect.core.prepress.vernier import ACROSS_AT, ALONG_AT, COMBS
from perisect.core.sheet import Stock

READS_TO_MM = 0.05
"""By eye."""


def error_of(readings_mm: dict[str, float], stock: Stock, reads_to_mm: float = READS_TO_MM) -> Trueing:
    """What a plotter is off by, from what the four combs show, mm: right and down are more.

    What a reading cannot tell from nothing is left out: both shifts are means of two readings, turn and skew their
    differences.
    """
    high, wide = ACROSS_AT * stock.height_mm, ALONG_AT * stock.width_mm
    head, foot, left, right = (readings_mm[name] for name in COMBS)
    shift_x, shift_y = (head + foot) / 2, (left + right) / 2
    # Across a page a turn takes the head right and the foot left; along it the right down and the left up.
    down_the_page, over_the_page = (foot - head) / (2 * high), (right - left) / (2 * wide)
    turn, skew = (over_the_page - down_the_page) / 2, over_the_page + down_the_page
    sure = {"shift": reads_to_mm / 2**0.5, "turn": reads_to_mm / 2**0.5 * (1 / high + 1 / wide) / 2}
    return Trueing(
        shift_x=shift_x if abs(shift_x) > sure["shift"] else 0.0,
        shift_y=shift_y if abs(shift_y) > sure["shift"] else 0.0,
        turn=turn if abs(turn) > 2 * sure["turn"] else 0.0,
        skew=skew if abs(skew) > 4 * sure["turn"] else 0.0,
    )
