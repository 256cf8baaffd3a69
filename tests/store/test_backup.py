"""The whole shop in one file and back: the same bytes, the same answers, and nothing changed by a file that is bad."""

import csv
import hashlib
import io
import json
import os
import re
import signal
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import psycopg
import pytest

from tests.core import drawings

STAR = drawings.png(drawings.coverage(drawings.star(300, 120))[0], (150, 60, 40))


@contextmanager
def shop_of_its_own(name: str, folder: Path) -> Iterator[None]:
    """Another, empty shop: a database and a folder of blobs of its own."""
    from perisect.store import blobs
    from perisect.store.database import engine
    from perisect.store.migrate import migrate
    from perisect.store.settings import settings

    def turn_to(url: str, where: str) -> None:
        os.environ["PERISECT_DATABASE_URL"], os.environ["PERISECT_BLOBS"] = url, where
        settings.cache_clear()
        engine.cache_clear()
        blobs._place.cache_clear()

    before = os.environ["PERISECT_DATABASE_URL"], os.environ["PERISECT_BLOBS"]
    with psycopg.connect(settings().libpq_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}")
    turn_to(before[0].rsplit("/", 1)[0] + f"/{name}", f"file://{folder}/{name}")
    try:
        migrate()
        yield
    finally:
        engine().dispose()
        turn_to(*before)


@pytest.fixture
def filled(shop: Path, tmp_path: Path) -> Iterator[dict]:
    """A shop with a job, a design on the shelf, an order, and moves of its stock."""
    from perisect.core.job import DesignRecipe, JobRecipe, SheetRecipe
    from perisect.services import orders, printing, shelf, stockroom
    from perisect.services.pictures import take_in
    from perisect.store import jobs
    from perisect.store.database import transaction
    from perisect.store.orders import Line, Said

    with shop_of_its_own(f"filled{time.time_ns()}", tmp_path):
        design = DesignRecipe(id="d1", name="=Star", artwork=take_in(STAR)[0], longest_mm=40, copies=3)
        with transaction() as session:
            job = jobs.create(
                session,
                'Comma, "quote"\nand line',
                JobRecipe(designs=(design,), sheet=SheetRecipe(fill=False)),
            )
            stockroom.book(session, "stock:a4", "delivery", 50, "", "delivery-1")
        item = shelf.put(job.id, "d1", None, ["river"])
        order = orders.enter(Said("Mill", "", "", None, None, [Line(item.id, 40.0, 12)]))
        made = orders.make_jobs([order])
        printing.ask_for_prints(job.id, printing.Copies(), "shop")
        yield {"jobs": [job.id, made[0].id], "order": order, "shelf": item.id}


def answers(told: dict) -> list[object]:
    """What the shop says when it is asked."""
    from perisect.services import orders
    from perisect.services.plans import plan
    from perisect.store import jobs, prints, stock_moves
    from perisect.store import orders as order_store
    from perisect.store.database import transaction

    with transaction() as session:
        recipes = [jobs.recipe(session, jobs.get(session, each)) for each in told["jobs"]]
        levels = stock_moves.levels(session)
        (order,) = orders.orders_now(session, [order_store.get(session, told["order"])])
        lines = [(line.item.quantity, line.item.job_id, line.item.shelf.tags) for line in order.lines]
        printed = {row.made_key for row in prints.of_job(session, told["jobs"][0])}
    assert printed == {plan(recipes[0]).made_key}, "what was printed is current"
    return [recipes, [plan(each).cut_files.file("svg", 0) for each in recipes], levels, lines]


def all_blobs() -> dict[str, bytes | None]:
    from perisect.store import blobs

    return {name: blobs.get(name) for name in blobs.every()}


@pytest.mark.long
def test_a_backup_put_into_an_empty_shop_gives_the_same_files_and_answers(
    filled: dict, tmp_path: Path
) -> None:
    from perisect.services.backup import write_backup
    from perisect.services.restore import BackupError, restore
    from perisect.store import jobs
    from perisect.store.database import transaction

    file = tmp_path / "shop.zip"
    before, bytes_before = answers(filled), all_blobs()
    write_backup(file)
    assert zipfile.ZipFile(file).testzip() is None
    with file.open("rb") as data, pytest.raises(BackupError, match="jobs or records of its own"):
        restore(data)  # this shop is not empty
    assert all_blobs() == bytes_before
    with shop_of_its_own(f"second{time.time_ns()}", tmp_path):
        with file.open("rb") as data:
            restore(data)
        assert answers(filled) == before
        assert all_blobs() == bytes_before
        with transaction() as session:
            # Numbers go on where they were.
            assert jobs.create(session, "Next").id == max(filled["jobs"]) + 1
        with file.open("rb") as data, pytest.raises(BackupError):
            restore(data)


