"""Long work: how far it is, and how to stop it."""

from typing import Literal

from fastapi import APIRouter

from perisect.api.problems import Problem
from perisect.api.views import OperationView, operation_view
from perisect.api.waiting import WaitS, ended
from perisect.store import operations
from perisect.store.database import transaction
from perisect.store.models import Operation

router = APIRouter(prefix="/api/operations", tags=["operations"])


@router.get("/{operation_id}")
async def get_operation(operation_id: int, wait_s: WaitS) -> OperationView:
    """How an operation stands, once it is over or the caller has waited long enough."""
    with transaction() as session:
        found = session.get(Operation, operation_id)
    return operation_view(await ended(_there(found), wait_s))


@router.post("/{operation_id}/stop")
def post_stop(operation_id: int, how: Literal["best", "drop"] = "drop") -> OperationView:
    """Stop an operation: a search ends with the `best` so far, or nothing is changed."""
    with transaction() as session:
        return operation_view(_there(operations.stop(session, operation_id, how)))


@router.delete("/{operation_id}", status_code=204)
def delete_operation(operation_id: int) -> None:
    """Forget an operation that is over."""
    with transaction() as session:
        operations.dismiss(session, operation_id)


def _there(found: Operation | None) -> Operation:
    if found is None:
        raise Problem(404, "There is no such operation.", "It is over, or was never begun.")
    return found
