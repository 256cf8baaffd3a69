"""Versions of the shop's records in requests and answers (RFC 9110, 8.8.3 and 13.1.1)."""

from typing import Annotated

from fastapi import Header

IfMatch = Annotated[
    str | None,
    Header(
        alias="If-Match",
        max_length=40,
        description="The version that the change was made from; another one is answered with 409 and both.",
    ),
]


def expected(if_match: str | None) -> str | None:
    """Return the version that a request names; None where it names none, or `*` for whatever is there."""
    plain = None if if_match is None else if_match.strip().removeprefix("W/").strip('"')
    return None if plain == "*" else plain
