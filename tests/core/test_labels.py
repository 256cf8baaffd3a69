"""Labels: lists as they come, texts that fit or say that they do not, codes that scanners read."""

import cv2
import numpy as np
import pypdfium2
import pytest
from PIL import Image, ImageDraw

from perisect.core.artwork import decode
from perisect.core.fonts.font import font
from perisect.core.job import DesignRecipe, JobPlan, JobRecipe, plan_job, trace_artwork
from perisect.core.job.files import print_pdf
from perisect.core.job.findings import findings_of
from perisect.core.prepress.print_file import encode_picture
from perisect.core.sheet.labels import (
    CodeBox,
    LabelRecipe,
    ShortForm,
    Table,
    TableError,
    TextBox,
    fit_text,
    label_art,
    read_table,
)
from perisect.core.sheet.labels.codes import code_of, ean13_digits
from perisect.core.sheet.labels.fit import TRACKING
from perisect.core.sheet.labels.label import filled_in

KEY, ART = "a" * 64, "1" * 64


def table(text: str) -> Table:
    return read_table(text.encode())


@pytest.mark.parametrize(
    ("data", "cell"),
    [
        (b"name;weight\nReed honey;250 g\n", "Reed honey"),
        ("\ufeffname,weight\nSchilfhonig süß,1\n".encode(), "Schilfhonig süß"),
        ("name\tweight\nÅ\t2\n".encode("utf-16"), "Å"),
        ("name,weight\nCafé,3\n".encode("cp1252"), "Café"),
        (b'name,weight\n"Honey, wild",4\n', "Honey, wild"),
        (b"name,weight\n=1+1,5\n", "=1+1"),
        ("name,weight\n مرحبا ,6\n".encode(), "مرحبا"),
    ],
)
def test_lists_are_read_as_they_come(data: bytes, cell: str) -> None:
    read = read_table(data)
    assert read.columns == ("name", "weight")
    assert read.rows[0][0] == cell


def test_what_is_odd_in_a_list_is_told_and_nothing_is_lost() -> None:
    ragged = table("a,b,a\n1\n2,3,4,5\n,,\n6,7,=8\n")
    assert ragged.columns == ("a", "b", "a 3")
    assert ragged.rows == (("1", "", ""), ("2", "3", "4"), ("6", "7", "=8"))
    assert any("2 rows" in note for note in ragged.notes)
    assert any("formulas" in note for note in ragged.notes)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "column names"),
        (b"name\n", "at least one row"),
        (b"PK\x03\x04\0\0\0\0", "not a list"),
        (b"n\n" + b"x\n" * 100_000, "more than 20000 rows"),
        (b"n\n" + b"x" * 9_000_000, "8 MB"),
        (b'n\n"' + b"x" * 200_000 + b'"\n', "cannot be read"),
    ],
)
def test_what_is_no_list_is_refused_with_what_to_do(data: bytes, said: str) -> None:
    with pytest.raises(TableError, match=said):
        read_table(data)


def test_templates_take_cells_and_numbers() -> None:
    row = {"Name": "Lime", "g": "125"}
    assert (
        filled_in("{name}, {g} g, {#} of 9, {#4}, {nobody}", row, 7) == "Lime, 125 g, 7 of 9, 0007, {nobody}"
    )


def test_a_text_is_set_as_high_as_asked_and_lower_only_where_it_must() -> None:
    short = fit_text("Lime", 40, 10, "text", 4, 1.4)
    assert (short.size_mm, short.tracking, short.shortened) == (4, 0, False)
    width = font("text").shape("Reed honey from the meadow").width
    tight = fit_text("Reed honey from the meadow", 30, 10, "text", 4, 1.4)
    assert tight.size_mm == pytest.approx(30 / width)
    low = fit_text("Lime", 400, 4, "text", 40, 1.4)
    # Capitals and what letters reach below: 1.32 of their height.
    assert low.size_mm == pytest.approx(4 / 1.32)


