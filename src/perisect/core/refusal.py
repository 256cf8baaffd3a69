"""Why something that was asked for cannot be had."""


class Refusal(ValueError):
    """`title` says what happened, `detail` what to do."""

    def __init__(self, title: str, detail: str) -> None:
        super().__init__(f"{title} {detail}")
        self.title = title
        self.detail = detail

    def __reduce__(self) -> tuple[type, tuple[str, str]]:
        # It crosses from a reader process, and its message alone would not make it again.
        return type(self), (self.title, self.detail)
