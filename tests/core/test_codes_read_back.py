"""Codes as another program reads them, which had no part in drawing them."""

import string

import numpy as np
import pytest
import zxingcpp
from hypothesis import given, settings
from hypothesis import strategies as st

from perisect.core.sheet.labels import CodeBox
from perisect.core.sheet.labels.codes import code_of, ean13_digits
from perisect.core.sheet.labels.recipe import CodeKind

PRINTABLE = st.text(string.ascii_letters + string.digits + string.punctuation + " ", min_size=1, max_size=24)


def read(kind: CodeKind, text: str, px: int = 3) -> tuple[str, str]:
    """What the decoder makes of a code as it is drawn, its own quiet zone and no more; the kind it takes it for."""
    made = code_of(text, CodeBox(template="", x=0, y=0, width=1, height=1, kind=kind), 400, 400)
    assert made.problem is None
    tall = 1 if kind == "qr" else 60
    picture = np.where(np.kron(made.modules, np.ones((px * tall, px))), 0, 255).astype(np.uint8)
    (found,) = zxingcpp.read_barcodes(picture)
    return found.text, str(found.format)


@settings(max_examples=150, deadline=None)
@given(PRINTABLE)
def test_a_code_128_is_read_as_it_was_written(text: str) -> None:
    assert read("code128", text) == (text, "Code 128")


@settings(max_examples=50, deadline=None)
@given(st.text(string.digits, min_size=2, max_size=24))
def test_a_code_128_of_digits_keeps_their_number_and_its_noughts(text: str) -> None:
    assert read("code128", text) == (text, "Code 128")


@settings(max_examples=50, deadline=None)
@given(st.text(string.digits, min_size=12, max_size=12))
def test_an_ean_13_is_read_with_its_check_digit(text: str) -> None:
    assert read("ean13", text) == (ean13_digits(text), "EAN-13")


@settings(max_examples=50, deadline=None)
@given(st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs")), min_size=1, max_size=60))
def test_a_qr_code_is_read_in_any_script(text: str) -> None:
    assert read("qr", text)[0] == text


@pytest.mark.parametrize("px", [2, 5, 9])
def test_at_every_size_it_is_the_same(px: int) -> None:
    assert read("code128", "KIOSK-0042/a", px) == ("KIOSK-0042/a", "Code 128")
