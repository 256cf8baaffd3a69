"""The simulated machines: they err like real ones, and nothing they are sent stops them."""

import numpy as np
import pytest

from perisect.core.prepress.raster import RasterError
from perisect.stand_ins.language import Language
from perisect.stand_ins.plotter import Plotter
from perisect.stand_ins.printer import Printer


def talk(text: str, plotter: Plotter | None = None) -> list[str]:
    said: list[str] = []
    language = Language(plotter or Plotter(1), said.append, lambda seconds: None)
    language.feed(text)
    return [line.strip() for line in said]


def test_position_is_answered_in_forty_units_a_millimetre() -> None:
    assert talk("IN;SP1;PU400,800;OA;PD440,800;OA;PR;PD10,-20;OA;") == ["400,800,0", "440,800,1", "450,780,1"]


@pytest.mark.parametrize(
    ("text", "error"),
    [
        ("ZZ1,2;", "1"),
        (";;,;", "1"),
        ("PU1;", "2"),
        ("SP1,2;", "2"),
        ("SP99;", "3"),
        ("VS0;", "3"),
        ("FS9999;", "3"),
        ("PU1e999,0;", "1"),
        ("PU99999999,0;", "3"),
        ("PUx,y;", "1"),
        ("PU-400,0;", "6"),
        ("PU999999,0;", "6"),
        ("PU0,0,1;", "2"),
        ("\x00\xff\ufffd;", "1"),
    ],
)
def test_what_is_wrong_sets_an_error_that_oe_reports_once(text: str, error: str) -> None:
    assert talk(f"{text}OE;OE;IN;SP1;PU40,40;OA;") == [error, "0", "40,40,0"]


def test_a_command_beyond_the_plate_moves_nothing() -> None:
    plotter = Plotter(1)
    talk("IN;SP1;PU40,40;PD-4000,0;", plotter)
    assert plotter.axis == pytest.approx((1, 1))
    assert plotter.recorded == []


def test_an_endless_command_is_thrown_away() -> None:
    said: list[str] = []
    language = Language(Plotter(1), said.append, lambda seconds: None)
    language.feed("PD" + "1," * 1_500_000)
    language.feed("OE;")
    assert said == ["2\r\n"]


def test_status_tells_a_loaded_sheet() -> None:
    plotter = Plotter(1)
    assert talk("OS;", plotter) == ["0"]
    plotter.load(np.full((100, 100), 255, np.uint8), 10)
    assert talk("OS;", plotter) == ["16"]


def test_a_sheet_lies_up_to_a_degree_and_two_millimetres_off_and_each_time_anew() -> None:
    plotter = Plotter(5)
    seen = []
    for _ in range(40):
        plotter.load(np.full((2970, 2100), 255, np.uint8), 10)
        matrix = plotter._sheet_to_plate
        turn = np.degrees(np.arctan2(matrix[1, 0], matrix[0, 0]))
        corner = matrix @ (0, 297, 1)
        assert abs(turn) <= 1
        assert np.hypot(*(corner - (20, 20))) <= 2
        seen.append((turn, *corner))
    assert len(set(seen)) == 40


def test_the_same_seed_is_the_same_day() -> None:
    sheet = np.tile(np.arange(200, dtype=np.uint8), (200, 1))
    views = []
    for _ in range(2):
        plotter = Plotter(9)
        plotter.load(sheet, 10)
        views.append(plotter.sense(25, 25))
    assert (views[0] == views[1]).all()


def test_simulated_time_passes_as_acceleration_allows() -> None:
    plotter = Plotter(1)
    talk("IN;SP1;VS20;PU0,0;PD4000,0;", plotter)
    # 100 mm at 200 mm/s and 3000 mm/s²: 2 v / a for both ramps, the rest at speed.
    ramp = 200**2 / 3000
    assert plotter.time == pytest.approx(2 * 200 / 3000 + (100 - ramp) / 200)


@pytest.mark.parametrize("data", [b"", b"not a pdf", b"%PDF-1.7 broken"])
def test_the_printer_refuses_what_is_not_a_pdf(data: bytes) -> None:
    with pytest.raises(RasterError):
        Printer(1).print_page(data)
