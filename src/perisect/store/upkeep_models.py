"""Tables of what the shop knows of its machines: cards, checks, calibrations, settings."""

from datetime import datetime
from typing import Any

from sqlalchemy import (
    ForeignKey,
    Identity,
    Index,
    String,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from perisect.store.models import Base


class SetupCardRow(Base):
    """How a printer is set for a stock, and when somebody last said that it is set so."""

    __tablename__ = "setup_card"

    printer: Mapped[str] = mapped_column(String(40), primary_key=True)
    stock: Mapped[str] = mapped_column(String(40), primary_key=True)
    card: Mapped[dict[str, Any]]
    ticked_at: Mapped[datetime | None]


class HeadCheckRow(Base):
    """One check of a printer's head: its pattern printed, and where it has gaps once somebody has looked.

    A printer prints one pattern at a time, and the database says so.
    """

    __tablename__ = "head_check"
    __table_args__ = (
        Index(
            "head_check_under_way",
            "printer",
            unique=True,
            postgresql_where=text("state IN ('queued', 'printing')"),
        ),
        Index("head_check_of_printer", "printer", "id"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    printer: Mapped[str] = mapped_column(String(40))
    state: Mapped[str] = mapped_column(String(16))
    """queued, printing, printed or failed; read once the gaps are known."""
    message: Mapped[str | None]
    stock: Mapped[dict[str, Any]]
    """The numbers of the stock it is printed on."""
    picture: Mapped[str | None] = mapped_column(String(200))
    px_per_mm: Mapped[float | None]
    heartbeat_at: Mapped[datetime] = mapped_column(server_default=func.now())
    gaps: Mapped[list[dict[str, Any]]] = mapped_column(default=list)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    read_at: Mapped[datetime | None]


class VernierRow(Base):
    """A calibration page of a plotter.

    A plotter has one that is under way, and the database says so.
    """

    __tablename__ = "vernier_page"
    __table_args__ = (
        Index(
            "vernier_under_way",
            "plotter",
            unique=True,
            postgresql_where=text("state IN ('queued', 'printing', 'waiting', 'cutting')"),
        ),
        Index("vernier_of_plotter", "plotter", "id"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    plotter: Mapped[str] = mapped_column(String(40))
    state: Mapped[str] = mapped_column(String(16))
    """queued, printing, printed, waiting, cutting, cut or failed; read once the combs are."""
    message: Mapped[str | None]
    sheet: Mapped[dict[str, Any]]
    """The sheet recipe that it is made for."""
    picture: Mapped[str | None] = mapped_column(String(200))
    px_per_mm: Mapped[float | None]
    photo: Mapped[str | None] = mapped_column(String(200))
    trued: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    """What it was trued by when it was cut."""
    readings: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())
    """When its state changed, or its worker was heard, last."""


class PlotterTrueing(Base):
    """What is taken out of every cut of a plotter."""

    __tablename__ = "plotter_trueing"

    plotter: Mapped[str] = mapped_column(String(40), primary_key=True)
    trueing: Mapped[dict[str, Any]]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())


class Tone(Base):
    """What is done to colours for one printer, stock and quality, and the profile its proofs are made with."""

    __tablename__ = "tone"

    printer: Mapped[str] = mapped_column(String(40), primary_key=True)
    stock: Mapped[str] = mapped_column(String(40), primary_key=True)
    quality: Mapped[str] = mapped_column(String(16), primary_key=True)
    tone: Mapped[dict[str, Any]] = mapped_column(default=dict)
    profile: Mapped[str | None] = mapped_column(String(200))
    """Name of a blob."""
    profile_name: Mapped[str | None] = mapped_column(String(200))


class BookRow(Base):
    """An entry of the settings book."""

    __tablename__ = "cut_book"

    stock: Mapped[str] = mapped_column(String(40), primary_key=True)
    process: Mapped[str] = mapped_column(String(24), primary_key=True)
    plotter: Mapped[str] = mapped_column(String(40), primary_key=True)
    blade: Mapped[str] = mapped_column(String(40), primary_key=True, default="")
    laminated: Mapped[bool] = mapped_column(primary_key=True, default=False)
    setting: Mapped[dict[str, Any]]
    source: Mapped[str] = mapped_column(String(12))
    """example, hand, test or shop."""
    sure: Mapped[float | None]
    note: Mapped[str] = mapped_column(String(200), default="")
    at: Mapped[datetime]
    blade_m: Mapped[float | None]
    """What the blade had cut until then; unknown of another shop's."""


class LadderRow(Base):
    """A test cut: its ladders and their answers. A plotter cuts one ladder at a time, and the database says so."""

    __tablename__ = "ladder_cut"
    __table_args__ = (
        Index(
            "ladder_has_plotter",
            "plotter",
            unique=True,
            postgresql_where=text("state IN ('queued', 'cutting')"),
        ),
        Index("ladder_of", "plotter", "stock_id", "process", "id"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    plotter: Mapped[str] = mapped_column(String(40))
    stock_id: Mapped[str] = mapped_column(String(40))
    process: Mapped[str] = mapped_column(String(24))
    blade: Mapped[str] = mapped_column(String(40), default="")
    laminated: Mapped[bool] = mapped_column(default=False)
    print_id: Mapped[int | None] = mapped_column(ForeignKey("print.id", ondelete="SET NULL"), index=True)
    """The printed sheet on whose spare area it is cut; a scrap without."""
    stock: Mapped[dict[str, Any]]
    """The numbers of the stock, its film with them."""
    start: Mapped[dict[str, Any]]
    """The setting that all steps share but for the force."""
    prior: Mapped[float]
    """The force that was expected."""
    state: Mapped[str] = mapped_column(String(12))
    """queued, cutting, cut (to be answered), answered, or failed."""
    ladders: Mapped[list[dict[str, Any]]] = mapped_column(default=list)
    """Forces, and answers in their order once they are given; on a printed sheet the box it takes and its columns."""
    taken_force: Mapped[float | None]
    """What went into the book, and what the blade had cut until then."""
    taken_m: Mapped[float | None]
    message: Mapped[str | None]
    picture: Mapped[str | None] = mapped_column(String(200))
    heartbeat_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class PrintScale(Base):
    """By how much larger a printer is sent what is printed on a stock, so that it comes out at true size."""

    __tablename__ = "print_scale"

    printer: Mapped[str] = mapped_column(String(40), primary_key=True)
    stock: Mapped[str] = mapped_column(String(40), primary_key=True)
    across: Mapped[float]
    along: Mapped[float]
    checked_at: Mapped[datetime]
