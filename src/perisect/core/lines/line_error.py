"""What goes wrong with lines that were asked for."""

from perisect.core.refusal import Refusal


class LineError(Refusal):
    """Lines that cannot be."""
