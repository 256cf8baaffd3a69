"""The command line: `perisect`."""

from pathlib import Path
from typing import Annotated

import typer

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)


def _fail(message: str) -> typer.Exit:
    typer.echo(f"perisect: {message}", err=True)
    return typer.Exit(1)


@app.command()
def make(
    art: Annotated[list[Path], typer.Argument(help="PNG pictures with a clear background.")],
    out: Annotated[Path, typer.Option(help="Folder to write into.")],
    longest_mm: Annotated[float, typer.Option(help="Longest side of the art's outline.")] = 60.0,
    border_mm: Annotated[float, typer.Option(help="White border between art and kiss line.")] = 2.0,
    peel_mm: Annotated[float | None, typer.Option(help="Peel margin between kiss and through line.")] = None,
    stock: Annotated[str, typer.Option(help="a4 or letter.")] = "a4",
    copies: Annotated[str, typer.Option(help="How many of each picture, or fill.")] = "fill",
    gap_mm: Annotated[float, typer.Option(help="Gap between stickers.")] = 2.0,
) -> None:
    """Turn pictures into print and cut files."""
    from pydantic import ValidationError

    from perisect.tasks.make import MakeError
    from perisect.tasks.make import make as make_files

    if copies != "fill" and not copies.isdecimal():
        raise _fail("--copies takes a number or fill.")
    count = None if copies == "fill" else int(copies)
    if count == 0:
        raise _fail("--copies takes a number from 1 on, or fill.")
    try:
        report = make_files(art, out, longest_mm, border_mm, peel_mm, stock, count, gap_mm)
    except MakeError as error:
        raise _fail(str(error)) from error
    except ValidationError as error:
        first = error.errors()[0]
        raise _fail(f"{'.'.join(map(str, first['loc']))}: {first['msg']}.") from error
    up = sum(len(sheet["placements"]) for sheet in report["sheets"])
    typer.echo(
        f"{up} up on {len(report['sheets'])} sheet(s), {report['used_share']:.0%} used, in {out} "
        f"({sum(report['seconds'].values()):.2f} s)"
    )
    for finding in report["findings"]:
        if finding["severity"] != "good":
            typer.echo(f"{finding['severity']}: {finding['text']}")


@app.command()
def rehearse(
    folder: Annotated[Path, typer.Argument(help="A folder that `perisect make` wrote.")],
    seed: Annotated[int, typer.Option(min=0, help="Another seed is another day at the machines.")] = 1,
) -> None:
    """Print and cut those files on the simulated machines and measure the slip."""
    from perisect.tasks.rehearse import RehearsalError
    from perisect.tasks.rehearse import rehearse as rehearse_folder

    try:
        result = rehearse_folder(folder, seed)
    except RehearsalError as error:
        raise _fail(str(error)) from error
    typer.echo(
        f"residual {result['residual_mm']:.3f} mm, slip {result['slip_max_mm']:.3f} mm at most, "
        f"{result['slip_rms_mm']:.3f} mm rms, {result['seconds_simulated']:.0f} s on the plotter"
    )


@app.command()
def up(
    port: Annotated[int, typer.Option(help="Port of the web application.")] = 8350,
    host: Annotated[str, typer.Option(help="Address to listen on.")] = "127.0.0.1",
    local: Annotated[Path, typer.Option(help="Folder of the database, pictures and logs.")] = Path(".local"),
    web: Annotated[Path, typer.Option(help="Folder of the built front end.")] = Path("web/dist"),
    seed: Annotated[int, typer.Option(help="Seed of the simulated machines.")] = 7,
    time_factor: Annotated[
        float, typer.Option(min=0.1, max=50, help="How much faster than real the plotter runs.")
    ] = 20.0,
    demo: Annotated[bool, typer.Option(help="Load the demo shop into an empty database.")] = True,
) -> None:
    """Start everything on this machine; Ctrl C stops it."""
    from perisect.up.shop import UpError
    from perisect.up.shop import up as start_shop

    try:
        start_shop(local, web, host, port, seed, time_factor, demo)
    except UpError as error:
        raise _fail(str(error)) from error


@app.command()
def api(port: int = 8350, host: str = "127.0.0.1") -> None:
    """Serve the API and the front end."""
    import uvicorn

    from perisect.api.app import create_app

    uvicorn.run(create_app(), host=host, port=port, log_level="warning", timeout_graceful_shutdown=2)


@app.command()
def worker() -> None:
    """Take work from the queue; any number of them on any number of machines."""
    from perisect.tasks.queue import run_worker

    run_worker()


@app.command()
def migrate() -> None:
    """Bring the database to the present tables."""
    from perisect.store.migrate import migrate as run

    run()


@app.command()
def demo() -> None:
    """Load the demo shop if there is no job yet."""
    from perisect.demo.load import load

    load()


@app.command()
def openapi() -> None:
    """Print the API's OpenAPI document, from which the front end's types are made."""
    import json

    from perisect.api.app import create_app

    typer.echo(json.dumps(create_app().openapi(), indent=1))


@app.command(hidden=True)
def stand_in_printer(port: Annotated[int, typer.Option()], seed: int = 7) -> None:
    """The simulated printer."""
    from perisect.stand_ins.serve import run_printer

    run_printer(seed, port)


@app.command(hidden=True)
def stand_in_plotter(
    port: Annotated[int, typer.Option()],
    tray_port: Annotated[int, typer.Option()],
    seed: int = 7,
    time_factor: float = 20.0,
) -> None:
    """The simulated plotter."""
    from perisect.stand_ins.serve import run_plotter

    run_plotter(seed, port, tray_port, time_factor)


if __name__ == "__main__":
    app()
