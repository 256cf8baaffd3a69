"""The private cluster and the supervisor."""

import os
import shutil
import signal
import socket
import stat
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import psycopg
import pytest
from bench.processes import commands, pids_under
from sqlalchemy import select

from perisect.devices import wire
from perisect.store.database import transaction
from perisect.store.equipment import set_simulated_address
from perisect.store.models import DeviceAddress
from perisect.up.cluster import Cluster, ClusterError, free_port
from perisect.up.folders import prepare
from perisect.up.machines import Machines
from perisect.up.nursery import run_child
from perisect.up.shop import UpError, UpOptions, up
from perisect.up.supervisor import Child, Supervisor, SupervisorError, port_is_free, wait_until_up


@pytest.fixture
def local() -> Iterator[Path]:
    folder = Path(tempfile.mkdtemp(prefix="perisect-up-"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree((folder / "pg").resolve(), ignore_errors=True)
    shutil.rmtree(folder, ignore_errors=True)


def test_a_cluster_keeps_its_data_from_start_to_start(local: Path) -> None:
    cluster = Cluster(local)
    url = cluster.start()
    try:
        assert cluster.start() == url  # already running: used as it is
        with psycopg.connect(url) as connection:
            connection.execute("create table kept as select 7 as seven")
        assert stat.S_IMODE((local / "pg-password").stat().st_mode) == 0o600
        with pytest.raises(psycopg.OperationalError):
            psycopg.connect(url.replace((local / "pg-password").read_text(), "guess"))
    finally:
        cluster.stop()
    cluster.stop()  # stopping what is stopped is no error
    again = Cluster(local).start()
    try:
        with psycopg.connect(again) as connection:
            assert connection.execute("select seven from kept").fetchone() == (7,)
            listening = connection.execute("show listen_addresses").fetchone()
        assert listening == ("127.0.0.1",)
    finally:
        Cluster(local).stop()


@pytest.mark.long
@pytest.mark.skipif(os.geteuid() != 0, reason="only root has to run the cluster as somebody else")
def test_a_checkout_that_postgres_may_not_read_has_its_cluster_elsewhere(local: Path) -> None:
    hidden = local / "hidden"
    hidden.mkdir(mode=0o700)
    cluster = Cluster(hidden / ".local")
    try:
        with psycopg.connect(cluster.start()) as connection:
            assert connection.execute("select 1").fetchone() == (1,)
        assert (hidden / ".local/pg").is_symlink()
    finally:
        cluster.stop()
        shutil.rmtree((hidden / ".local/pg").resolve(), ignore_errors=True)


@pytest.mark.long
def test_a_postgresql_that_is_killed_is_started_again_where_it_was(local: Path) -> None:
    cluster = Cluster(local)
    url = cluster.start()
    try:
        with psycopg.connect(url) as connection:
            connection.execute("create table kept as select 7 as seven")
        os.kill(
            int((local / "pg").resolve().joinpath("postmaster.pid").read_text().split()[0]), signal.SIGKILL
        )
        end = time.monotonic() + 40
        while True:
            cluster.keep_running()
            try:
                with psycopg.connect(url, connect_timeout=2) as connection:
                    assert connection.execute("select seven from kept").fetchone() == (7,)
                    break
            except psycopg.OperationalError:
                assert time.monotonic() < end, "it stayed dead"
                time.sleep(0.5)
    finally:
        cluster.stop()


def test_a_database_that_is_away_costs_a_cut_nothing() -> None:
    from sqlalchemy.exc import OperationalError

    from perisect.services.heartbeat import Heartbeat

    away, said = threading.Event(), {}
    away.set()

    def say(values: dict) -> str:
        if away.is_set():
            raise OperationalError("update", {}, Exception("away"))
        said.update(values)
        return "stop" if said.get("lines_done") == 9 else ""

    with Heartbeat(say) as beat:
        for line in range(10):
            beat.tell(lines_done=line)
            time.sleep(0.05)
        assert said == {}
        beat.tell(state="cutting")
        untold = beat.take_untold()
        assert untold == {"lines_done": 9, "state": "cutting"}
        beat.tell(**untold)
        away.clear()
        beat.now()
        assert said == untold
        assert beat.asked == "stop"


def test_a_broken_cluster_is_one_sentence(local: Path) -> None:
    (local / "pg").mkdir()
    (local / "pg" / "PG_VERSION").write_text("15\n")
    if os.geteuid() == 0:
        shutil.chown(local / "pg", "postgres", "postgres")
    with pytest.raises(ClusterError) as broken:
        Cluster(local).start()
    assert len(str(broken.value).splitlines()) == 1
    assert "pg_ctl failed" in str(broken.value)
    (local / "gone").mkdir()
    (local / "gone" / "pg").symlink_to(local / "nowhere")
    with pytest.raises(ClusterError, match="points to a folder that is gone"):
        Cluster(local / "gone").start()


def test_a_missing_postgresql_names_the_command(local: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("perisect.up.cluster.PROGRAMS", local)
    with pytest.raises(ClusterError, match="apt-get install postgresql"):
        Cluster(local)


def test_a_database_that_does_not_answer_is_one_sentence(
    local: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("PERISECT_DATABASE_URL", "postgresql://nobody@127.0.0.1:9/none")
    with pytest.raises(UpError, match="does not let Perisect in") as error:
        up(UpOptions(local, local, port=free_port(), demo=False))
    assert len(str(error.value).splitlines()) == 1


def alive(child: Child) -> bool:
    return child.process is not None and child.process.is_alive()


def test_what_dies_is_started_again_and_all_stop_together(local: Path) -> None:
    shop = Supervisor(local / "log", {})
    shop.start("printer", "stand-in-printer", "--port", str(free_port()))
    (child,) = shop._children
    first = child.process
    assert first is not None
    watcher = threading.Thread(target=_watch_without_signals, args=(shop,))
    watcher.start()
    first.send(signal.SIGKILL)
    deadline = time.monotonic() + 10
    while (child.process is first or not alive(child)) and time.monotonic() < deadline:
        time.sleep(0.05)
    assert alive(child)
    assert child.process is not first
    shop._on_signal(signal.SIGINT, None)
    watcher.join(5)
    shop.stop()
    assert not alive(child)


def _watch_without_signals(shop: Supervisor) -> None:
    """Signals can only be caught by the main thread, which is the test's."""
    original, signal.signal = signal.signal, lambda *_: None  # type: ignore[assignment]
    try:
        shop.watch()
    finally:
        signal.signal = original


def test_what_keeps_failing_is_said_with_its_log_and_the_others_go_on(
    local: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("perisect.up.supervisor.TOO_OFTEN", 2)
    shop = Supervisor(local / "log", {})
    shop.start("printer", "no-such-command")
    shop.start("other-printer", "stand-in-printer", "--port", str(free_port()))
    failing, other = shop._children
    watcher = threading.Thread(target=_watch_without_signals, args=(shop,))
    watcher.start()
    deadline = time.monotonic() + 60
    while not shop.is_failing("printer") and time.monotonic() < deadline:
        time.sleep(0.05)
    assert shop.is_failing("printer")
    assert watcher.is_alive()
    assert alive(other)
    said = capsys.readouterr().err
    assert "printer keeps failing" in said
    assert "printer.log" in said
    assert "no-such-command" in (local / "log" / "printer.log").read_text()
    # It waits until its starts are long enough ago.
    starts = list(failing.starts)
    time.sleep(1)
    assert failing.starts == starts
    monkeypatch.setattr("perisect.up.supervisor.WITHIN_S", 0.0)
    deadline = time.monotonic() + 60
    while failing.starts == starts and time.monotonic() < deadline:
        time.sleep(0.05)
    assert failing.starts != starts
    shop._on_signal(signal.SIGINT, None)
    watcher.join(5)
    shop.stop()
    assert not alive(other)


@pytest.mark.long
def test_a_machine_whose_port_somebody_else_took_is_given_another(
    local: Path, shop: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("perisect.up.supervisor.TOO_OFTEN", 2)
    with kept_addresses(), socket.socket() as holder:
        holder.bind(("127.0.0.1", 0))
        taken = int(holder.getsockname()[1])
        given = iter([taken])
        monkeypatch.setattr("perisect.up.machines.free_port", lambda: next(given, None) or free_port())
        keeper = Supervisor(local / "log", {})
        machines = Machines(keeper, 7, 50)
        machines.keep_running()
        keeper.every(0.2, machines.keep_running)
        watcher = threading.Thread(target=_watch_without_signals, args=(keeper,))
        watcher.start()
        try:
            deadline = time.monotonic() + 120
            while not _all_listen(taken) and time.monotonic() < deadline:
                time.sleep(0.2)
            assert _all_listen(taken)
        finally:
            keeper._on_signal(signal.SIGINT, None)
            watcher.join(20)
            keeper.stop()


@contextmanager
def kept_addresses() -> Iterator[None]:
    """The machines of the other tests are where they were afterwards."""
    with transaction() as session:
        kept = [(each.kind, each.id, each.address) for each in session.scalars(select(DeviceAddress))]
    yield
    with transaction() as session:
        for kind, machine, address in kept:
            set_simulated_address(session, kind, machine, address)


def _all_listen(taken: int) -> bool:
    """Whether a program of ours listens at every address that the shop was told."""
    with transaction() as session:
        addresses = list(session.scalars(select(DeviceAddress.address)))
    ports = [urlsplit(each).port or 0 for each in addresses]
    return (
        len(ports) > 1 and taken not in ports and all(not port_is_free("127.0.0.1", port) for port in ports)
    )


def test_a_free_port_is_none_that_connections_going_out_are_given() -> None:
    lowest, highest = map(int, Path("/proc/sys/net/ipv4/ip_local_port_range").read_text().split())
    for _ in range(50):
        assert not lowest <= free_port() <= highest


def test_a_task_that_fails_names_its_log(local: Path) -> None:
    with pytest.raises(SupervisorError, match=r"make.* failed"):
        Supervisor(local / "log", {}).run_once("make", "make", "nothing.png", "--out", str(local))


def test_children_end_with_a_supervisor_that_is_killed(local: Path) -> None:
    port = free_port()
    script = (
        "import sys, time; from pathlib import Path; from perisect.up.supervisor import Supervisor;"
        f"s = Supervisor(Path({str(local)!r}), {{}}); s.start('printer', 'stand-in-printer', '--port', '{port}');"
        "time.sleep(60)"
    )
    parent = subprocess.Popen([sys.executable, "-c", script])
    until(lambda: not port_is_free("127.0.0.1", port))
    parent.kill()
    parent.wait()
    until(lambda: port_is_free("127.0.0.1", port))


def test_a_server_that_does_not_come_up_is_said() -> None:
    with pytest.raises(SupervisorError, match="did not come up"):
        wait_until_up(f"http://127.0.0.1:{free_port()}", seconds=0.3)


def test_children_go_on_when_the_process_dies_that_they_are_forked_from(local: Path) -> None:
    ports = [free_port(), free_port()]
    shop = Supervisor(local / "log", {})
    shop.start("printer", "stand-in-printer", "--port", str(ports[0]))
    (child,) = shop._children
    watcher = threading.Thread(target=_watch_without_signals, args=(shop,))
    watcher.start()
    try:
        until(lambda: not port_is_free("127.0.0.1", ports[0]))
        first = child.process
        assert first is not None
        (nursery,) = (
            pid
            for pid, line in commands(pids_under(os.getpid(), deep=False)).items()
            if first.pid in pids_under(pid, deep=False)
        )
        with socket.create_connection(("127.0.0.1", ports[0])) as link:
            os.kill(nursery, signal.SIGKILL)
            until(lambda: first.pid in pids_under(os.getpid(), deep=False))
            # New ones can be had again, and the one that was there has noticed nothing.
            shop.start("other", "stand-in-printer", "--port", str(ports[1]))
            until(lambda: not port_is_free("127.0.0.1", ports[1]))
            assert child.process is first
            assert first.is_alive()
            wire.send(link, {"ask": "print"}, b"no page")
            assert "error" in wire.receive(link)[0]
        # Should it end after all, another takes its place, and no zombie is left.
        os.kill(first.pid, signal.SIGKILL)
        until(lambda: child.process is not first and not port_is_free("127.0.0.1", ports[0]))
        until(lambda: not Path(f"/proc/{first.pid}").exists())
        # As the list of processes tells it.
        until(
            lambda: commands([child.process.pid])[child.process.pid].startswith("perisect stand-in-printer")
        )
    finally:
        shop._on_signal(signal.SIGINT, None)
        watcher.join(5)
        shop.stop()


def test_a_child_that_cannot_be_forked_just_now_is_tried_again(
    local: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As while the process dies that all are forked from."""
    port = free_port()
    shop = Supervisor(local / "log", {})
    refused = iter([ConnectionRefusedError(), EOFError()])

    def run_or_refuse(*asked: Any) -> Any:
        error = next(refused, None)
        if error is not None:
            raise error
        return run_child(*asked)

    monkeypatch.setattr("perisect.up.supervisor.run_child", run_or_refuse)
    shop.start("printer", "stand-in-printer", "--port", str(port))
    watcher = threading.Thread(target=_watch_without_signals, args=(shop,))
    watcher.start()
    try:
        until(lambda: not port_is_free("127.0.0.1", port))
    finally:
        shop._on_signal(signal.SIGINT, None)
        watcher.join(5)
        shop.stop()


def until(holds: Callable[[], bool]) -> None:
    deadline = time.monotonic() + 60
    while not holds():
        assert time.monotonic() < deadline
        time.sleep(0.05)


def test_the_folder_of_a_shop_is_for_its_owner_and_begins_without_what_a_kill_left(tmp_path: Path) -> None:
    local = tmp_path / "new"
    temporary = prepare(local)
    assert temporary is None or stat.S_IMODE(temporary.stat().st_mode) == 0o700
    assert stat.S_IMODE(local.stat().st_mode) == 0o700
    # One of an earlier version, half a backup in it.
    old = Path(tempfile.mkdtemp(dir="/tmp"))
    try:
        for name in ("blobs", "log", "tmp"):
            (old / name).mkdir()
        old.chmod(0o755)
        (old / "blobs").chmod(0o755)
        (old / "tmp" / "half.zip").write_bytes(b"x")
        assert prepare(old) == old / "tmp"
        assert list((old / "tmp").iterdir()) == []
        assert {stat.S_IMODE(each.stat().st_mode) for each in (old, *old.iterdir())} == {0o700}
        # Who holds the folder keeps its temporary files from another start.
        (old / "tmp" / "in use").touch()
        assert prepare(old) is None
        assert (old / "tmp" / "in use").exists()
        # The database of root's shop lies below it, and its own user passes through.
        (old / "pg").mkdir()
        prepare(old)
        assert stat.S_IMODE(old.stat().st_mode) == (0o711 if os.geteuid() == 0 else 0o700)
        # A folder that is somebody else's too is not closed to them.
        (old / "letters").mkdir()
        old.chmod(0o755)
        prepare(old)
        assert stat.S_IMODE(old.stat().st_mode) == 0o755
        assert stat.S_IMODE((old / "blobs").stat().st_mode) == 0o700
    finally:
        shutil.rmtree(old)
