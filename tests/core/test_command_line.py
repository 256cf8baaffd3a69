"""`perisect make` and `perisect rehearse`, from pictures to a measured slip."""

import json
from pathlib import Path

import pytest
from typer.testing import CliRunner

from perisect.cli import app
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
        (["--copies", "many", "disc.png"], "number or fill"),
        (["--stock", "napkin", "disc.png"], "stock"),
        (["--longest-mm", "390", "disc.png"], "fits nowhere"),
    ],
)
def test_what_cannot_be_made_is_one_sentence_and_exit_1(
    arguments: list[str], says: str, art: Path, tmp_path: Path
) -> None:
    given = [str(art / a) if a.endswith(".png") else a for a in arguments]
    done = run(app, ["make", *given, "--out", str(tmp_path / "out")])
    assert done.exit_code == 1
    assert says in done.output
    assert len(done.output.strip().splitlines()) == 1


def test_a_folder_that_is_not_ours_is_not_rehearsed(tmp_path: Path) -> None:
    done = run(app, ["rehearse", str(tmp_path)])
    assert done.exit_code == 1
    assert "report.json" in done.output
