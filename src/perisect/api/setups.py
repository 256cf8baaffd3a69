"""Set-ups kept by name."""

from typing import Annotated

from fastapi import APIRouter, Path

from perisect.api.problems import Problem
from perisect.store import setups
from perisect.store.database import transaction
from perisect.store.setups import MOST_SETUPS, SetupRecipe, TooMany

router = APIRouter(prefix="/api/setups", tags=["setups"])


@router.get("")
def get_setups() -> list[SetupRecipe]:
    """The shop's set-ups by name."""
    with transaction() as session:
        return setups.everything(session)


@router.put("")
def put_setup(setup: SetupRecipe) -> list[SetupRecipe]:
    """Save a set-up; one of the same name is replaced."""
    try:
        with transaction() as session:
            setups.save(session, setup)
    except TooMany as error:
        raise Problem(
            422, f"There are {MOST_SETUPS} set-ups already.", "Remove one that is not used."
        ) from error
    return get_setups()


@router.delete("/{name}")
def delete_setup(name: Annotated[str, Path(max_length=60)]) -> list[SetupRecipe]:
    """Take a set-up away. Jobs that used it stay as they are."""
    with transaction() as session:
        if not setups.delete(session, name):
            raise Problem(404, "There is no set-up of this name.", "Somebody has removed it already.")
    return get_setups()
