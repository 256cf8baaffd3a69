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


if __name__ == "__main__":
    app()
