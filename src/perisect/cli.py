"""The command line: `perisect`."""

from pathlib import Path
from typing import Annotated

import typer

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)


KINDS = "PNG, JPEG, WebP, TIFF, SVG or PDF"


def _fail(message: str, code: int = 1) -> typer.Exit:
    typer.echo(f"perisect: {' '.join(message.split())}", err=True)
    return typer.Exit(code)


@app.command()
def make(
    art: Annotated[list[Path], typer.Argument(help=f"Pictures: {KINDS}.")],
    out: Annotated[Path, typer.Option(help="Folder to write into.")],
    longest_mm: Annotated[float, typer.Option(help="Longest side of the art's outline.")] = 60.0,
    border_mm: Annotated[float, typer.Option(help="White border between art and kiss line.")] = 2.0,
    peel_mm: Annotated[float | None, typer.Option(help="Peel margin between kiss and through line.")] = None,
    stock: Annotated[
        str,
        typer.Option(help="A stock by id or name (a4, letter, roll-vinyl), or the JSON file of a record."),
    ] = "a4",
    copies: Annotated[str, typer.Option(help="How many of each picture, or fill.")] = "fill",
    gap_mm: Annotated[float, typer.Option(help="Gap between stickers.")] = 2.0,
    splines: Annotated[bool, typer.Option(help="A DXF of splines beside that of polylines.")] = False,
    plates: Annotated[
        str,
        typer.Option(help="Named plates for a RIP that cuts: kiss=NAME,through=NAME. Writes plates.pdf too."),
    ] = "",
    bleed_mm: Annotated[float, typer.Option(help="How far the art's edge colours reach past it.")] = 0.0,
    scale_x: Annotated[
        float, typer.Option(min=95, max=105, help="Size of the print file across, per cent; cut files stay.")
    ] = 100.0,
    scale_y: Annotated[float, typer.Option(min=95, max=105, help="The same along the sheet.")] = 100.0,
    crop_marks: Annotated[
        bool,
        typer.Option("--crop-marks", help="Print files on a larger page with crop marks, for whoever trims."),
    ] = False,
    force: Annotated[bool, typer.Option(help="Replace files that were not written here.")] = False,
) -> None:
    """Turn pictures into print and cut files. Exit 1: made, but a finding says stop. Exit 2: nothing was made."""
    from pydantic import ValidationError

    from perisect.offline.make import MakeError
    from perisect.offline.make import make as make_files
    from perisect.offline.plates import PlateError, given_plates

    if copies != "fill" and not (copies.isdecimal() and 0 < len(copies) <= 6 and int(copies)):
        raise _fail("--copies takes a number from 1 on, or fill.", 2)
    count = None if copies == "fill" else int(copies)
    try:
        named = given_plates(plates)
        scale = (scale_x / 100, scale_y / 100)
        report = make_files(
            art,
            out,
            longest_mm,
            border_mm,
            peel_mm,
            stock,
            count,
            gap_mm,
            force,
            splines,
            named,
            bleed_mm,
            scale,
            crop_marks,
        )
    except (MakeError, PlateError) as error:
        raise _fail(str(error), 2) from error
    except ValidationError as error:
        first = error.errors()[0]
        raise _fail(f"{'.'.join(map(str, first['loc']))}: {first['msg']}.", 2) from error
    up = sum(len(sheet["placements"]) for sheet in report["sheets"])
    typer.echo(
        f"{up} on {len(report['sheets'])} sheet(s), {100 * report['used_share']:.0f} % used, in {out} "
        f"({sum(report['seconds'].values()):.2f} s)"
    )
    for finding in report["findings"]:
        if finding["severity"] != "good":
            typer.echo(f"{finding['severity']}: {finding['text']}")
    if any(finding["severity"] == "stop" for finding in report["findings"]):
        raise typer.Exit(1)


@app.command("check-plates")
def check_plates(file: Annotated[Path, typer.Argument(help="A PDF.")]) -> None:
    """Tell as JSON which named plates lines of a PDF are drawn with, how many, and their length in mm."""
    import json

    from perisect.offline.plates import CheckError
    from perisect.offline.plates import check_plates as check

    try:
        found = check(file)
    except CheckError as error:
        raise _fail(str(error), 2) from error
    told = [{"name": f.name, "objects": f.objects, "length_mm": round(f.length_mm, 3)} for f in found]
    typer.echo(json.dumps(told, indent=1, ensure_ascii=False))


