"""A font of somebody's own that is broken is read or refused, and does not fill the log."""

import logging

import pytest

from perisect.core.fonts import FOLDER
from perisect.core.fonts.own import FontRefused, read_font


def test_a_font_with_thousands_of_broken_names_says_nothing_into_the_log(
    caplog: pytest.LogCaptureFixture,
) -> None:
    font = bytearray((FOLDER / "text.ttf").read_bytes())
    # The table directory: 16 bytes a table after 12, of which 8 to 12 are its place (OpenType 1.9, Table Directory).
    entry = next(at for at in range(12, 12 + 16 * 40, 16) if font[at : at + 4] == b"name")
    place = int.from_bytes(font[entry + 8 : entry + 12], "big")
    # So many names it says it holds; most of them lie outside of it.
    font[place + 2 : place + 4] = (0xFFFF).to_bytes(2, "big")
    with caplog.at_level(logging.INFO):
        try:
            read_font(bytes(font))
        except FontRefused:
            pass
    assert caplog.records == []
