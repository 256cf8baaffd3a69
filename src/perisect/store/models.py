"""Tables. A recipe is JSONB; what people search and count has columns of its own."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, DateTime, ForeignKey, Identity, Index, String, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {  # noqa: RUF012
        dict[str, Any]: JSONB,
        list[dict[str, Any]]: JSONB,
        datetime: DateTime(timezone=True),
    }


class Artwork(Base):
    """A picture as it was dropped; its bytes and what was derived from them are blobs under its hash."""

    __tablename__ = "artwork"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    width_px: Mapped[int]
    height_px: Mapped[int]
    background: Mapped[str] = mapped_column(String(16))
    clear_share: Mapped[float]
    byte_count: Mapped[int] = mapped_column(BigInteger)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Job(Base):
    """A job; `cursor` is the number of the step that holds now, `revision` rises with every write."""

    __tablename__ = "job"

    id: Mapped[int] = mapped_column(Identity(start=101), primary_key=True)
    title: Mapped[str] = mapped_column(String(120))
    cursor: Mapped[int]
    revision: Mapped[int]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    updated_at: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())
    steps: Mapped[list["Step"]] = relationship(order_by="Step.number", cascade="all, delete-orphan")


class Step(Base):
    """One kept change: undo goes to the parent, redo to the newest child."""

    __tablename__ = "step"
    __table_args__ = (UniqueConstraint("job_id", "number"), Index("step_parent", "job_id", "parent"))

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    number: Mapped[int]
    parent: Mapped[int | None]
    label: Mapped[str] = mapped_column(String(160))
    recipe: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Print(Base):
    """One sheet sent to the printer, with the recipe it was made from: the cut follows the print."""

    __tablename__ = "print"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    step: Mapped[int]
    sheet: Mapped[int]
    """From 0."""
    recipe: Mapped[dict[str, Any]]
    state: Mapped[str] = mapped_column(String(16))
    """queued, printed or failed."""
    message: Mapped[str | None]
    picture: Mapped[str | None] = mapped_column(String(200))
    px_per_mm: Mapped[float | None]
    tone: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """What was done to its colours on the way."""
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Run(Base):
    """One cut of a printed sheet and what was measured on it."""

    __tablename__ = "run"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    print_id: Mapped[int] = mapped_column(ForeignKey("print.id", ondelete="CASCADE"), index=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    state: Mapped[str] = mapped_column(String(16))
    """queued, loading, sensing, cutting, unloading, measuring; then done, stopped or cancelled."""
    message: Mapped[str | None]
    lines_done: Mapped[int] = mapped_column(default=0)
    lines_total: Mapped[int] = mapped_column(default=0)
    cancel: Mapped[bool] = mapped_column(default=False)
    registration: Mapped[dict[str, Any] | None]
    seconds: Mapped[float | None]
    """Simulated by the plotter."""
    slips: Mapped[list[dict[str, Any]] | None]
    slip_largest_mm: Mapped[float | None]
    slip_mean_mm: Mapped[float | None]
    good: Mapped[int | None]
    bad: Mapped[int | None]
    picture: Mapped[str | None] = mapped_column(String(200))
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    heartbeat_at: Mapped[datetime] = mapped_column(server_default=func.now())
    finished_at: Mapped[datetime | None]

    print: Mapped[Print] = relationship()


class Setup(Base):
    """A set-up kept by name."""

    __tablename__ = "setup"

    name: Mapped[str] = mapped_column(String(60), primary_key=True)
    recipe: Mapped[dict[str, Any]] = mapped_column(default=dict)


class StockTone(Base):
    """What is done to colours for one stock, and the profile its proofs are made with."""

    __tablename__ = "stock_tone"

    stock: Mapped[str] = mapped_column(String(40), primary_key=True)
    tone: Mapped[dict[str, Any]] = mapped_column(default=dict)
    profile: Mapped[str | None] = mapped_column(String(200))
    """Name of a blob."""
    profile_name: Mapped[str | None] = mapped_column(String(200))


class SizeByUse(Base):
    """A size the shop makes things at: one side, or a box that is filled exactly."""

    __tablename__ = "size_by_use"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    use: Mapped[str] = mapped_column(String(60))
    side: Mapped[str] = mapped_column(String(16))
    """longest, width, height or box."""
    mm: Mapped[float]
    height_mm: Mapped[float | None]


class Thing(Base):
    """A stock, a printer or a plotter of the shop."""

    __tablename__ = "thing"

    kind: Mapped[str] = mapped_column(String(16), primary_key=True)
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    recipe: Mapped[dict[str, Any]] = mapped_column(default=dict)
