"""How a shop works: by what Perisect advises, or by habit in one matter and what hangs on it."""

from dataclasses import dataclass, replace
from typing import Literal


@dataclass(frozen=True)
class Way:
    """What a shop does of what it is advised.

    `calibrates`: reads the calibration page before the first sheet, and takes out what the log shows. `measures`: logs
    slips. `border`: follows the log, or is always the same. `tests`: cuts a ladder for every stock and again when the
    blade has dulled, once for all, or never. `lifts`: before a sheet is unloaded, a corner is lifted, and what
    clings is cut once more with a step more force. `head`: looks at the printer's head before the first sheet.
    `layout`: the fullest of all ways to stand, or straight rows. `spares`: prints so many that enough are good.
    """

    calibrates: bool = True
    measures: bool = True
    border: bool = True
    tests: Literal["each", "once", "never"] = "each"
    lifts: bool = True
    head: bool = True
    layout: bool = True
    spares: bool = True


ADVICE = Way()

HABITS: dict[str, Way] = {
    # A wide border stands in for measuring: whoever keeps one has nothing to calibrate for.
    "fixed-border": replace(ADVICE, border=False, measures=False, calibrates=False),
    "no-test-cut": replace(ADVICE, tests="never"),
    "one-setting": replace(ADVICE, tests="once"),
    "visual-check": replace(ADVICE, calibrates=False, measures=False, border=False, lifts=False, head=False),
    "rows-only": replace(ADVICE, layout=False),
    "print-as-ordered": replace(ADVICE, spares=False),
    "all": Way(False, False, False, "never", False, False, False, False),
}
"""By name; the last one does all of them."""

FIXED_BORDER_MM = 2.0
"""What people keep who do not measure, and what is kept until the log has enough."""
