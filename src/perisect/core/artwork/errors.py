"""What is said of bytes that cannot become artwork."""

from perisect.core.refusal import Refusal


class ArtworkError(Refusal):
    """Bytes that cannot become artwork."""
