"""Whole tables out and in, as CSV by PostgreSQL's own COPY: what a backup is made of, and what spreadsheets read."""

import csv
import io
from collections.abc import Generator, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

import psycopg
from psycopg import sql

from perisect.store.settings import settings

KEPT = (
    "artwork",
    "job",
    "step",
    "print",
    "run",
    "setup",
    "size_by_use",
    "equipment",
    "shop_setting",
    "shelf_item",
    "shelf_use",
    "customer_order",
    "order_item",
    "stock_move",
    "stock_item",
    "job_pin",
    "tone",
    "print_scale",
    "setup_card",
    "head_check",
    "cut_book",
    "ladder_cut",
    "vernier_page",
    "plotter_trueing",
    "own_font",
)
"""Tables of a backup, each after those it refers to. Sign-ins, the queue, addresses of simulated machines and the plan
of the day are of a running shop and are made anew."""
SECRET = "passphrase"
"""The setting that does not leave the shop."""
BEGUN = ("job", "shelf_item", "customer_order", "stock_move", "equipment", "artwork")
"""A shop in which none of these has a row is empty."""


@contextmanager
def connection() -> Iterator[psycopg.Connection]:
    """A connection of one's own, a transaction long."""
    with psycopg.connect(settings().libpq_url, connect_timeout=5) as made:
        yield made


def hold_backup(connection: psycopg.Connection) -> bool:
    """Let nobody else make a backup until this connection ends, however it ends; return whether nobody did."""
    row = connection.execute("SELECT pg_try_advisory_lock(hashtext('perisect backup'))").fetchone()
    connection.commit()
    return row is not None and bool(row[0])


def begin_snapshot(connection: psycopg.Connection) -> None:
    """Have every table seen as it is now, whatever others write."""
    connection.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")


def revision(connection: psycopg.Connection) -> str:
    """Which migration the tables are of."""
    row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    return "" if row is None else str(row[0])


ADDED: dict[str, dict[str, set[str]]] = {
    "0012": {"cut_book": {"blade_m"}, "ladder_cut": {"taken_force", "taken_m"}},
    "0013": {"run": {"counted_at"}},
    "0014": {"print": {"scrap"}},
    "0015": {},
    "0016": {},
    "0017": {"head_check": {"heartbeat_at"}},
}
"""Columns that may be empty or have a value by themselves, by table and the migration that added them. A migration that
is not listed here changes tables so that backups of before it cannot be put back."""
RENAMED = {"0016": {"print": {"recipe_hash": "made_key"}}}
"""New name by old name of columns, by table and the migration that renamed them."""
DROPPED = {"0017": {"run": {"cancel", "pause", "asked", "orders"}}}
"""Columns that are no more, by table and the migration that dropped them."""
REKEYED = "0016"
"""Migration since which prints are known by the key of what they make."""


@dataclass
class Older:
    """Differences of the tables of an earlier version from those of this one.

    Attributes:
        lacking: columns that they do not have, by table.
        renamed: new name of a column by its old one, by table.
        dropped: columns that only they have, by table.
        is_keyed: False if keys of prints are of another kind.
    """

    lacking: dict[str, set[str]] = field(default_factory=dict)
    renamed: dict[str, dict[str, str]] = field(default_factory=dict)
    dropped: dict[str, set[str]] = field(default_factory=dict)
    is_keyed: bool = True


def older(of: str, here: str) -> Older | None:
    """Return how tables of version `of` differ from version `here`; None where they cannot be put into these."""
    found = Older()
    if of == here:
        return found
    since = [f"{number:04}" for number in range(int(of) + 1, int(here) + 1)] if of.isdecimal() else []
    if not since or not set(since) <= ADDED.keys():
        return None
    for version in since:
        for table, columns in ADDED[version].items():
            found.lacking[table] = found.lacking.get(table, set()) | columns
        for table, names in RENAMED.get(version, {}).items():
            found.renamed[table] = found.renamed.get(table, {}) | names
        for table, columns in DROPPED.get(version, {}).items():
            found.dropped[table] = found.dropped.get(table, set()) | columns
    found.is_keyed = REKEYED not in since
    return found


def is_empty(connection: psycopg.Connection) -> bool:
    """Whether nothing was ever begun in this shop."""
    for table in BEGUN:
        query = sql.SQL("SELECT 1 FROM {} LIMIT 1").format(sql.Identifier(table))
        if connection.execute(query).fetchone() is not None:
            return False
    return True


def count_of(connection: psycopg.Connection, table: str) -> int:
    """Return how many rows a table has."""
    found = connection.execute(sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(table))).fetchone()
    return 0 if found is None else int(found[0])


def csv_of(connection: psycopg.Connection, table: str) -> Generator[bytes, None, None]:
    """A table as CSV with its column names, by rows in their order."""
    where = sql.SQL("WHERE key <> {}").format(sql.Literal(SECRET)) if table == "shop_setting" else sql.SQL("")
    query = sql.SQL("COPY (SELECT * FROM {} {} ORDER BY 1) TO STDOUT (FORMAT csv, HEADER)").format(
        sql.Identifier(table), where
    )
    with connection.cursor().copy(query) as out:
        for block in out:
            yield bytes(block)


