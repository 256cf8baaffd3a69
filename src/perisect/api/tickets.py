"""What long work is doing, and a way to stop it.

A request that may take a while carries a ticket of the caller's own making in `X-Ticket`; under it the
caller asks how far the work is, and cancels it.
"""

import re
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Depends, Header
from pydantic import BaseModel

from perisect.api.problems import Problem
from perisect.tasks import isolated

router = APIRouter(prefix="/api/readings", tags=["readings"])

Ticket = Annotated[str | None, Header(alias="X-Ticket", pattern=r"^[A-Za-z0-9-]{4,40}$")]

SHARES = {
    "": 0.02,
    "Opening the picture": 0.1,
    "Looking at the background": 0.25,
    "Removing the background": 0.35,
    "Removing the colour": 0.45,
    "Removing specks": 0.55,
    "Drawing the frame": 0.6,
    "Enlarging": 0.65,
    "Tracing the outline": 0.75,
    "Making a preview": 0.92,
}
"""About how far the work is at each stage, by what the stages of a large picture take."""


async def _under_ticket(x_ticket: Ticket = None) -> AsyncIterator[None]:
    with isolated.under_ticket(x_ticket):
        yield


TAKES_A_WHILE = [Depends(_under_ticket)]
"""Dependencies of a route whose work can be watched and cancelled."""


class ReadingView(BaseModel):
    """What is being done, and about how far it is (0 to 1)."""

    doing: str
    share: float


@router.get("/{ticket}")
def get_reading(ticket: str) -> ReadingView:
    """How far the work under a ticket is."""
    doing = isolated.doing(ticket)
    if doing is None:
        raise _unknown()
    return ReadingView(doing=doing or "Waiting for a reader", share=_share(doing))


def _share(doing: str) -> float:
    """About how far work at a stage is; of a page its drawings are counted."""
    if (counted := re.fullmatch(r"Reading drawing (\d+) of (\d+)", doing)) is not None:
        return 0.4 + 0.6 * (int(counted[1]) - 1) / int(counted[2])
    if (counted := re.fullmatch(r"Nesting, (\d+) of (\d+) s left", doing)) is not None:
        return 1 - int(counted[1]) / max(1, int(counted[2]))
    return SHARES.get(doing, 0.5)


@router.delete("/{ticket}", status_code=204)
def delete_reading(ticket: str, best: bool = True) -> None:
    """Cancel the work under a ticket. The request that carries it gets a refusal, and nothing is changed; a search
    ends with the best so far, unless that is not wanted."""
    if not isolated.cancel(ticket, gently=best):
        raise _unknown()


def _unknown() -> Problem:
    return Problem(404, "Nothing is being done under this ticket.", "It is finished, or was never begun.")
