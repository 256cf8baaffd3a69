"""`perisect make` and `perisect rehearse`, from pictures to a measured slip."""

import json
import os
import re
from pathlib import Path

import cv2
import numpy as np
import pytest
from click.testing import Result
from PIL import Image
from typer.testing import CliRunner

from perisect.cli import app
from perisect.offline.rehearse import FAULTS
from tests.core import drawings

pytestmark = pytest.mark.slow

run = CliRunner().invoke


@pytest.fixture(scope="module")
def art(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("art")
    shapes = {"disc": drawings.disc(330), "star": drawings.star(340, 130), "ring": drawings.ring(330, 170)}
    for name, shape in shapes.items():
        (folder / f"{name}.png").write_bytes(drawings.png(drawings.coverage(shape)[0]))
    return folder


def test_the_help_of_rehearse_names_every_fault_there_is() -> None:
    listed = run(app, ["rehearse", "--list-faults"]).output.split()
    assert listed == list(FAULTS)
    told = run(app, ["rehearse", "--help"], env={"COLUMNS": "100"}).output
    words = set(re.findall(r"[a-z]+(?:-[a-z]+)*", told))
    assert set(listed) <= words


def test_make_writes_files_and_a_report_for_every_sheet(art: Path, tmp_path: Path) -> None:
    done = run(
        app,
        ["make", str(art / "disc.png"), str(art / "star.png"), "--longest-mm", "60", "--border-mm", "2"]
        + ["--peel-mm", "3", "--stock", "a4", "--copies", "7", "--out", str(tmp_path)],
    )
    assert done.exit_code == 0, done.output
    report = json.loads((tmp_path / "report.json").read_text())
    for number, sheet in enumerate(report["sheets"], start=1):
        for kind in ("print.pdf", "cut.svg", "cut.dxf", "cut.hpgl"):
            assert (tmp_path / f"sheet-{number:02d}.{kind}").stat().st_size > 500
        assert (sheet["width_mm"], sheet["height_mm"]) == (210, 297)
        assert [mark["kind"] for mark in sheet["marks"]] == ["ringed", "plain", "plain", "plain"]
        up = len(sheet["placements"])
        assert sheet["lines"]["kiss"]["count"] == sheet["lines"]["through"]["count"] == up
    assert sum(len(sheet["placements"]) for sheet in report["sheets"]) == 14
    disc, star = report["designs"]
    assert (disc["name"], disc["width_mm"], disc["height_mm"], disc["pieces"]) == (
        "disc",
        pytest.approx(60, abs=0.15),
        pytest.approx(60, abs=0.15),
        1,
    )
    assert star["width_mm"] == pytest.approx(60)
    first = report["sheets"][0]
    assert first["lines"]["kiss"]["length_mm"] > 5 * 3.14159 * 64
    assert set(report["seconds"]) >= {"decode", "trace", "plan", "print file", "cut files"}


@pytest.mark.long
@pytest.mark.parametrize("name", ["disc", "star", "ring"])
def test_a_rehearsal_slips_at_most_a_fifth_of_a_millimetre(name: str, art: Path, tmp_path: Path) -> None:
    made = run(
        app,
        ["make", str(art / f"{name}.png"), "--longest-mm", "56", "--border-mm", "2", "--peel-mm", "2"]
        + ["--copies", "4", "--out", str(tmp_path)],
    )
    assert made.exit_code == 0, made.output
    for seed in (1, 2):
        done = run(app, ["rehearse", str(tmp_path), "--seed", str(seed)])
        assert done.exit_code == 0, done.output
        rehearsal = json.loads((tmp_path / "rehearsal.json").read_text())
        assert 0 < rehearsal["residual_mm"] <= 0.15
        assert 0 < rehearsal["slip_rms_mm"] <= rehearsal["slip_max_mm"] <= 0.20
        assert rehearsal["seconds_simulated"] > 10
    assert (tmp_path / "rehearsal-01.cut.png").stat().st_size > 10_000


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["missing.png"], "cannot be read"),
        (["--longest-mm", "nan", "disc.png"], "longest_mm"),
        (["--longest-mm", "4000", "disc.png"], "longest_mm"),
        (["--border-mm", "-21", "disc.png"], "border_mm"),
        (["--copies", "0", "disc.png"], "from 1 on"),
        (["--copies", "many", "disc.png"], "or fill"),
        (["--copies", "9" * 5000, "disc.png"], "number from 1 on"),
        (["--stock", "napkin", "disc.png"], "there are a4"),
        (["--stock", "napkin.json", "disc.png"], "cannot be read"),
        (["--longest-mm", "390", "disc.png"], "does not fit"),
    ],
)
def test_what_cannot_be_made_is_one_sentence_and_exit_2(
    arguments: list[str], says: str, art: Path, tmp_path: Path
) -> None:
    given = [str(art / a) if a.endswith(".png") else a for a in arguments]
    done = run(app, ["make", *given, "--out", str(tmp_path / "out")])
    assert done.exit_code == 2
    assert says in done.output
    assert len(done.output.strip().splitlines()) == 1
    assert not (tmp_path / "out").exists()