def read_csv(connection: psycopg.Connection, table: str, blocks: Iterable[bytes], columns: list[str]) -> None:
    """Put rows of CSV into a table and have its numbers go on after them.

    Raises:
        psycopg.Error: they do not fit.
    """
    names = sql.SQL(", ").join(sql.Identifier(column) for column in columns)
    query = sql.SQL("COPY {} ({}) FROM STDIN (FORMAT csv, HEADER)").format(sql.Identifier(table), names)
    with connection.cursor().copy(query) as into:
        for block in blocks:
            into.write(block)
    if "id" in columns:
        # What is numbered by text has no sequence, and is left.
        found = connection.execute("SELECT pg_get_serial_sequence(%s, 'id')", (table,)).fetchone()
        if found is not None and found[0] is not None:
            connection.execute(
                sql.SQL("SELECT setval({}, GREATEST((SELECT max(id) FROM {}), 1))").format(
                    sql.Literal(found[0]), sql.Identifier(table)
                )
            )


NEEDED = """
    SELECT 'artwork/' || left(sha256, 2) || '/' || sha256 FROM artwork
    UNION SELECT 'fonts/' || sha256 FROM own_font
    UNION SELECT profile FROM tone WHERE profile IS NOT NULL
    UNION SELECT picture FROM print WHERE picture IS NOT NULL
    UNION SELECT picture FROM run WHERE picture IS NOT NULL
    UNION SELECT 'tables/' || left(list, 2) || '/' || list FROM (
        SELECT design->'labels'->>'table' AS list
        FROM step, jsonb_array_elements(CASE jsonb_typeof(step.recipe->'designs') WHEN 'array'
             THEN step.recipe->'designs' ELSE '[]'::jsonb END) AS design
    ) AS lists WHERE list IS NOT NULL
"""
"""Names of the blobs without which rows of these tables are worth nothing."""


def blobs_needed(connection: psycopg.Connection) -> list[str]:
    """Return the names of the blobs that the rows of the shop need."""
    return [str(name) for (name,) in connection.execute(NEEDED).fetchall()]


@contextmanager
def with_columns(connection: psycopg.Connection, table: str, columns: set[str]) -> Iterator[None]:
    """Give a table columns that it had in an earlier version, for as long as rows of that version are read."""
    name = sql.Identifier(table)
    for column in sorted(columns):
        connection.execute(sql.SQL("ALTER TABLE {} ADD COLUMN {} text").format(name, sql.Identifier(column)))
    yield
    for column in sorted(columns):
        connection.execute(sql.SQL("ALTER TABLE {} DROP COLUMN {}").format(name, sql.Identifier(column)))


def columns_of(connection: psycopg.Connection, table: str) -> list[str]:
    """Column names of a table."""
    rows = connection.execute(
        "SELECT column_name FROM information_schema.columns "
        "WHERE table_schema = current_schema() AND table_name = %s ORDER BY ordinal_position",
        (table,),
    ).fetchall()
    return [str(name) for (name,) in rows]


def settle(connection: psycopg.Connection) -> None:
    """What was under way when the backup was made is over in the shop that it is put into."""
    connection.execute(
        "UPDATE print SET state = 'cancelled', claim = NULL, message = 'It was on its way when the backup was made.' "
        "WHERE state IN ('queued', 'printing')"
    )
    connection.execute(
        "UPDATE run SET state = 'stopped', claim = NULL, "
        "message = 'It was under way when the backup was made.' "
        "WHERE state NOT IN ('done', 'stopped', 'cancelled')"
    )
    connection.execute("UPDATE head_check SET state = 'failed' WHERE state IN ('queued', 'printing')")
    connection.execute("UPDATE ladder_cut SET state = 'failed' WHERE state IN ('queued', 'cutting')")
    connection.execute(
        "UPDATE vernier_page SET state = 'failed' WHERE state IN ('queued', 'printing', 'waiting', 'cutting')"
    )


RISKY = ("=", "+", "-", "@", "\t", "\r")


def for_spreadsheets(blocks: Iterable[bytes]) -> Iterator[bytes]:
    """CSV in which no cell is taken for a formula: one that begins like one, and is no number, gets a quote before it
    (OWASP, CSV injection)."""
    for row in csv.reader(_lines_of(blocks)):
        line = io.StringIO()
        csv.writer(line).writerow([_safe(cell) for cell in row])
        yield line.getvalue().encode()


def _lines_of(blocks: Iterable[bytes]) -> Iterator[str]:
    """Yield the lines of UTF-8 that comes in blocks, each with its end."""
    rest = b""
    for block in blocks:
        *lines, rest = (rest + block).splitlines(keepends=True) or [b""]
        if rest.endswith(b"\n"):
            lines, rest = [*lines, rest], b""
        yield from (line.decode() for line in lines)
    if rest:
        yield rest.decode()


def _safe(cell: str) -> str:
    if not cell.startswith(RISKY):
        return cell
    try:
        float(cell)
    except ValueError:
        return f"'{cell}"
    return cell
