"""Sizes by use."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from perisect.store import sizes
from perisect.store.database import transaction
from perisect.store.sizes import Size

router = APIRouter(prefix="/api/sizes", tags=["sizes"])


@router.get("")
def get_sizes() -> list[Size]:
    """The shop's sizes, in its own order."""
    with transaction() as session:
        return sizes.everything(session)


@router.put("")
def put_sizes(wanted: Annotated[list[Size], Field(min_length=1, max_length=60)]) -> list[Size]:
    """Put a list in the place of the one before."""
    with transaction() as session:
        sizes.save(session, wanted)
    return get_sizes()