@app.command()
def look(
    art: Annotated[list[Path], typer.Argument(help=f"Pictures: {KINDS}.")],
    clean: Annotated[
        Path | None, typer.Option(help="Folder for the pictures without their background, NAME.png each.")
    ] = None,
    force: Annotated[bool, typer.Option(help="Replace files that were not written here.")] = False,
) -> None:
    """Tell as JSON what is behind the art of pictures. Exit 2: one of them cannot be read, or nothing was written."""
    import json

    from perisect.offline.look import LookError
    from perisect.offline.look import look as look_at

    try:
        looked = look_at(art, clean, force)
    except LookError as error:
        raise _fail(str(error), 2) from error
    typer.echo(json.dumps(looked.seen, indent=1))
    for text in looked.errors:
        _fail(text)
    if looked.errors:
        raise typer.Exit(2)


@app.command()
def rehearse(
    folder: Annotated[Path | None, typer.Argument(help="A folder that `perisect make` wrote.")] = None,
    seed: Annotated[int, typer.Option(min=0, help="Another seed is another day at the machines.")] = 1,
    fault: Annotated[
        str, typer.Option(help="What goes wrong with the first sheet; --list-faults names all.")
    ] = "",
    by_hand: Annotated[
        bool, typer.Option("--by-hand", help="A person jogs the blade over each mark; no sensor.")
    ] = False,
    resume_after: Annotated[
        int | None, typer.Option(min=1, help="Stop after so many lines, lay the sheet in again and go on.")
    ] = None,
    worn: Annotated[
        bool,
        typer.Option("--worn", help="At a plotter used for years: sensor, belts, gears and mat of its own."),
    ] = False,
    list_faults: Annotated[
        bool, typer.Option("--list-faults", help="Print the names of the faults.")
    ] = False,
) -> None:
    """Print and cut those files on the simulated machines and measure the slip."""
    from perisect.offline.rehearse import FAULTS, Drill, RehearsalError
    from perisect.offline.rehearse import rehearse as rehearse_folder

    if list_faults:
        typer.echo("\n".join(FAULTS))
        return
    if folder is None:
        raise _fail("Name the folder that `perisect make` wrote.", 2)
    if fault and fault not in FAULTS:
        raise _fail(f"There is no fault {fault[:40]}: there are {', '.join(FAULTS)}.", 2)
    try:
        result = rehearse_folder(folder, seed, Drill(fault or None, by_hand, resume_after, worn))
    except RehearsalError as error:
        raise _fail(str(error), 2) from error
    typer.echo(
        f"residual {result['residual_mm']:.3f} mm, slip {result['slip_max_mm']:.3f} mm at most, "
        f"{result['slip_rms_mm']:.3f} mm rms, {result['seconds_simulated']:.0f} s on the plotter"
    )
    if result["cause"]:
        typer.echo(f"{result['cause']}: {result['remedy']}")
    if not result["finished"]:
        typer.echo("Not every sheet is cut.")


@app.command("test-cut")
def play_a_test_cut(
    seed: Annotated[
        int, typer.Option(min=0, help="Another seed is another blade, another roll of stock.")
    ] = 1,
    stock: Annotated[
        str,
        typer.Option(help="A stock by id or name (a4, letter, roll-vinyl), or the JSON file of a record."),
    ] = "a4",
    process: Annotated[
        str | None,
        typer.Option(help="Which cut; kiss, or through where the stock has no liner, unless said."),
    ] = None,
) -> None:
    """Play a whole test cut at the simulated plotter and tell it as JSON: ladders, proposal, and how sure it is."""
    import json

    from perisect.core.process import TABLE
    from perisect.offline.dialogue import TestCutError, play_test_cut
    from perisect.offline.stocks import StockError, stock_of

    if process is not None and process not in TABLE:
        raise _fail(f"There is no process {process[:40]}: there are {', '.join(TABLE)}.", 2)
    try:
        told = play_test_cut(seed, stock_of(stock), process)
    except (StockError, TestCutError) as error:
        raise _fail(str(error), 2) from error
    typer.echo(json.dumps(told, indent=1))


