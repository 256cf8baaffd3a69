"""Drawings and pages come in sharp, and nothing outside of them is read."""

import io

import numpy as np
import pikepdf
import pytest
import shapely

from perisect.core.artwork import ArtworkError, Decoded, decode
from perisect.core.job import trace_artwork

CIRCLE = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 80">'
    '<circle cx="50" cy="40" r="30" fill="#264"/>{}</svg>'
)


def traced(decoded: Decoded) -> shapely.MultiPolygon:
    return trace_artwork(decoded)[0].outline.shape


def test_a_drawn_circle_has_the_outline_of_a_circle() -> None:
    shape = traced(decode(CIRCLE.format("").encode()))
    k = 3600 / 100
    away = np.abs(np.hypot(*(shapely.get_coordinates(shape) - (50 * k, 40 * k)).T) - 30 * k)
    assert away.max() < 0.5  # half a pixel, 0.014 mm on a sticker 60 mm across
    assert np.mean(away) < 0.2


def test_a_page_without_paper_has_a_clear_background() -> None:
    pdf = pikepdf.new()
    pdf.add_blank_page(page_size=(200, 100))
    pdf.pages[0].Contents = pdf.make_stream(b"0 0.4 0.4 rg 50 20 100 60 re f")
    pdf.add_blank_page(page_size=(50, 50))
    file = io.BytesIO()
    pdf.save(file)
    decoded = decode(file.getvalue())
    assert decoded.rgba.shape == (1800, 3600, 4)
    assert decoded.notes == ("It has 2 pages; the first one is used.",)
    assert traced(decoded).bounds == pytest.approx((900, 360, 2700, 1440), abs=0.6)


@pytest.mark.parametrize(
    ("inside", "says"),
    [
        ('<image href="file:///etc/hostname" width="9" height="9"/>', "other files"),
        ('<image href="http://127.0.0.1/x.png" width="9" height="9"/>', "other files"),
        ('<use href="other.svg#a"/>', "other files"),
        ('<rect width="9" height="9" fill="url(http://127.0.0.1/#g)"/>', "other files"),
        ('<style>@import "http://127.0.0.1/a.css";</style>', "other files"),
        ('<image href="data:image/svg+xml;base64,AAAA" width="9" height="9"/>', "other files"),
        ("<script>1</script>", "script"),
        ("<g>", "damaged"),
    ],
)
def test_what_reaches_outside_is_refused(inside: str, says: str) -> None:
    with pytest.raises(ArtworkError, match=says):
        decode(CIRCLE.format(inside).encode())


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b'<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><svg>&b;</svg>', "entities"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="9" height="9"/></svg>', "no size"),
        (b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 900000"/>', "far longer"),
        (b"%PDF-1.7 and nothing", "damaged"),
    ],
)
def test_bombs_and_fragments_are_refused(data: bytes, says: str) -> None:
    with pytest.raises(ArtworkError, match=says):
        decode(data)


def test_a_protected_pdf_says_so() -> None:
    pdf = pikepdf.new()
    pdf.add_blank_page()
    file = io.BytesIO()
    pdf.save(file, encryption=pikepdf.Encryption(owner="a", user="b"))
    with pytest.raises(ArtworkError, match="protected"):
        decode(file.getvalue())
