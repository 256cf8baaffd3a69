"""What goes wrong with lines that were asked for."""


class LineError(ValueError):
    """Lines that cannot be. `title` says what happened, `detail` what to do."""

    def __init__(self, title: str, detail: str) -> None:
        super().__init__(f"{title} {detail}")
        self.title = title
        self.detail = detail

    def __reduce__(self) -> tuple[type, tuple[str, str]]:
        # It crosses from a reader process, and its message alone would not make it again.
        return type(self), (self.title, self.detail)
