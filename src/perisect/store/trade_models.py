"""Tables of the shop's trade: what it has, whose orders it makes, what it keeps on the shelf, and its plan."""

from datetime import datetime
from decimal import Decimal
from typing import Any

from sqlalchemy import (
    CheckConstraint,
    ForeignKey,
    Identity,
    Index,
    Numeric,
    PrimaryKeyConstraint,
    String,
    func,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from perisect.store.models import Base


class StockMove(Base):
    """So much of an item went from one place to another. Nothing is ever changed here; what was wrong is moved back."""

    __tablename__ = "stock_move"
    __table_args__ = (
        CheckConstraint("quantity > 0", name="stock_move_is_some"),
        CheckConstraint("out_of <> into_place", name="stock_move_is_a_move"),
        Index("stock_move_of_item", "item", "id"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    item: Mapped[str] = mapped_column(String(60))
    out_of: Mapped[str] = mapped_column(String(16))
    into: Mapped[str] = mapped_column("into_place", String(16))
    quantity: Mapped[Decimal] = mapped_column(Numeric(14, 3))
    why: Mapped[str] = mapped_column(String(200))
    key: Mapped[str | None] = mapped_column(String(80), unique=True)
    """What it is of: told twice it is moved once."""
    job_id: Mapped[int | None]
    at: Mapped[datetime] = mapped_column(server_default=func.now(), index=True)


class ItemRow(Base):
    """How an item is bought."""

    __tablename__ = "stock_item"

    item: Mapped[str] = mapped_column(String(60), primary_key=True)
    settings: Mapped[dict[str, Any]] = mapped_column(default=dict)


class ShelfItem(Base):
    """A finished design; `version` rises with every change."""

    __tablename__ = "shelf_item"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    tags: Mapped[list[str]] = mapped_column(JSONB, default=list)
    recipe: Mapped[dict[str, Any]]
    """The design, as a job would hold it."""
    sheet: Mapped[dict[str, Any]]
    """Stock, printer and plotter that it was made on."""
    picture: Mapped[str] = mapped_column(String(64))
    version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    updated_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ShelfUse(Base):
    """A piece of a job that came from the shelf, and the version it has."""

    __tablename__ = "shelf_use"
    __table_args__ = (PrimaryKeyConstraint("job_id", "design"),)

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    design: Mapped[str] = mapped_column(String(40))
    shelf_id: Mapped[int] = mapped_column(ForeignKey("shelf_item.id", ondelete="CASCADE"), index=True)
    version: Mapped[int]


class CustomerOrder(Base):
    """What somebody wants, by when."""

    __tablename__ = "customer_order"

    id: Mapped[int] = mapped_column(Identity(start=501), primary_key=True)
    who: Mapped[str] = mapped_column(String(120))
    address: Mapped[str] = mapped_column(String(400), default="")
    note: Mapped[str] = mapped_column(String(400), default="")
    due_at: Mapped[datetime | None]
    price: Mapped[Decimal | None] = mapped_column(Numeric(12, 2))
    state: Mapped[str] = mapped_column(String(16), default="open")
    """open; then sent or cancelled."""
    version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    closed_at: Mapped[datetime | None]
    lines: Mapped[list["OrderItem"]] = relationship(
        order_by="OrderItem.id", cascade="all, delete-orphan", lazy="selectin"
    )


class OrderItem(Base):
    """So many of a design of the shelf, at a size; `job_id` and `design` say where they are made.

    What one job cannot hold is made in several, each with a row of its own.
    """

    __tablename__ = "order_item"
    __table_args__ = (
        Index("order_item_of_job", "job_id"),
        CheckConstraint("quantity > 0", name="order_item_is_some"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    order_id: Mapped[int] = mapped_column(ForeignKey("customer_order.id", ondelete="CASCADE"))
    shelf_id: Mapped[int] = mapped_column(ForeignKey("shelf_item.id", ondelete="RESTRICT"))
    longest_mm: Mapped[float]
    quantity: Mapped[int]
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"))
    design: Mapped[str | None] = mapped_column(String(40))
    shelf: Mapped[ShelfItem] = relationship(lazy="joined")


class JobPin(Base):
    """What somebody has decided of a job's step in the plan."""

    __tablename__ = "job_pin"
    __table_args__ = (PrimaryKeyConstraint("job_id", "step"),)

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    step: Mapped[str] = mapped_column(String(24))
    start_at: Mapped[datetime]


class DayPlan(Base):
    """The plan that was made last; one row."""

    __tablename__ = "day_plan"
    __table_args__ = (CheckConstraint("id = 1", name="day_plan_is_one"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(String(64))
    begin_at: Mapped[datetime]
    plan: Mapped[dict[str, Any]]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class FontRow(Base):
    """A font of the shop's own; its file is a blob under its hash."""

    __tablename__ = "own_font"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    rights: Mapped[str] = mapped_column(String(80))
    letters: Mapped[int]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