def test_a_folder_that_is_not_ours_is_not_rehearsed(tmp_path: Path) -> None:
    done = run(app, ["rehearse", str(tmp_path)])
    assert done.exit_code == 2
    assert "report.json" in done.output


def make(art: Path, out: Path, *more: str) -> Result:
    return run(app, ["make", str(art / "disc.png"), "--out", str(out), *more])


def test_files_that_others_put_in_the_folder_stay(art: Path, tmp_path: Path) -> None:
    for name in ("sheet-01.print.pdf", "sheet-99.cut.svg", "sheet-07.txt"):
        (tmp_path / name).write_text("mine")
    done = make(art, tmp_path)
    assert done.exit_code == 2
    assert "sheet-01.print.pdf" in done.output
    assert sorted(path.name for path in tmp_path.iterdir()) == [
        "sheet-01.print.pdf",
        "sheet-07.txt",
        "sheet-99.cut.svg",
    ]
    assert make(art, tmp_path, "--force").exit_code == 0
    assert (tmp_path / "sheet-01.print.pdf").read_bytes().startswith(b"%PDF")
    assert (tmp_path / "sheet-99.cut.svg").read_text() == "mine"


def test_what_only_the_last_run_wrote_goes_and_nothing_beside_it(art: Path, tmp_path: Path) -> None:
    out, beside = tmp_path / "out", tmp_path / "beside.txt"
    beside.write_text("mine")
    assert make(art, out, "--copies", "30").exit_code == 0
    assert (out / "sheet-03.cut.svg").exists()
    (out / "notes.txt").write_text("mine")
    # A report that names files it never wrote is not followed out of the folder.
    report = json.loads((out / "report.json").read_text())
    report["files"] += ["../beside.txt", "notes.txt", "sheet-../../beside.txt"]
    (out / "report.json").write_text(json.dumps(report))
    assert make(art, out, "--copies", "3").exit_code == 0
    assert beside.exists()
    assert sorted(path.name for path in out.iterdir()) == [
        "notes.txt",
        "report.json",
        *(f"sheet-01.{kind}" for kind in ("cut.dxf", "cut.hpgl", "cut.pdf", "cut.svg", "print.pdf")),
    ]


def test_a_run_that_broke_off_is_made_again(
    art: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object) -> str:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr("perisect.core.job.files.CutFiles.file", broken)
        done = make(art, tmp_path)
    assert done.exit_code == 2
    assert done.output.strip().endswith("cannot be written: No space left on device.")
    assert (tmp_path / "sheet-01.print.pdf").exists()
    assert make(art, tmp_path).exit_code == 0


def test_an_out_that_is_a_file_is_one_line(art: Path, tmp_path: Path) -> None:
    (tmp_path / "file").write_text("mine")
    done = make(art, tmp_path / "file")
    assert (done.exit_code, len(done.output.strip().splitlines())) == (2, 1)
    assert (tmp_path / "file").read_text() == "mine"


def test_a_stock_is_named_in_any_case_or_is_a_record_and_a_stop_is_exit_1(art: Path, tmp_path: Path) -> None:
    assert make(art, tmp_path / "film", "--stock", "A4 FILM, Gloss").exit_code == 0
    record = {"id": "a3", "name": "A3 card", "width_mm": 297, "height_mm": 420, "left": 12}
    (tmp_path / "a3.json").write_text(json.dumps(record))
    done = make(art, tmp_path / "a3", "--stock", str(tmp_path / "a3.json"))
    # It is larger than the desk plotter's mat.
    assert done.exit_code == 1
    assert "stop: A3 card is 115 mm larger than the carrier mat" in done.output
    assert json.loads((tmp_path / "a3" / "report.json").read_text())["sheets"][0]["height_mm"] == 420
    (tmp_path / "bad.json").write_text('{"id": "a3", "name": "A3", "width_mm": -4}')
    bad = make(art, tmp_path / "bad", "--stock", str(tmp_path / "bad.json"))
    assert (bad.exit_code, "width_mm" in bad.output) == (2, True)


def test_a_roll_is_made_and_rehearsed_on_its_own_machines(art: Path, tmp_path: Path) -> None:
    assert make(art, tmp_path, "--stock", "roll-vinyl", "--copies", "8").exit_code == 0
    done = run(app, ["rehearse", str(tmp_path)])
    assert done.exit_code == 0, done.output
    assert json.loads((tmp_path / "rehearsal.json").read_text())["slip_max_mm"] <= 0.2


