"""A finding of the Cut lines station."""

from typing import Any

from perisect.core.finding import Finding


def line_finding(design: str, code: str, text: str, **told: Any) -> Finding:
    """A finding about a design, to be looked at unless it is told otherwise."""
    return Finding(
        **{"code": code, "station": "lines", "severity": "look", "design": design, "text": text} | told
    )
