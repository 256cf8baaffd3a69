"""Every sentence has one place, and numbers keep their meaning in either unit."""

import re
from pathlib import Path

import pytest

import perisect
from perisect.core.catalogue import CATALOGUE, STATIONS, words
from perisect.core.message import NOTHING, Message, extent, mm, mm2, percent, quantity, says

SOURCES = Path(perisect.__file__).parent
VARIANTS = {
    "machine_small.{how}": ("wide", "long"),
    "resolution.soft.{kind.value}": ("photograph", "drawing", "line"),
    "rights.{may}": ("no", "unknown"),
    "removal_{doubt.kind}": ("taken", "left", "leak", "shadow", "nothing", "speckled"),
}


def codes_said() -> set[str]:
    """Every code that the sources use."""
    found = set()
    for file in SOURCES.rglob("*.py"):
        source = file.read_text()
        if "core.message" not in source or "catalogue" in file.parts:
            continue
        for text in re.findall(r'"([a-z_]+(?:\.[a-z_]+)?)"', source):
            if text in CATALOGUE:
                found.add(text)
        for text in re.findall(r'says\(\s*f?"([^"]+)"', source):
            found |= (
                {re.sub(r"\{.*\}", way, text) for way in VARIANTS.get(text, ("",))} if "{" in text else {text}
            )
    return found


def test_every_code_has_words_and_every_sentence_is_said_somewhere() -> None:
    assert codes_said() | {"nothing"} == set(CATALOGUE)


def test_no_code_has_two_sentences() -> None:
    assert sum(len(station) for station in STATIONS) + 1 == len(CATALOGUE)


@pytest.mark.parametrize("code", CATALOGUE)
def test_a_sentence_is_written_as_it_is_read(code: str) -> None:
    text = CATALOGUE[code]
    assert "  " not in text
    assert not re.search(r"\d", text.replace("100 %", "")), "numbers are values"
    assert not re.search(r"\b(mm|ppi|µm)\b", text), "units come with their numbers"


def test_areas_and_lengths_are_converted_by_their_unit() -> None:
    patch = says("island", area=mm2(12), name="Heron")
    assert words(patch).startswith("A patch of 12 mm² inside Heron ")
    # A square inch is 645.16 mm².
    assert words(patch, "in").startswith("A patch of 0.019 in² inside Heron ")
    close = {"one": "A", "other": "B", "sheet": 1}
    near = says("close", **close, apart=mm(0.25, 2), gap=mm(0.3))
    assert words(near) == "A and B on sheet 1 are 0.25 mm apart; the gap is 0.3 mm."
    assert words(near, "in") == "A and B on sheet 1 are 0.010 in apart; the gap is 0.012 in."
    card = says("card_large", size=extent(254, 127, 1), stock="A4")
    assert words(card, "in") == "A card of 10.00 × 5.00 in does not fit on A4."
    assert words(card) == "A card of 254.0 × 127.0 mm does not fit on A4."


def test_other_units_are_what_they_are_in_both() -> None:
    for length in ("mm", "in"):
        held = says(
            "hold",
            name="Heron",
            ties=8,
            tie=mm(1, 2),
            share=percent(0.125),
            force=quantity(1.25, "kgf", 1),
            verdict="holds",
        )
        assert "hold 12 % of the outline, about 1.2 kgf: holds." in words(held, length)


def test_words_follow_the_number_and_a_message_lies_in_another() -> None:
    more = says("narrow.more", count=1, limit=mm(1))
    assert words(says("neck", name="Heron", width=mm(0.8, 2), more=more)) == (
        "Heron has a neck of 0.80 mm: it tears when the piece is peeled. 1 more is under 1 mm."
    )
    assert words(says("neck", name="Heron", width=mm(0.8, 2), more=NOTHING)).endswith("peeled.")
    assert "2 more are under" in words(says("narrow.more", count=2, limit=mm(1)))


def test_what_the_catalogue_lacks_is_an_error_here() -> None:
    with pytest.raises(KeyError):
        words(says("no_such_code"))
    with pytest.raises(KeyError):
        words(says("mat", stock="A4"))
    deep = says("undrawn", name="A", what="x")
    for _ in range(9):
        deep = Message(code="undrawn", params={"name": "A", "what": deep})
    with pytest.raises(ValueError, match="too deep"):
        words(deep)


def test_names_are_said_as_they_are_whatever_is_in_them() -> None:
    """A layer of a stranger's file may be called anything, at any length."""
    odd = "{name} {count?one|many} \\1 $& " * 300
    held = says("held_line", name="Heron", line=odd)
    assert words(held) == (
        f"Heron contains a cut line of its own, “{odd}”. The line here follows the art instead."
    )
