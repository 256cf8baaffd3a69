"""Tables. A recipe is JSONB; what people search and count has columns of its own."""

from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    DateTime,
    Enum,
    ForeignKey,
    Identity,
    Index,
    LargeBinary,
    String,
    Text,
    UniqueConstraint,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from perisect.core.cutting.run_state import RunState


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
    byte_count: Mapped[int] = mapped_column(BigInteger)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Job(Base):
    """A job; `cursor` is the number of the step that holds now, `revision` rises with every write."""

    __tablename__ = "job"

    id: Mapped[int] = mapped_column(Identity(start=101), primary_key=True)
    title: Mapped[str] = mapped_column(String(120))
    cursor: Mapped[int]
    revision: Mapped[int]
    designs: Mapped[int] = mapped_column(default=0)
    """Pieces of the recipe that holds now."""
    recipe_hash: Mapped[str] = mapped_column(String(64), default="")
    pictures: Mapped[list[str]] = mapped_column(JSONB, default=list)
    """Of its first pieces."""
    due_at: Mapped[datetime | None]
    archived_at: Mapped[datetime | None]
    """When it was put away."""
    more_of: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"), index=True)
    """The job whose order lacked what this one makes."""
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
    batch: Mapped[str | None] = mapped_column(String(40))
    """Pictures that were dropped together come in as one step, one after the other."""
    aside: Mapped[bool] = mapped_column(default=False)
    """A version that somebody gave up for another: redo does not go there."""
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Print(Base):
    """One sheet sent to a printer, with the recipe it was made from: the cut follows the print.

    A printer prints one at a time, and the database says so.
    """

    __tablename__ = "print"
    __table_args__ = (
        Index("print_has_printer", "printer", unique=True, postgresql_where=text("state = 'printing'")),
        Index("print_waits", "printer", "id", postgresql_where=text("state = 'queued'")),
        Index("print_of_printer", "printer", "id"),
        Index("print_of_batch", "batch", "id"),
        Index("print_left", "id", postgresql_where=text("scrap IS NOT NULL")),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    step: Mapped[int]
    sheet: Mapped[int]
    """From 0."""
    recipe: Mapped[dict[str, Any]]
    made_key: Mapped[str] = mapped_column(String(64), default="")
    """Key of what the recipe makes (`core.job.made`); empty where the recipe cannot be read any more."""
    printer: Mapped[str] = mapped_column(String(40))
    """Id of the shop's printer."""
    state: Mapped[str] = mapped_column(String(16))
    """queued, printing; or out, handed to whoever prints it; then printed, failed, cancelled or spoiled; unknown while
    nobody has said whether it came out."""
    way: Mapped[str] = mapped_column(String(8), default="link")
    """How it comes to paper: by the printer link, one's own print dialog, or a print shop."""
    message: Mapped[str | None]
    claim: Mapped[str | None] = mapped_column(String(40))
    """Who prints it: only that worker changes it."""
    heartbeat_at: Mapped[datetime | None]
    finished_at: Mapped[datetime | None]
    picture: Mapped[str | None] = mapped_column(String(200))
    px_per_mm: Mapped[float | None]
    tone: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """What was done to its colours on the way."""
    across: Mapped[float] = mapped_column(default=1.0)
    along: Mapped[float] = mapped_column(default=1.0)
    """By how much its file is larger than true, for its printer."""
    batch: Mapped[str | None] = mapped_column(String(40))
    """Prints that were asked for together."""
    copy: Mapped[int] = mapped_column(default=1)
    copies: Mapped[int] = mapped_column(default=1)
    name: Mapped[str] = mapped_column(String(60), default="")
    """Whose copy it is."""
    scrap: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    """What is left of the sheet, where it was kept; see `scraps`."""
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Run(Base):
    """One cut of a printed sheet and what was measured on it.

    A plotter has one run that is not over, and the database says so.
    """

    __tablename__ = "run"
    __table_args__ = (
        Index(
            "run_has_plotter",
            "plotter",
            unique=True,
            postgresql_where=text("state NOT IN ('done', 'stopped', 'cancelled')"),
        ),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    print_id: Mapped[int] = mapped_column(ForeignKey("print.id", ondelete="CASCADE"), index=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    state: Mapped[RunState] = mapped_column(
        Enum(RunState, native_enum=False, create_constraint=False, length=16, values_callable=list)
    )
    plotter: Mapped[str] = mapped_column(String(40))
    """Id of the shop's plotter."""
    message: Mapped[str | None]
    claim: Mapped[str | None] = mapped_column(String(40))
    """Who leads it: only that worker changes it."""
    swept: Mapped[bool] = mapped_column(default=False)
    """Closed because nothing was heard of its worker, which may yet report."""
    lines_done: Mapped[int] = mapped_column(default=0)
    lines_total: Mapped[int] = mapped_column(default=0)
    cut_m: Mapped[float] = mapped_column(default=0.0)
    """Metres that were cut, all passes."""
    first_line: Mapped[int] = mapped_column(default=0)
    """The line it begins with, from 0: the sheet was cut as far as that before."""
    left_out: Mapped[bool] = mapped_column(default=False)
    """Whether the line before that was left as it was in the blade."""
    laid_in_before: Mapped[bool] = mapped_column(default=False)
    """Whether the sheet had been laid in anew before this run already."""
    notice: Mapped[str | None]
    """What was seen of the sheet that did not stop the run."""
    marks: Mapped[list[dict[str, Any]] | None]
    """How each mark was seen; their pictures are blobs of the run."""
    share: Mapped[float] = mapped_column(default=0.0)
    """Of the time of its lines, so much is over."""
    predicted_s: Mapped[float | None]
    """What its lines take in all, as was told before."""
    hold: Mapped[bool] = mapped_column(default=False)
    """Whether the sheet stays in after the cut, until somebody says unload."""
    ask: Mapped[bool] = mapped_column(default=False)
    """Whether somebody is by, to set a mark that the sensor does not find."""
    marking: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    """The marks while a person sets them."""
    stock: Mapped[str] = mapped_column(String(40), default="")
    """Id of the stock it was cut in."""
    aimed: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    """What the cut was trued by, the sheet's middle and its marks, mm."""
    registration: Mapped[dict[str, Any] | None]
    seconds: Mapped[float | None]
    """Simulated by the plotter."""
    slips: Mapped[list[dict[str, Any]] | None]
    measured_by: Mapped[str] = mapped_column(String(16), default="plotter")
    """What its slips were read from: what a simulated plotter shows, or a picture of the sheet."""
    slip_largest_mm: Mapped[float | None]
    slip_mean_mm: Mapped[float | None]
    good: Mapped[int | None]
    bad: Mapped[int | None]
    stickers: Mapped[list[dict[str, Any]] | None] = mapped_column(JSONB(none_as_null=True))
    """What is on the sheet, in its order: design and box, mm."""
    count: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    """What a person found; `count_version` rises with each count."""
    count_version: Mapped[int] = mapped_column(default=0)
    counted_good: Mapped[int | None]
    counted_bad: Mapped[int | None]
    counted_at: Mapped[datetime | None]
    """When it was counted first."""
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


class SizeByUse(Base):
    """A size the shop makes things at: one side, or a box that is filled exactly."""

    __tablename__ = "size_by_use"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    use: Mapped[str] = mapped_column(String(60))
    side: Mapped[str] = mapped_column(String(16))
    """longest, width, height or box."""
    mm: Mapped[float]
    height_mm: Mapped[float | None]


class Equipment(Base):
    """A stock, a printer or a plotter of the shop."""

    __tablename__ = "equipment"

    kind: Mapped[str] = mapped_column(String(16), primary_key=True)
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    recipe: Mapped[dict[str, Any]] = mapped_column(default=dict)


class DeviceAddress(Base):
    """Where a simulated machine of this shop listens now."""

    __tablename__ = "device_address"

    kind: Mapped[str] = mapped_column(String(16), primary_key=True)
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    address: Mapped[str] = mapped_column(String(200))


class Operation(Base):
    """Long work that somebody asked for: done by a worker, followed and cancelled through this row.

    Of one question (`key`) one operation is open at a time.
    """

    __tablename__ = "operation"
    __table_args__ = (
        Index(
            "operation_of_question",
            "key",
            unique=True,
            postgresql_where=text("state IN ('queued', 'working')"),
        ),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(String(24))
    key: Mapped[str] = mapped_column(String(80))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    request: Mapped[dict[str, Any]] = mapped_column(default=dict)
    state: Mapped[str] = mapped_column(String(16))
    """queued, working; then done, failed or cancelled."""
    doing: Mapped[str] = mapped_column(String(80), default="")
    share: Mapped[float] = mapped_column(default=0.0)
    stop: Mapped[str] = mapped_column(String(8), default="")
    """Empty; `best` for what there is by now; `drop` for nothing."""
    tries: Mapped[int] = mapped_column(default=0)
    result: Mapped[dict[str, Any] | None]
    problem: Mapped[dict[str, Any] | None]
    """Status, title and detail of a failed one."""
    claim: Mapped[str | None] = mapped_column(String(40))
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    heartbeat_at: Mapped[datetime | None]
    finished_at: Mapped[datetime | None]


class ShopSetting(Base):
    """What the shop has set once: its name, its passphrase."""

    __tablename__ = "shop_setting"

    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[str] = mapped_column(Text)


class SignIn(Base):
    """Somebody who is signed in, by the hash of what their browser shows."""

    __tablename__ = "sign_in"

    token_hash: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    expires_at: Mapped[datetime]


class SignInTry(Base):
    """A wrong passphrase, so that nobody tries them all."""

    __tablename__ = "sign_in_try"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    address: Mapped[str] = mapped_column(String(64), index=True)
    network: Mapped[str] = mapped_column(String(64), server_default="", index=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class SignInAddress(Base):
    """An address that has signed in before, which nobody else's wrong tries lock out."""

    __tablename__ = "sign_in_address"

    address: Mapped[str] = mapped_column(String(64), primary_key=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())
