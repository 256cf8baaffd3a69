"""Drawings and pages come in sharp, and nothing outside of them is read."""

import io

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


def test_a_page_without_paper_has_a_clear_background() -> None:
    pdf = pikepdf.new()
    pdf.add_blank_page(page_size=(200, 100))
    pdf.pages[0].Contents = pdf.make_stream(b"0 0.4 0.4 rg 50 20 100 60 re f")
    pdf.add_blank_page(page_size=(50, 50))
    file = io.BytesIO()
    pdf.save(file)
    decoded = decode(file.getvalue())
    assert decoded.rgba.shape == (834, 1668, 4)
    assert (decoded.notes, decoded.pages) == (("Page 1 of 2.",), 2)
    assert traced(decoded).bounds == pytest.approx([px * 600 / 72 for px in (50, 20, 150, 80)], abs=1.0)
    assert decode(file.getvalue(), 2).rgba.shape == (1500, 1500, 4)
    with pytest.raises(ArtworkError, match="no page 3"):
        decode(file.getvalue(), 3)


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


def test_a_pdf_that_borrows_fonts_says_so() -> None:
    pdf = pikepdf.new()
    pdf.add_blank_page(page_size=(200, 100))
    font = pikepdf.Dictionary(
        Type=pikepdf.Name.Font, Subtype=pikepdf.Name.Type1, BaseFont=pikepdf.Name.Helvetica
    )
    pdf.pages[0].Resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(F1=font))
    pdf.pages[0].Contents = pdf.make_stream(b"BT /F1 40 Tf 20 40 Td (Reed) Tj ET")
    file = io.BytesIO()
    pdf.save(file)
    (note,) = decode(file.getvalue()).notes
    assert "fonts it does not hold" in note
