"""The settings book of the shop."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from perisect.core.cutting.book import BookEntry, BookKey, Duller, Known, Surroundings, known
from perisect.core.cutting.setting import CutSetting
from perisect.core.cutting.wear import TakenTest, wear_of
from perisect.core.process import processes
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.shop_records import PlotterRecord, StockRecord
from perisect.store import equipment, stock_moves
from perisect.store.locks import hold
from perisect.store.upkeep_models import BookRow, LadderRow
from perisect.store.versions import check_version, version_of

MOST, MOST_TESTS = 5000, 500
COLUMNS = ("stock", "process", "plotter", "blade", "laminated")


class BookFull(Exception):
    """The book has no room for more."""


def all_of(session: Session) -> list[BookEntry]:
    """Every entry, by stock and plotter."""
    rows = session.scalars(
        select(BookRow).order_by(BookRow.stock, BookRow.plotter, BookRow.process, BookRow.blade)
    )
    return [_entry(row) for row in rows]


def find(session: Session, key: BookKey) -> BookEntry | None:
    """Return the entry of a key, None where there is none."""
    row = session.get(BookRow, tuple(getattr(key, name) for name in COLUMNS), populate_existing=True)
    return None if row is None else _entry(row)


def version_of_key(session: Session, key: BookKey) -> str:
    """Return the version of the entry of a key."""
    entry = find(session, key)
    return version_of(None if entry is None else entry.model_dump(mode="json"))


def save(session: Session, entry: BookEntry, expected: str | None = None) -> None:
    """Save an entry; one of the same key is replaced.

    Args:
        session: the transaction that it is saved in.
        entry: what is known from now on.
        expected: the version that the change was made from.

    Raises:
        BookFull: there is no room for another one.
        StaleRecord: somebody changed it meanwhile.
    """
    hold(session, "cut_book")
    if expected is not None:
        before = find(session, entry.key)
        check_version(expected, None if before is None else before.model_dump(mode="json"))
    if (session.scalar(select(func.count()).select_from(BookRow)) or 0) >= MOST:
        raise BookFull
    values: dict[str, Any] = {
        "setting": entry.setting.model_dump(mode="json"),
        "source": entry.source,
        "sure": entry.sure,
        "note": entry.note,
        "at": entry.at or datetime.now(UTC),
        "blade_m": None if entry.source == "shop" else blade_metres(session, entry.key.plotter),
    }
    session.execute(
        insert(BookRow)
        .values(**entry.key.model_dump(), **values)
        .on_conflict_do_update(index_elements=list(COLUMNS), set_=values)
    )


def forget(session: Session, key: BookKey) -> None:
    """Take an entry out."""
    session.execute(
        delete(BookRow).where(*(getattr(BookRow, name) == value for name, value in key.model_dump().items()))
    )


def key_of(sheet: SheetRecipe, plotter: PlotterRecord, process: str, laminated: bool) -> BookKey:
    """What a process on a sheet is looked up by."""
    return BookKey(
        stock=sheet.on.id, process=process, plotter=plotter.id, blade=plotter.blade, laminated=laminated
    )


def around(session: Session, sheet: SheetRecipe) -> Surroundings:
    """Everything that settings are compared by; the stock of a sheet as the job copied it."""
    plotters = equipment.all_of(session, "plotter", PlotterRecord)
    stocks = {each.id: each.recipe for each in equipment.all_of(session, "stock", StockRecord)}
    return Surroundings(
        stocks | {sheet.on.id: sheet.on},
        {each.id: each.force for each in plotters},
        {each.id: each.name for each in plotters},
        _duller(session),
    )


def tested_key(row: LadderRow) -> BookKey:
    """What a test cut was of."""
    return BookKey(
        stock=row.stock_id,
        process=row.process,
        plotter=row.plotter,
        blade=row.blade,
        laminated=row.laminated,
    )


def blade_metres(session: Session, plotter: str) -> float:
    """What the blade in a plotter has cut."""
    return sum(stock_moves.cut_by_stock(session, plotter).values())


def _duller(session: Session) -> dict[BookKey, Duller]:
    """How much duller the blade is since each entry was kept, at plotters whose test cuts show wear."""
    taken: dict[tuple[str, str], list[TakenTest]] = {}
    tests = (
        select(LadderRow)
        .where(LadderRow.taken_force.is_not(None))
        .order_by(LadderRow.id.desc())
        .limit(MOST_TESTS)
    )
    for row in session.scalars(tests):
        if row.taken_force and row.taken_m is not None:
            key = tested_key(row)
            taken.setdefault((row.plotter, row.blade), []).append(
                TakenTest(key, row.taken_force, row.taken_m)
            )
    found: dict[BookKey, Duller] = {}
    for (plotter, blade), mine in taken.items():
        wear = wear_of(mine)
        if wear is None:
            continue
        now = blade_metres(session, plotter)
        kept = select(BookRow).where(
            BookRow.plotter == plotter, BookRow.blade == blade, BookRow.blade_m.is_not(None)
        )
        for entry in session.scalars(kept):
            since = now - (entry.blade_m or 0.0)
            found[_entry(entry).key] = Duller(since, wear.factor(since))
    return found


def known_of(
    session: Session, sheet: SheetRecipe, plotter: PlotterRecord, laminated: bool = False
) -> dict[str, Known]:
    """What each process is cut with on a sheet at a plotter, under film or not."""
    entries, shop = all_of(session), around(session, sheet)
    keys = {each.name: key_of(sheet, plotter, each.name, laminated) for each in processes()}
    return {process: known(key, entries, shop) for process, key in keys.items()}


def settings_of(
    session: Session, sheet: SheetRecipe, plotter: PlotterRecord, laminated: bool = False
) -> dict[str, CutSetting]:
    """The same, settings alone."""
    return {process: each.setting for process, each in known_of(session, sheet, plotter, laminated).items()}


def _entry(row: BookRow) -> BookEntry:
    key = BookKey(
        stock=row.stock,
        process=row.process,
        plotter=row.plotter,
        blade=row.blade,
        laminated=row.laminated,
    )
    return BookEntry(
        key=key,
        setting=CutSetting.model_validate(row.setting),
        source=row.source,  # type: ignore[arg-type]
        sure=row.sure,
        note=row.note,
        at=row.at,
    )