def test_first_size_then_tracking_then_the_short_forms() -> None:
    text = "Wildflower honey"
    shaped = font("text").shape(text)
    least = 2.0
    shorts = (ShortForm(long="wildflower", short="Wildfl."), ShortForm(long="honey", short="h."))
    close = least * (shaped.width + TRACKING * shaped.gaps)
    between = (close + least * shaped.width) / 2
    tracked = fit_text(text, between, 20, "text", 4, least, shorts=shorts)
    assert (tracked.text, tracked.tracking, tracked.shortened) == (text, TRACKING, False)
    once = fit_text(text, close - 0.1, 20, "text", 4, least, shorts=shorts)
    assert (once.text, once.shortened) == ("Wildfl. honey", True)
    twice = fit_text(text, 2.0 * font("text").shape("Wildfl. h.").width, 20, "text", 4, least, shorts=shorts)
    assert twice.text == "Wildfl. h."
    never = fit_text(text, 5, 20, "text", 4, least, shorts=shorts)
    assert never.problem is not None
    assert never.lines == ()
    for fitted in (tracked, once, twice):
        assert fitted.size_mm >= least - 1e-9


def test_a_text_breaks_into_lines_where_that_makes_it_higher() -> None:
    one = fit_text("Reed honey of the upper ferry", 30, 15, "text", 9, 1.0, lines=1)
    three = fit_text("Reed honey of the upper ferry", 30, 15, "text", 9, 1.0, lines=3)
    assert three.size_mm > 1.4 * one.size_mm
    assert len(three.lines) in (2, 3)


@pytest.mark.parametrize(("text", "lacking"), [("مرحبا", "م"), ("bee 🐝", "🐝"), ("蜂蜜", "蜂")])
def test_letters_that_the_font_lacks_are_named(text: str, lacking: str) -> None:
    found = fit_text(text, 40, 10, "text", 4, 1.4)
    assert found.problem is not None
    assert lacking in found.problem


def test_letters_are_shaped_not_lined_up() -> None:
    # Kerning draws an o under a T, so the pair is narrower than both alone.
    both = font("head").shape("To").width
    assert both < font("head").shape("T").width + font("head").shape("o").width - 0.01
    upper = font("text").outline(font("text").shape("H").glyphs[0][0]).points
    assert (upper[:, 1].min(), upper[:, 1].max()) == pytest.approx((-1, 0), abs=0.01)


def test_check_digits_are_worked_out_as_the_standard_does() -> None:
    # 4006381333931: 4+0·3+0+6·3+3+8·3+1+3·3+3+3·3+9+3·3 = 89, and 1 more makes 90.
    assert ean13_digits("400638133393") == "4006381333931"
    with pytest.raises(ValueError, match="should be 1"):
        ean13_digits("4006381333932")


def drawn(code: np.ndarray, px: int, tall: int = 1) -> np.ndarray:
    picture = np.where(np.kron(code, np.ones((px * tall, px))), 0, 255).astype(np.uint8)
    return cv2.copyMakeBorder(picture, 40, 40, 40, 40, cv2.BORDER_CONSTANT, value=255)


def test_an_ean_is_read_back_by_another_program() -> None:
    box = CodeBox(template="", x=0, y=0, width=1, height=1, kind="ean13")
    made = code_of("400638133393", box, 40, 20)
    assert made.problem is None
    found, *_ = cv2.barcode.BarcodeDetector().detectAndDecode(drawn(made.modules, 2, 60))
    assert found == "4006381333931"


def test_code_128_has_its_checksum_and_its_quiet_zone() -> None:
    box = CodeBox(template="", x=0, y=0, width=1, height=1, kind="code128")
    made = code_of("1234", box, 60, 20)
    # Start C, 12, 34, check, stop: 105 + 12 + 2·34 = 185, and 185 mod 103 = 82 — in widths 121241.
    bars = made.modules[0, 10:-10]
    runs = np.diff(np.flatnonzero(np.diff(np.r_[~bars[0], bars, ~bars[-1]])))
    widths = "".join(map(str, runs))
    assert widths == "211232" + "112232" + "131123" + "121241" + "2331112"
    assert not made.modules[0, :10].any()
    assert code_of("é", box, 60, 20).problem is not None


def test_a_code_too_small_for_a_scanner_says_how_large_its_box_must_be() -> None:
    box = CodeBox(template="", x=0, y=0, width=1, height=1)
    small = code_of("https://reedwater.example/1", box, 9, 9)
    assert small.problem is not None
    # 29 modules and 4 quiet ones on both sides, 0.38 mm each: 14.06 mm.
    assert "make its box 14 mm" in small.problem
    assert code_of("", box, 30, 30).problem is not None


