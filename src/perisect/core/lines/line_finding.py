"""A finding of the Cut lines station."""

from typing import Any

from perisect.core.finding import Finding
from perisect.core.message import Message


def line_finding(design: str, message: Message, **fields: Any) -> Finding:
    """Return a finding about a design, to be looked at unless `fields` say otherwise; its code is the message's."""
    usual = {"code": message.code.split(".")[0], "station": "lines", "severity": "look", "design": design}
    return Finding(**{**usual, "message": message, **fields})