@app.command("judge")
def judge_shops(
    shops: Annotated[int, typer.Option(min=1, max=100_000, help="So many simulated shops.")] = 100,
    seed: Annotated[int, typer.Option(min=0, help="Another seed is other shops.")] = 1,
    habit: Annotated[str, typer.Option(help="One habit alone; all of them unless it is named.")] = "",
    out: Annotated[Path | None, typer.Option(help="File for the figures; else they are printed.")] = None,
) -> None:
    """Play whole simulated shops by what Perisect advises and by habit, and compare what they come to."""
    import json

    from perisect.offline.judge import HABITS, judge

    if habit and habit not in HABITS:
        raise _fail(f"There is no habit {habit[:40]}: there are {', '.join(HABITS)}.", 2)
    if out is not None and (out.is_dir() or not out.absolute().parent.is_dir()):
        raise _fail(f"{out} cannot be written: name a file in a folder that is there.", 2)

    def progress(done: int, of: int) -> None:
        if done == of or done % max(of // 20, 1) == 0:
            typer.echo(f"{done} of {of} shops", err=True)

    told = json.dumps(judge(shops, seed, habit or None, progress), indent=1)
    if out is None:
        typer.echo(told)
        return
    try:
        out.write_text(told + "\n", encoding="utf-8")
    except OSError as error:
        raise _fail(f"{out} cannot be written: {error.strerror}.", 2) from error
    typer.echo(f"The figures are in {out}.")


TlsFile = Annotated[Path | None, typer.Option(exists=True, dir_okay=False, readable=True)]


def _tls(cert: Path | None, key: Path | None) -> tuple[Path, Path] | None:
    if cert is None and key is None:
        return None
    if cert is None or key is None:
        raise _fail("--tls-cert and --tls-key go together.")
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
    _log()
    from perisect.up.shop import UpError, UpOptions
    from perisect.up.shop import up as start_shop

    tls = _tls(tls_cert, tls_key)
    try:
        start_shop(UpOptions(local, web, host, port, hosts, tls, seed, time_factor, workers, demo, worn))
    except UpError as error:
        raise _fail(str(error)) from error


def _log() -> None:
    from perisect.logs import configure

    configure()


@app.command()
def api(port: int = 8350, host: str = "127.0.0.1", tls_cert: TlsFile = None, tls_key: TlsFile = None) -> None:
    """Serve the API and the front end."""
    import os

    _log()
    os.environ["PERISECT_HOST"] = host
    import uvicorn

    from perisect.api.app import create_app
    from perisect.services.sign_in import has_passphrase
    from perisect.store.settings import settings

    if not settings().is_local and not has_passphrase():
        raise _fail("Beyond this machine a passphrase is needed: set one with `perisect passphrase`.")
    tls = _tls(tls_cert, tls_key)
    uvicorn.run(
        create_app(),
        host=host,
        port=port,
        log_level="warning",
        log_config=None,
        timeout_graceful_shutdown=2,
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
        raise _fail(f"A passphrase has at least {LEAST_LETTERS} letters.") from error
    except ClusterError as error:
        raise _fail(str(error)) from error
    finally:
        if cluster is not None:
            cluster.stop()
    typer.echo("The passphrase is set.")


@app.command()
def worker() -> None:
    """Take work from the queue; any number of them on any number of machines."""
    from perisect.queue.worker import run_worker

    run_worker()


@app.command()
def migrate() -> None:
    """Bring the database to the present tables."""
    from perisect.store.migrate import migrate as run

    run()


@app.command()
def demo() -> None:
    """Load the demo shop if there is no job yet."""
    _log()
    from perisect.demo.load import load

    load()


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="The file to write.")]) -> None:
    """Write the whole shop into one file, while others work."""
    from perisect.services.backup import write_backup

    try:
        made = write_backup(file)
    except OSError as error:
        raise _fail(f"{file} cannot be written: {error.strerror}.") from error
    typer.echo(f"{made.rows} rows and {made.blobs} files, {made.bytes / 1e6:.1f} MB, are in {file}.")


@app.command()
def restore(file: Annotated[Path, typer.Argument(help="A file that `backup` wrote.")]) -> None:
    """Put a backup into an empty shop."""
    from perisect.services.backup import BackupError
    from perisect.services.backup import restore as run

    try:
        with file.open("rb") as data:
            made = run(data)
    except BackupError as error:
        raise _fail(str(error), 2) from error
    except OSError as error:
        raise _fail(f"{file} cannot be read: {error.strerror}.", 2) from error
    typer.echo(f"{made.rows} rows and {made.blobs} files are back.")


@app.command()
def tidy(
    dry_run: Annotated[bool, typer.Option(help="Tell what would go, and remove nothing.")] = False,
) -> None:
    """Remove files that nothing in the shop refers to any more."""
    from perisect.services.retention import left_over, remove

    found = left_over()
    for each in found:
        typer.echo(f"{each.bytes:>12}  {each.why}: {each.name}")
    freed = sum(each.bytes for each in found) if dry_run else remove(found)
    typer.echo(f"{len(found)} files, {freed / 1e6:.1f} MB, {'would go' if dry_run else 'are gone'}.")


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
    _log()
    from perisect.stand_ins.serve import run_printer

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
    _log()
    from perisect.core.sheet.force import ForceScale
    from perisect.stand_ins.plotter import Plate
    from perisect.stand_ins.serve import run_plotter

    scale = ForceScale(least=force[0], most=force[1], step=force[2])
    run_plotter(seed, port, tray_port, time_factor, Plate(*plate_mm, corner_mm, blade_mm, scale), worn)


if __name__ == "__main__":
    app()
