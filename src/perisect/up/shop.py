"""`perisect up`: the whole shop on this machine."""

import os
from dataclasses import dataclass
from pathlib import Path

import psycopg
from sqlalchemy.exc import SQLAlchemyError

from perisect.services.sign_in import has_passphrase
from perisect.store import jobs
from perisect.store.database import transaction
from perisect.store.settings import settings
from perisect.up.cluster import Cluster, ClusterError
from perisect.up.folders import prepare
from perisect.up.machines import Machines
from perisect.up.supervisor import Supervisor, SupervisorError, port_is_free, wait_until_up


class UpError(Exception):
    """Perisect cannot start; one sentence says why."""


@dataclass(frozen=True)
class UpOptions:
    """How a shop is started. `tls` are the files of a certificate and its key."""

    local: Path
    web: Path
    host: str = "127.0.0.1"
    port: int = 8350
    hosts: str = ""
    tls: tuple[Path, Path] | None = None
    seed: int = 7
    time_factor: float = 20.0
    workers: int = 1
    demo: bool = True
    worn: bool = False
    """Whether the simulated plotters were used for years."""


NO_PASSPHRASE = (
    "Beyond this machine Perisect asks everybody for a passphrase, and this shop has none: set one with "
    "`perisect passphrase` and start again, or leave --host away."
)


def up(options: UpOptions) -> None:
    """Start the cluster (unless PERISECT_DATABASE_URL is set), migrate, start all, run until Ctrl C.

    Raises:
        UpError: a taken port, a broken cluster, a missing program, a database that does not answer, no passphrase.
    """
    if not port_is_free(options.host, options.port):
        raise UpError(
            f"Port {options.port} is taken by another program: stop it or start with --port and another number."
        )
    cluster = None
    try:
        temporary = prepare(options.local)
        given = os.environ.get("PERISECT_DATABASE_URL")
        if given is None:
            cluster = Cluster(options.local)
        database = given or (cluster.start() if cluster else "")
        _try_database(database)
        environment = {
            "PERISECT_DATABASE_URL": database,
            "PERISECT_BLOBS": os.environ.get("PERISECT_BLOBS", f"file://{options.local.resolve()}/blobs"),
            "PERISECT_WEB": str(options.web.resolve()),
            "PERISECT_HOST": options.host,
            "PERISECT_HOSTS": options.hosts or os.environ.get("PERISECT_HOSTS", ""),
        }
        os.environ.update(environment)
        if temporary is not None:
            # Of the children alone: who makes the database's cluster may be somebody else.
            environment["TMPDIR"] = str(temporary)
        settings.cache_clear()
        _run(Supervisor(options.local / "log", environment), cluster, options)
    except (ClusterError, SupervisorError) as error:
        raise UpError(str(error)) from error
    finally:
        if cluster is not None:
            cluster.stop()


def _try_database(url: str) -> None:
    try:
        psycopg.connect("postgresql://" + url.split("://", 1)[-1], connect_timeout=10).close()
    except psycopg.Error as error:
        reason = str(error).strip().splitlines()[0]
        raise UpError(f"The database of PERISECT_DATABASE_URL does not let Perisect in: {reason}") from error


def _run(shop: Supervisor, cluster: Cluster | None, options: UpOptions) -> None:
    machines = Machines(shop, options.seed, options.time_factor, options.worn)

    def keep_machines() -> None:
        try:
            machines.keep_running()
        except SQLAlchemyError:
            pass  # The database is away; the cluster is started again by the other task.

    try:
        shop.run_once("migrate", "migrate")
        if not settings().is_local and not has_passphrase():
            raise UpError(NO_PASSPHRASE)
        if options.demo and not _is_used():
            shop.run_once("demo", "demo")
        machines.keep_running()
        for number in range(options.workers):
            shop.start("worker" if number == 0 else f"worker-{number + 1}", "worker")
        tls = options.tls
        files = () if tls is None else ("--tls-cert", str(tls[0]), "--tls-key", str(tls[1]))
        shop.start("api", "api", "--host", options.host, "--port", str(options.port), *files)
        url = f"{'http' if tls is None else 'https'}://{_reached_at(options.host)}:{options.port}"
        wait_until_up(url)
        print(f"Perisect is up at {url} (Ctrl C stops it)", flush=True)
        if cluster is not None:
            shop.every(1.0, cluster.keep_running)
        shop.every(2.0, keep_machines)
        shop.watch()
    finally:
        shop.stop()


def _is_used() -> bool:
    """Whether there is a job; the demo finds out as well, but takes seconds to begin."""
    with transaction() as session:
        return jobs.any_there(session)


def _reached_at(host: str) -> str:
    """How this machine reaches a server that listens on an address."""
    if host in ("0.0.0.0", "::"):
        return "127.0.0.1"
    return f"[{host}]" if ":" in host else host
