"""Commands that run a shop and its parts."""

from pathlib import Path
from typing import Annotated

import typer

from perisect.cli.command import app, fail, for_owner_only, log

TlsFile = Annotated[Path | None, typer.Option(exists=True, dir_okay=False, readable=True)]


def _tls(cert: Path | None, key: Path | None) -> tuple[Path, Path] | None:
    if cert is None and key is None:
        return None
    if cert is None or key is None:
        raise fail("--tls-cert and --tls-key go together.")
    return cert, key


@app.command()
def up(
    port: Annotated[int, typer.Option(help="Port of the web application.")] = 8350,
    host: Annotated[
        str, typer.Option(help="Address to listen on; beyond 127.0.0.1 the shop needs a passphrase.")
    ] = "127.0.0.1",
    hosts: Annotated[str, typer.Option(help="Further names that browsers know this server by.")] = "",
    tls_cert: TlsFile = None,
    tls_key: TlsFile = None,
    local: Annotated[Path, typer.Option(help="Folder of the database, pictures and logs.")] = Path(".local"),
    web: Annotated[Path, typer.Option(help="Folder of the built front end.")] = Path("web/dist"),
    seed: Annotated[int, typer.Option(help="Seed of the simulated machines.")] = 7,
    time_factor: Annotated[
        float, typer.Option(min=0.1, max=50, help="How much faster than real the plotters run.")
    ] = 20.0,
    workers: Annotated[int, typer.Option(min=1, max=16, help="Worker processes.")] = 1,
    demo: Annotated[bool, typer.Option(help="Load the demo shop into an empty database.")] = True,
    worn: Annotated[
        bool,
        typer.Option("--worn", help="Simulated plotters that were used for years, to learn to read them."),
    ] = False,
) -> None:
    """Start everything on this machine; Ctrl C stops it."""
    log()
    from perisect.up.nursery import open_nursery

    open_nursery()
    from perisect.up.shop import UpError, UpOptions
    from perisect.up.shop import up as start_shop

    tls = _tls(tls_cert, tls_key)
    try:
        start_shop(UpOptions(local, web, host, port, hosts, tls, seed, time_factor, workers, demo, worn))
    except UpError as error:
        raise fail(str(error)) from error


@app.command()
def api(port: int = 8350, host: str = "127.0.0.1", tls_cert: TlsFile = None, tls_key: TlsFile = None) -> None:
    """Serve the API and the front end."""
    import gc
    import os
    import sys

    log()
    # Who reads a list passes the interpreter to and fro some thirty times; a plan that is computed beside it would keep
    # it for five milliseconds each.
    sys.setswitchinterval(0.0005)
    os.environ["PERISECT_HOST"], os.environ["PERISECT_PORT"] = host, str(port)
    import uvicorn

    from perisect.api.app import create_app
    from perisect.api.connection import WatchedConnection
    from perisect.services.sign_in import has_passphrase
    from perisect.store.settings import settings

    if not settings().is_local and not has_passphrase():
        raise fail("Beyond this machine a passphrase is needed: set one with `perisect passphrase`.")
    tls = _tls(tls_cert, tls_key)
    served = create_app()
    # What is loaded by now stays. A collection that looks at it stops all threads for a fifth of a second.
    gc.freeze()
    uvicorn.run(
        served,
        host=host,
        port=port,
        log_level="warning",
        log_config=None,
        timeout_graceful_shutdown=2,
        http=WatchedConnection,
        ssl_certfile=None if tls is None else str(tls[0]),
        ssl_keyfile=None if tls is None else str(tls[1]),
        server_header=False,
    )


@app.command()
def passphrase(
    local: Annotated[
        Path, typer.Option(help="Folder of the database, when none is named by its URL.")
    ] = Path(".local"),
) -> None:
    """Set the shop's passphrase, which everybody beyond this machine is asked for. Everybody signs in anew."""
    import os

    from perisect.services.sign_in import LEAST_LETTERS, TooShort, set_passphrase
    from perisect.up.cluster import Cluster, ClusterError

    for_owner_only()
    given = typer.prompt("Passphrase", hide_input=True, confirmation_prompt=True)
    cluster = None
    try:
        if "PERISECT_DATABASE_URL" not in os.environ:
            cluster = Cluster(local)
            was_running = cluster.is_running
            os.environ["PERISECT_DATABASE_URL"] = cluster.start()
            cluster = None if was_running else cluster
        from perisect.store.migrate import migrate as run

        run()
        set_passphrase(given)
    except TooShort as error:
        raise fail(f"A passphrase has at least {LEAST_LETTERS} letters.") from error
    except ClusterError as error:
        raise fail(str(error)) from error
    finally:
        if cluster is not None:
            cluster.stop()
    typer.echo("The passphrase is set.")


@app.command()
def worker() -> None:
    """Take work from the queue; any number of them on any number of machines."""
    from perisect.queue.worker import run_worker

    for_owner_only()
    run_worker()


@app.command()
def migrate() -> None:
    """Bring the database to the present tables."""
    from perisect.store.migrate import migrate as run

    for_owner_only()
    run()


@app.command()
def demo() -> None:
    """Load the demo shop if there is no job yet."""
    log()
    from perisect.demo.load import load

    load()


@app.command()
def openapi() -> None:
    """Print the API's OpenAPI document, from which the front end's types are made."""
    import json

    from perisect.api.app import create_app

    typer.echo(json.dumps(create_app().openapi(), indent=1))


@app.command(hidden=True)
def stand_in_printer(
    port: Annotated[int, typer.Option()], seed: int = 7, widest_mm: float = 330, longest_mm: float = 490
) -> None:
    """A simulated printer."""
    log()
    from perisect.stand_ins.printer_server import run_printer

    run_printer(seed, port, (widest_mm, longest_mm))


@app.command(hidden=True)
def stand_in_plotter(
    port: Annotated[int, typer.Option()],
    tray_port: Annotated[int, typer.Option()],
    seed: int = 7,
    time_factor: float = 20.0,
    plate_mm: tuple[float, float] = (340, 480),
    corner_mm: tuple[float, float] = (20, 20),
    blade_mm: float = 0.25,
    force: tuple[float, float, float] = (10, 600, 5),
    worn: bool = False,
) -> None:
    """A simulated plotter."""
    log()
    from perisect.core.sheet.force import ForceScale
    from perisect.stand_ins.plotter import Plate
    from perisect.stand_ins.plotter_server import run_plotter

    scale = ForceScale(least=force[0], most=force[1], step=force[2])
    run_plotter(seed, port, tray_port, time_factor, Plate(*plate_mm, corner_mm, blade_mm, scale), worn)
