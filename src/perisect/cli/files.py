"""Commands that need no shop: pictures to files, rehearsals, judgements."""

from pathlib import Path
from typing import Annotated

import typer

from perisect.cli.command import app, fail

KINDS = "PNG, JPEG, WebP, TIFF, SVG or PDF; a die as DXF or SVG"


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
        typer.Option(
            help="Named plates for a RIP that cuts: kiss=NAME,through=NAME; white=NAME under the art and varnish=NAME "
            "over the stickers too. Writes plates.pdf too."
        ),
    ] = "",
    white_choke_mm: Annotated[
        float, typer.Option(min=-5, max=5, help="How far white stays inside the art.")
    ] = 0.1,
    varnish_spread_mm: Annotated[
        float, typer.Option(min=-5, max=5, help="How far varnish reaches past the stickers.")
    ] = 0.0,
    bleed_mm: Annotated[float, typer.Option(help="How far the art's edge colours reach past it.")] = 0.0,
    scale_x: Annotated[
        float, typer.Option(min=95, max=105, help="Size of the print file across, per cent; cut files stay.")
    ] = 100.0,
    scale_y: Annotated[float, typer.Option(min=95, max=105, help="The same along the sheet.")] = 100.0,
    cmyk: Annotated[
        Path | None,
        typer.Option(
            exists=True,
            dir_okay=False,
            readable=True,
            help="The ICC profile of a press with four inks: writes sheet-NN.cmyk.pdf too.",
        ),
    ] = None,
    crop_marks: Annotated[
        bool,
        typer.Option("--crop-marks", help="Print files on a larger page with crop marks, for whoever trims."),
    ] = False,
    no_print: Annotated[
        bool, typer.Option("--no-print", help="Cut bare stock: no print file, and no marks.")
    ] = False,
    nest: Annotated[
        int | None,
        typer.Option(min=2, max=30, help="Seconds to search for a nest; rows and columns without."),
    ] = None,
    force: Annotated[bool, typer.Option(help="Replace files that were not written here.")] = False,
) -> None:
    """Turn pictures into print and cut files. Exit 1: made, but a finding says stop. Exit 2: nothing was made."""
    from pydantic import ValidationError

    from perisect.offline.make import MakeError
    from perisect.offline.make import make as make_files
    from perisect.offline.plates import PlateError, given_plates

    if copies != "fill" and not (copies.isdecimal() and 0 < len(copies) <= 6 and int(copies)):
        raise fail("--copies takes a number from 1 on, or fill.", 2)
    count = None if copies == "fill" else int(copies)
    try:
        named = given_plates(plates, {"white": -white_choke_mm, "varnish": varnish_spread_mm})
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
            None if cmyk is None else cmyk.read_bytes(),
            no_print,
            nest,
        )
    except (MakeError, PlateError) as error:
        raise fail(str(error), 2) from error
    except ValidationError as error:
        first = error.errors()[0]
        raise fail(f"{'.'.join(map(str, first['loc']))}: {first['msg']}.", 2) from error
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
    """Tell as JSON which named plates a PDF holds, how many lines or areas, the lines' length in mm and what the areas
    cover in mm2."""
    import json

    from perisect.offline.plates import CheckError
    from perisect.offline.plates import check_plates as check

    try:
        found = check(file)
    except CheckError as error:
        raise fail(str(error), 2) from error
    told = [
        {"name": f.name, "objects": f.objects, "length_mm": round(f.length_mm, 3)}
        | ({"area_mm2": round(f.area_mm2, 3)} if f.area_mm2 else {})
        for f in found
    ]
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
        raise fail(str(error), 2) from error
    typer.echo(json.dumps(looked.seen, indent=1))
    for text in looked.errors:
        fail(text)
    if looked.errors:
        raise typer.Exit(2)


FAULT_NAMES = (
    "print-scale, print-turn, print-shift, dropped-nozzles, pale, wrong-side, smear, lost-mark, jam, out-of-paper, "
    "offline, shine, dark, bright, turned, wrong-sheet, face-down, sheet-moved, power-cut, cable, lost-bytes, stall"
)
"""Written down, for the machines that know them take half a second to load."""


@app.command()
def rehearse(
    folder: Annotated[Path | None, typer.Argument(help="A folder that `perisect make` wrote.")] = None,
    seed: Annotated[int, typer.Option(min=0, help="Another seed is another day at the machines.")] = 1,
    fault: Annotated[str, typer.Option(help=f"What goes wrong with the first sheet: {FAULT_NAMES}.")] = "",
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
        raise fail("Name the folder that `perisect make` wrote.", 2)
    if fault and fault not in FAULTS:
        raise fail(f"There is no fault {fault[:40]}: there are {', '.join(FAULTS)}.", 2)
    try:
        result = rehearse_folder(folder, seed, Drill(fault or None, by_hand, resume_after, worn))
    except RehearsalError as error:
        raise fail(str(error), 2) from error
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
        raise fail(f"There is no process {process[:40]}: there are {', '.join(TABLE)}.", 2)
    try:
        told = play_test_cut(seed, stock_of(stock), process)
    except (StockError, TestCutError) as error:
        raise fail(str(error), 2) from error
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
        raise fail(f"There is no habit {habit[:40]}: there are {', '.join(HABITS)}.", 2)
    if out is not None and (out.is_dir() or not out.absolute().parent.is_dir()):
        raise fail(f"{out} cannot be written: name a file in a folder that is there.", 2)

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
        raise fail(f"{out} cannot be written: {error.strerror}.", 2) from error
    typer.echo(f"The figures are in {out}.")