def test_look_tells_what_is_behind_pictures_and_takes_it_away(art: Path, tmp_path: Path) -> None:
    shape = drawings.coverage(drawings.disc(120))[0]
    rgba = np.dstack([np.full((*shape.shape, 3), 255, np.uint8), np.full_like(shape, 255)])
    rgba[..., 1] -= (shape // 255) * 200
    rgba[..., 2] -= (shape // 255) * 200
    Image.fromarray(rgba).save(tmp_path / "disc.png")
    (tmp_path / "cut.png").write_bytes((tmp_path / "disc.png").read_bytes()[:300])
    bare = tmp_path / "bare"
    arts = [str(art / "disc.png"), str(tmp_path / "disc.png"), str(tmp_path / "cut.png")]
    done = run(app, ["look", *arts, "--clean", str(bare)])
    assert done.exit_code == 2
    clear, plain, cut = json.loads(done.stdout)
    assert (clear["name"], clear["verdict"]) == ("disc", "clear")
    assert (plain["name"], plain["verdict"], plain["width_px"]) == ("disc-2", "plain", shape.shape[1])
    assert 0.5 <= plain["confidence"] <= 1
    assert plain["findings"][0]["code"] == "background_plain"
    assert "cut off" in cut["error"]
    cleaned = np.asarray(Image.open(bare / "disc-2.png"))[..., 3]
    # Red on white at full coverage is art, white is not.
    assert (cleaned[shape == 255] == 255).all()
    assert not cleaned[shape == 0].any()
    assert not (bare / "cut.png").exists()
    # A second time its own files are replaced, other people's are not, and a picture never by itself.
    assert run(app, ["look", *arts[:2], "--clean", str(bare)]).exit_code == 0
    (bare / "disc.png").write_bytes((tmp_path / "disc.png").read_bytes())
    assert run(app, ["look", *arts[:2], "--clean", str(bare)]).exit_code == 2
    assert run(app, ["look", *arts[1:2], "--clean", str(tmp_path)]).exit_code == 2


def test_names_that_are_no_text_and_files_that_no_library_expects_are_one_line(
    art: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    odd = tmp_path / os.fsdecode(b"ferry\xff\x07.png")
    odd.write_bytes((art / "disc.png").read_bytes())
    done = run(app, ["look", str(odd), "--clean", str(tmp_path / "bare")])
    assert done.exit_code == 0, done.output
    assert run(app, ["make", str(odd), "--out", str(tmp_path / "out"), "--copies", "1"]).exit_code == 0
    assert json.loads((tmp_path / "out" / "report.json").read_text())["designs"][0]["name"] == "ferry??"

    def broken(_: bytes) -> None:
        raise cv2.error("(-215) !empty()")

    monkeypatch.setattr("perisect.offline.read.decode", broken)
    for command in ("look", "make"):
        done = run(
            app, [command, str(art / "disc.png"), *(["--out", str(tmp_path / "no")] * (command == "make"))]
        )
        assert done.exit_code == 2
        assert "may be damaged" in done.output
        assert "Traceback" not in done.output


def test_a_link_in_the_folder_is_replaced_not_followed(art: Path, tmp_path: Path) -> None:
    mine = tmp_path / "mine.txt"
    mine.write_text("mine")
    out = tmp_path / "out"
    assert make(art, out, "--copies", "1").exit_code == 0
    (out / "sheet-01.cut.svg").unlink()
    (out / "sheet-01.cut.svg").symlink_to(mine)
    assert make(art, out, "--copies", "1").exit_code == 0
    assert mine.read_text() == "mine"
    assert not (out / "sheet-01.cut.svg").is_symlink()
    assert not list(out.glob(".*"))


def test_bare_stock_is_made_without_a_print_and_nested_on_wish(art: Path, tmp_path: Path) -> None:
    given = [str(art / "disc.png"), "--out", str(tmp_path), "--longest-mm", "40", "--copies", "9"]
    done = run(app, ["make", *given, "--no-print", "--nest", "2"])
    assert done.exit_code == 0, done.output
    assert [file.name for file in tmp_path.glob("*.pdf")] == ["sheet-01.cut.pdf"]
    report = json.loads((tmp_path / "report.json").read_text())
    (sheet,) = report["sheets"]
    assert (sheet["marks"], len(sheet["placements"])) == ([], 9)
    rehearsed = run(app, ["rehearse", str(tmp_path)])
    assert (rehearsed.exit_code, "without print files" in rehearsed.output) == (2, True)
