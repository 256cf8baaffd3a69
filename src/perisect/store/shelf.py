"""The shelf: finished designs, and the pieces of jobs that came from it."""

from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from perisect.store.models import Run
from perisect.store.trade_models import OrderItem, ShelfItem, ShelfUse

MOST = 5000


class UnknownShelfItem(KeyError):
    """Nothing on the shelf has this number."""


class ShelfStale(Exception):
    """Somebody changed it meanwhile."""


class ShelfFull(Exception):
    """The shelf holds as many as it may."""


class StillOrdered(Exception):
    """Orders name it."""


def get(session: Session, item_id: int, lock: bool = False) -> ShelfItem:
    """One of the shelf.

    Raises:
        UnknownShelfItem.
    """
    query = select(ShelfItem).where(ShelfItem.id == item_id)
    item = session.scalar(query.with_for_update() if lock else query)
    if item is None:
        raise UnknownShelfItem(item_id)
    return item


def found(session: Session, named: str, skip: int, most: int) -> list[ShelfItem]:
    """What is called or tagged so, by name."""
    query = select(ShelfItem).order_by(func.lower(ShelfItem.name), ShelfItem.id).offset(skip).limit(most)
    for word in named.split():
        tagged = ShelfItem.tags.contains([word.lower()])
        query = query.where(ShelfItem.name.icontains(word, autoescape=True) | tagged)
    return list(session.scalars(query))


def add(session: Session, **values: Any) -> ShelfItem:
    """Put a design on the shelf.

    Raises:
        ShelfFull.
    """
    if (session.scalar(select(func.count()).select_from(ShelfItem)) or 0) >= MOST:
        raise ShelfFull
    item = ShelfItem(**values)
    session.add(item)
    session.flush()
    session.refresh(item)
    return item


def change(session: Session, item_id: int, version: int, **values: Any) -> ShelfItem:
    """Change one that is still at this version.

    Raises:
        UnknownShelfItem, ShelfStale.
    """
    item = session.scalar(
        update(ShelfItem)
        .where(ShelfItem.id == item_id, ShelfItem.version == version)
        .values(version=version + 1, updated_at=func.now(), **values)
        .returning(ShelfItem)
    )
    if item is None:
        get(session, item_id)
        raise ShelfStale
    return item


def remove(session: Session, item_id: int) -> None:
    """Take one off the shelf; jobs keep their pieces.

    Raises:
        UnknownShelfItem, StillOrdered.
    """
    get(session, item_id)
    try:
        with session.begin_nested():
            session.execute(delete(ShelfItem).where(ShelfItem.id == item_id))
    except IntegrityError as error:
        raise StillOrdered from error


def use(session: Session, job_id: int, design: str, item: ShelfItem) -> None:
    """A piece of a job is of the shelf, at its version of now."""
    values = {"shelf_id": item.id, "version": item.version}
    session.execute(
        insert(ShelfUse)
        .values(job_id=job_id, design=design, **values)
        .on_conflict_do_update(index_elements=["job_id", "design"], set_=values)
    )


def uses(session: Session, job_id: int) -> dict[str, ShelfUse]:
    """Pieces of a job that came from the shelf, by their ids."""
    return {each.design: each for each in session.scalars(select(ShelfUse).where(ShelfUse.job_id == job_id))}


def times_used(session: Session, ids: list[int]) -> dict[int, int]:
    """In how many jobs each is."""
    rows = session.execute(
        select(ShelfUse.shelf_id, func.count(ShelfUse.job_id.distinct()))
        .where(ShelfUse.shelf_id.in_(ids))
        .group_by(ShelfUse.shelf_id)
    )
    return {int(item): int(many) for item, many in rows}


def ordered(session: Session, ids: list[int]) -> dict[int, int]:
    """How many of each orders have asked for."""
    rows = session.execute(
        select(OrderItem.shelf_id, func.sum(OrderItem.quantity))
        .where(OrderItem.shelf_id.in_(ids))
        .group_by(OrderItem.shelf_id)
    )
    return {int(item): int(many) for item, many in rows}


def counted_runs(session: Session, ids: list[int]) -> list[tuple[int, str, Run]]:
    """Counted cuts of pieces of the shelf: the item, the piece's id, and the run."""
    rows = session.execute(
        select(ShelfUse.shelf_id, ShelfUse.design, Run)
        .join(Run, Run.job_id == ShelfUse.job_id)
        .where(ShelfUse.shelf_id.in_(ids), Run.count.is_not(None))
    )
    return [(int(item), str(design), run) for item, design, run in rows]