def older(backup: bytes, version: str, lacking: dict[str, set[str]]) -> io.BytesIO:
    """The same backup, as a shop of an older version made it: without these columns of its tables."""
    found = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(backup)) as archive:
        entries = {name: archive.read(name) for name in archive.namelist()}
    told = json.loads(entries.pop("manifest.json"))
    told["revision"] = version
    if version < "0016":
        # Prints were known by a hash of the whole recipe.
        prints = entries["tables/print.csv"].replace(b"made_key", b"recipe_hash", 1)
        entries["tables/print.csv"] = re.sub(rb"(?<=,)[0-9a-f]{64}(?=,)", b"0" * 64, prints)
    # What was asked of a run stood in the run.
    once = {"run": {"cancel": "f", "pause": "f", "asked": '{"unload": true}', "orders": ""}}
    had = once if version < "0017" else {}
    for table in {*lacking, *had}:
        name = f"tables/{table}.csv"
        reader, out = csv.DictReader(io.StringIO(entries[name].decode(), newline="")), io.StringIO(newline="")
        more = had.get(table, {})
        kept = [column for column in reader.fieldnames or [] if column not in lacking.get(table, set())]
        writer = csv.DictWriter(out, [*kept, *more], extrasaction="ignore", lineterminator="\n")
        writer.writeheader()
        writer.writerows({**row, **more} for row in reader)
        entries[name] = out.getvalue().encode()
    for name, data in entries.items():
        told["entries"][name] = {"sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)}
    with zipfile.ZipFile(found, "w") as archive:
        archive.writestr("manifest.json", json.dumps(told))
        for name, data in entries.items():
            archive.writestr(name, data)
    return found


@pytest.mark.long
def test_a_backup_of_before_a_column_came_is_put_back_without_it(filled: dict, tmp_path: Path) -> None:
    from perisect.services.backup import write_backup
    from perisect.services.restore import BackupError, restore

    file = tmp_path / "shop.zip"
    before = answers(filled)
    write_backup(file)
    of_0012 = older(file.read_bytes(), "0012", {"run": {"counted_at"}, "head_check": {"heartbeat_at"}})
    of_0011 = older(
        file.read_bytes(),
        "0011",
        {
            "run": {"counted_at"},
            "cut_book": {"blade_m"},
            "ladder_cut": {"taken_force", "taken_m"},
        },
    )
    for n, backup in enumerate((of_0012, of_0011)):
        with shop_of_its_own(f"older{n}{time.time_ns()}", tmp_path):
            restore(backup)
            assert answers(filled) == before
    with shop_of_its_own(f"older2{time.time_ns()}", tmp_path):
        # A column of today's that is simply missing is a fault still, and so is a version to come.
        with pytest.raises(BackupError, match="columns"):
            restore(older(file.read_bytes(), "0012", {"run": {"counted_at", "message"}}))
        with pytest.raises(BackupError, match="version"):
            restore(older(file.read_bytes(), "9999", {}))


Spoil = Callable[[dict[str, bytes]], None]


def _manifest(change: Callable[[dict], None]) -> Spoil:
    def spoil(entries: dict[str, bytes]) -> None:
        told = json.loads(entries["manifest.json"])
        change(told)
        entries["manifest.json"] = json.dumps(told).encode()

    return spoil


def _first_blob(entries: dict[str, bytes]) -> str:
    return next(name for name in entries if name.startswith("blobs/artwork"))


SPOILED: dict[str, Spoil] = {
    "a byte of a picture": lambda e: e.update({_first_blob(e): e[_first_blob(e)][:-1] + b"x"}),
    "no manifest": lambda e: e.pop("manifest.json") and None,
    "a stranger among it": lambda e: e.update({"blobs/extra": b"?"}),
    "a table less": lambda e: e.pop("tables/job.csv") and None,
    "another format": _manifest(lambda told: told.update(format="other 9")),
    "another version": _manifest(lambda told: told.update(revision="0001")),
    "no entries": _manifest(lambda told: told.update(entries=7)),
    "a way out": _manifest(
        lambda told: told["entries"].update({"blobs/../../x": {"sha256": "", "bytes": 0}})
    ),
}


def test_a_damaged_or_foreign_backup_is_refused_and_nothing_is_written(filled: dict, tmp_path: Path) -> None:
    from perisect.services.backup import write_backup
    from perisect.services.restore import BackupError, restore
    from perisect.store import dump

    file = tmp_path / "shop.zip"
    write_backup(file)
    with zipfile.ZipFile(file) as archive:
        whole = {name: archive.read(name) for name in archive.namelist()}
    bad = {"half of it": file.read_bytes()[:2000], "no zip": b"not a zip"}
    for how, spoil in SPOILED.items():
        entries, spoiled = dict(whole), io.BytesIO()
        spoil(entries)
        with zipfile.ZipFile(spoiled, "w") as archive:
            for name, data in entries.items():
                archive.writestr(name, data)
        bad[how] = spoiled.getvalue()
    with shop_of_its_own(f"third{time.time_ns()}", tmp_path):
        for how, data in bad.items():
            with pytest.raises(BackupError):
                restore(io.BytesIO(data))
            assert all_blobs() == {}, how
        with dump.connection() as connection:
            assert dump.is_empty(connection)


@pytest.mark.long
def test_the_ledger_balances_whatever_dies_in_between(filled: dict) -> None:
    """Eight at once move things about, every third of them dying before it is through."""
    from perisect.services import stockroom
    from perisect.store import stock_moves
    from perisect.store.database import transaction

    kept = []

    class Killed(Exception):
        pass

    def one(n: int) -> None:
        rng = np.random.default_rng(n)
        much, what = float(rng.integers(1, 20)), ("delivery", "waste")[int(rng.integers(2))]
        try:
            with transaction() as session:
                stockroom.book(
                    session, "stock:a4-film", what, much, "", f"event-{n // 2:06d}"
                )  # each is told twice
                if n % 3 == 0:
                    raise Killed
        except Killed:
            return
        kept.append((n // 2, what, much))

    with ThreadPoolExecutor(8) as crowd:
        list(crowd.map(one, range(600)))
    with transaction() as session:
        assert stock_moves.unbalanced(session) == {}
        moves = {
            row.key: row
            for row in stock_moves.page(session, "stock:a4-film", None, 1000)
            if row.key[:5] == "event"
        }
        level = stock_moves.level_of(session, "stock:a4-film")
    said = {f"event-{n:06d}": {(what, much)} for n, what, much in kept}
    for n, what, much in kept:
        said[f"event-{n:06d}"].add((what, much))
    # Each event that was told to its end is there once, as one of those who told it said; and nothing else is.
    assert set(moves) == set(said)
    for key, row in moves.items():
        what = "delivery" if row.into == "shelf" else "waste"
        assert (what, float(row.quantity)) in said[key]
    by_hand = sum(float(row.quantity) * (1 if row.into == "shelf" else -1) for row in moves.values())
    assert level.shelf == pytest.approx(75 + by_hand)  # the shop's record said 75


def test_a_table_as_csv_holds_no_formula(filled: dict) -> None:
    from perisect.store import dump

    with dump.connection() as connection:
        text = b"".join(dump.for_spreadsheets(dump.csv_of(connection, "shelf_item"))).decode()
    assert text.startswith("id,name,tags")
    assert ",'=Star," in text


def test_what_nobody_refers_to_goes_and_what_somebody_needs_stays(filled: dict, tmp_path: Path) -> None:
    from perisect.services.pictures import take_in
    from perisect.services.plans import plan
    from perisect.services.retention import left_over, remove
    from perisect.store import blobs, job_list, jobs
    from perisect.store.database import transaction

    disc = drawings.png(drawings.coverage(drawings.disc(200))[0])
    lonely = take_in(disc)[0]
    assert left_over() == []  # it may be on its way into a job
    tomorrow = time.time() + 2 * 24 * 3600
    gone = left_over(tomorrow)
    assert {each.why for each in gone} == {"picture of no job"}
    assert all(lonely in each.name for each in gone)
    remove(gone)
    assert not blobs.exists(f"artwork/{lonely[:2]}/{lonely}")
    # Dropped again it is there again, whatever this process remembers of it.
    take_in(disc)
    assert blobs.exists(f"artwork/{lonely[:2]}/{lonely}")
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, filled["jobs"][0]))
        job_list.delete_for_good(session, filled["jobs"][0])
    assert plan(recipe).plan.sheets.count > 0  # the shelf and another job still have its picture
    assert {each.why for each in left_over(tomorrow)} == {"picture of no job"}


def zipped(entries: dict[str, bytes]) -> io.BytesIO:
    """A backup of these files, its list made to fit."""
    told = json.loads(entries["manifest.json"])
    told["entries"] = {
        name: {"sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)}
        for name, data in entries.items()
        if name != "manifest.json"
    }
    found = io.BytesIO()
    with zipfile.ZipFile(found, "w") as archive:
        for name, data in {**entries, "manifest.json": json.dumps(told).encode()}.items():
            archive.writestr(name, data)
    return found


def without(entries: dict[str, bytes], beginning: str) -> dict[str, bytes]:
    return {name: data for name, data in entries.items() if not name.startswith(beginning)}


def test_a_restore_that_fails_late_leaves_nothing_behind(filled: dict, tmp_path: Path) -> None:
    from perisect.services.backup import write_backup
    from perisect.services.restore import BackupError, restore
    from perisect.store import dump

    file = tmp_path / "shop.zip"
    write_backup(file)
    with zipfile.ZipFile(file) as archive:
        whole = {name: archive.read(name) for name in archive.namelist()}
    late = {
        "rows that do not fit": (
            {**whole, "tables/job.csv": whole["tables/job.csv"] + b"x,y\n"},
            "do not fit|columns",
        ),
        "a picture of a row less": (without(whole, "blobs/artwork"), "are not in it"),
        "a file that is a folder": (
            {**whole, "blobs/aa": b"1", "blobs/aa/bb": b"2"},
            "both a file and a folder",
        ),
        "a long name": ({**whole, f"blobs/{'n' * 250}": b"1"}, "nothing that a backup"),
    }
    with shop_of_its_own(f"late{time.time_ns()}", tmp_path):
        for how, (entries, why) in late.items():
            with pytest.raises(BackupError, match=why):
                restore(zipped(entries))
            assert all_blobs() == {}, how
        with dump.connection() as connection:
            assert dump.is_empty(connection)
        restore(zipped(whole))
        assert all_blobs()


def test_a_backup_is_streamed_and_there_is_one_at_a_time(filled: dict, tmp_path: Path) -> None:
    from perisect.services.backup import BackupUnderWay, stream_backup, write_backup

    before = set(tmp_path.rglob("*"))
    blocks = stream_backup()
    some = next(blocks)
    with pytest.raises(BackupUnderWay):
        next(stream_backup())
    with pytest.raises(BackupUnderWay):
        write_backup(tmp_path / "second.zip")
    assert set(tmp_path.rglob("*")) == before
    whole = io.BytesIO(some + b"".join(blocks))
    assert zipfile.ZipFile(whole).testzip() is None
    # One that is broken off lets the next one in.
    broken_off = stream_backup()
    next(broken_off)
    broken_off.close()
    write_backup(tmp_path / "second.zip")
    assert (tmp_path / "second.zip").stat().st_mode & 0o777 == 0o600
    with zipfile.ZipFile(tmp_path / "second.zip") as archive:
        assert sorted(archive.namelist()) == sorted(zipfile.ZipFile(whole).namelist())


def test_a_backup_that_is_killed_leaves_no_file(filled: dict, tmp_path: Path) -> None:
    folder = tmp_path / "for backups"
    folder.mkdir()
    code = (
        "import os, signal, sys; from pathlib import Path; from perisect.services import backup as b\n"
        "real = b._put\n"
        "def dying(*given):\n"
        "    if given[1].startswith('blobs/'): os.kill(os.getpid(), signal.SIGKILL)\n"
        "    return real(*given)\n"
        f"b._put = dying; b.write_backup(Path({str(folder)!r}) / 'shop.zip')"
    )
    done = subprocess.run([sys.executable, "-c", code], check=False)
    assert done.returncode == -signal.SIGKILL
    assert list(folder.iterdir()) == []
