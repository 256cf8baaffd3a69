"""Why a piece of work did not end as it should."""


class Cancelled(Exception):
    """Somebody cancelled the work; nothing was changed."""


class TooBusy(Exception):
    """More is waiting than can be done soon; `seconds` is when to come back."""

    def __init__(self, seconds: int) -> None:
        super().__init__(f"come back in {seconds} s")
        self.seconds = seconds


class WorkFailed(Exception):
    """A fault of Perisect's own in a reader; the text is its traceback."""
