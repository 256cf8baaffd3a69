"""`perisect up`: the whole shop on this machine."""

import os
from pathlib import Path

import psycopg

from perisect.up.cluster import Cluster, ClusterError, free_port
from perisect.up.supervisor import Supervisor, SupervisorError, port_is_free, wait_until_up


class UpError(Exception):
    """Perisect cannot start; one sentence says why."""


def up(local: Path, web: Path, host: str, port: int, seed: int, time_factor: float, demo: bool) -> None:
    """Start the cluster (unless PERISECT_DATABASE_URL is set), migrate, start all, run until Ctrl C.

    Raises:
        UpError: a taken port, a broken cluster, a missing program, a database that does not answer.
    """
    if not port_is_free(host, port):
        raise UpError(
            f"Port {port} is taken by another program: stop it or start with --port and another number."
        )
    cluster = None
    try:
        given = os.environ.get("PERISECT_DATABASE_URL")
        if given is None:
            cluster = Cluster(local)
        database = given or (cluster.start() if cluster else "")
        _try_database(database)
        environment = {
            "PERISECT_DATABASE_URL": database,
            "PERISECT_BLOBS": os.environ.get("PERISECT_BLOBS", f"file://{local.resolve()}/blobs"),
            "PERISECT_WEB": str(web.resolve()),
        }
        ports = [free_port() for _ in range(3)]
        for name, number in zip(("PRINTER", "PLOTTER", "PLOTTER_TRAY"), ports, strict=True):
            environment[f"PERISECT_{name}"] = f"127.0.0.1:{number}"
        _run(Supervisor(local / "log", environment), ports, host, port, seed, time_factor, demo)
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


def _run(
    shop: Supervisor, ports: list[int], host: str, port: int, seed: int, time_factor: float, demo: bool
) -> None:
    try:
        shop.run_once("migrate", "migrate")
        if demo:
            shop.run_once("demo", "demo")
        printer, plotter, tray = map(str, ports)
        shop.start("printer", "stand-in-printer", "--port", printer, "--seed", str(seed))
        shop.start(
            "plotter",
            *("stand-in-plotter", "--port", plotter, "--tray-port", tray),
            *("--seed", str(seed), "--time-factor", str(time_factor)),
        )
        shop.start("worker", "worker")
        shop.start("api", "api", "--host", host, "--port", str(port))
        url = f"http://{host}:{port}"
        wait_until_up(url)
        print(f"Perisect is up at {url} (Ctrl C stops it)", flush=True)
        shop.watch()
    finally:
        shop.stop()