LABELS = LabelRecipe(
    table=KEY,
    texts=(TextBox(template="{name}", x=0.04, y=0.05, width=0.5, height=0.2),),
    codes=(CodeBox(template="https://reedwater.example/{id}", x=0.58, y=0.04, width=0.36, height=0.36),),
)


def jar_plan(rows: int, labels: LabelRecipe = LABELS, **design: object) -> tuple[JobPlan, np.ndarray]:
    """A job of jar labels from a list of so many rows."""
    picture = Image.new("RGBA", (700, 360), (0, 0, 0, 0))
    ImageDraw.Draw(picture).rounded_rectangle((4, 4, 695, 355), 60, fill=(250, 240, 215, 255))
    traced, rgba = trace_artwork(
        decode(cv2.imencode(".png", np.array(picture)[..., [2, 1, 0, 3]])[1].tobytes())
    )
    listed = table("name;id\n" + "\n".join(f"Reed honey {n};{n}" for n in range(rows)))
    jar = DesignRecipe(id="d", name="Jar", artwork=ART, longest_mm=45, border_mm=0, labels=labels, **design)
    return plan_job(JobRecipe(designs=(jar,)), {ART: traced}, tables={KEY: listed}), rgba


def test_a_row_is_a_label_row_after_row_over_the_sheets() -> None:
    plan, _ = jar_plan(60)
    assert plan.sheets.count == 60
    assert len(plan.sheets.sheets) == 2
    first = len(plan.sheets.sheets[0])
    labels = plan.labels["d"]
    assert plan.label_art(0)[0] is labels.art(0)
    assert plan.label_art(1)[0] is labels.art(first)


@pytest.mark.long
@pytest.mark.slow
def test_every_qr_code_is_read_back_from_the_printed_picture() -> None:
    plan, rgba = jar_plan(60)
    read = set()
    for number in range(2):
        pdf = print_pdf(plan, number, {ART: encode_picture(rgba)})
        page = pypdfium2.PdfDocument(pdf)[0].render(scale=250 / 72).to_pil().convert("L")
        read |= set(cv2.QRCodeDetector().detectAndDecodeMulti(np.array(page))[1])
    assert read == {f"https://reedwater.example/{n}" for n in range(60)}


def test_texts_are_printed_as_outlines_and_no_font_is_needed() -> None:
    plan, rgba = jar_plan(3)
    pdf = pypdfium2.PdfDocument(print_pdf(plan, 0, {ART: encode_picture(rgba)}))
    assert "Reed" not in pdf[0].get_textpage().get_text_range()


def test_rows_that_do_not_fit_are_listed_and_not_cropped() -> None:
    narrow = LABELS.model_copy(update={"texts": (LABELS.texts[0].model_copy(update={"width": 0.1}),)})
    plan, _ = jar_plan(12, narrow)
    (unfit,) = [f for f in findings_of(plan) if f.code == "labels_unfit"]
    assert unfit.severity == "stop"
    assert "12 of 12" in unfit.text
    assert "row 1, “Reed honey 0”" in unfit.text
    assert all(len(art.painted) == 1 for art in plan.label_art(0) if art)  # the code alone
    good, _ = jar_plan(12)
    assert [f.severity for f in findings_of(good) if f.code == "labels_fit"] == ["good"]


def test_a_label_scales_with_its_piece() -> None:
    listed = table("name;id\nLime;1")
    small, large = (label_art(LABELS, listed, 0, mm).painted[1].path.points for mm in (40, 80))
    assert large == pytest.approx(small * 2)


def test_a_box_that_reaches_past_its_piece_is_told() -> None:
    past = LABELS.model_copy(update={"texts": (LABELS.texts[0].model_copy(update={"y": 0.4}),)})
    plan, _ = jar_plan(2, past)
    # The jar is 45 by 23 mm: a box from 0.4 to 0.6 of 45 mm ends at 27.
    (told,) = [f for f in findings_of(plan) if f.code == "label_box"]
    assert told.severity == "look"
    assert "{name}" in told.text
    assert told.measured == pytest.approx(27 - plan.lines["d"].height_mm, abs=0.05)
    assert not [f for f in findings_of(jar_plan(2)[0]) if f.code == "label_box"]
