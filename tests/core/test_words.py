"""Words and parts: letters that touch, lines that are centred by their ink, and one outline round everything."""

import json

import numpy as np
import pytest
import shapely

from perisect.core.artwork import ArtworkError, Decoded, MendRecipe, decode
from perisect.core.artwork.words.draw import composition_in, draw
from perisect.core.artwork.words.line import set_line
from perisect.core.artwork.words.place import PictureInk, place
from perisect.core.artwork.words.recipe import CompositionRecipe, GroundPart, PicturePart, WordsPart
from perisect.core.fonts import TITLES
from perisect.core.fonts.font import Font, font, runs, shipped
from perisect.core.job import trace_artwork
from tests.core import drawings

DISC = "d" * 64
ROUND = PictureInk(shapely.multipolygons([shapely.Point(0.5, 0.5).buffer(0.5, quad_segs=64)]), 1.0, 1.0)
LETTERS = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZäöüéçñ"


def ship(key: str) -> Font:
    return shipped(key)


def placed_of(*parts: object) -> tuple[CompositionRecipe, list[shapely.Geometry]]:
    recipe = CompositionRecipe.model_validate({"parts": [part.model_dump() for part in parts]})  # type: ignore[attr-defined]
    made = place(recipe, ship, {DISC: ROUND})
    return recipe, [each.ink for each in sorted((*made.parts, *made.grounds), key=lambda each: each.number)]


def pieces(shape: shapely.Geometry) -> int:
    return len(shapely.get_parts(shape))


@pytest.mark.long
@pytest.mark.parametrize("name", TITLES)
def test_a_word_is_closed_until_it_is_one_piece_and_two_per_cent_less_leaves_two(name: str) -> None:
    """Fifteen random words in every font that ships: a hundred and five."""
    rng = np.random.default_rng(sum(map(ord, name)))
    for _ in range(15):
        word = "".join(rng.choice(list(LETTERS), int(rng.integers(2, 9))))
        closed = set_line(word, font(name), 0.0, "even", touch=1e-4)
        assert pieces(closed.ink) == 1, word
        if closed.closed > 0.001:  # a script's letters touch as they are
            less = set_line(word, font(name), 0.0, "even", touch=1e-4, share=0.98)
            assert pieces(less.ink) >= 2, word
        assert pieces(set_line(word, font(name), 0.0, "pair").ink) == 1, word


def test_words_apart_stay_apart_and_a_pair_is_closed_by_its_own_gap() -> None:
    line = set_line("red kite", font("text-bold"), 0.0, "pair")
    assert pieces(line.ink) == 2
    even, pair = (set_line("AVA", font("text-bold"), 0.0, close, 1e-4).ink for close in ("even", "pair"))
    # The even measure is that of the pair furthest apart, so it is never wider.
    assert (
        shapely.bounds(even)[2] - shapely.bounds(even)[0]
        <= shapely.bounds(pair)[2] - shapely.bounds(pair)[0] + 1e-6
    )


@pytest.mark.parametrize(
    "text", ["Ферри", "Πορθμείο", "מעבורת", "عبارة", "नौका", "เรือ", "Լաստանավ", "ბორანი"]
)
def test_letters_that_a_font_lacks_come_from_one_that_has_them(text: str) -> None:
    assert font("head").shape(text).lacking
    found = runs(text, font("head"))
    assert "".join(run.shaped.lacking for run in found) == ""
    assert not set_line(text, font("head"), 0.0, "no").ink.is_empty


def test_a_text_stands_under_the_ink_of_a_picture_and_in_its_middle() -> None:
    picture = PicturePart(artwork=DISC, picture=DISC, longest_mm=40)
    words = WordsPart(text="Ferry", size_mm=6, gap_mm=2, place="under")
    _, (disc, text) = placed_of(picture, words)
    left, top, right, bottom = shapely.bounds(text)
    assert top == pytest.approx(22, abs=1e-6)  # 20 mm of the disc and a gap of 2
    assert left + right == pytest.approx(0, abs=1e-6)
    high = shapely.bounds(set_line("Ferry", font("head"), 0, "no").ink) @ [0, -1, 0, 1]
    assert bottom - top == pytest.approx(6 * high)
    _, (_, over) = placed_of(picture, words.model_copy(update={"place": "over"}))
    assert shapely.bounds(over)[3] == pytest.approx(-22, abs=1e-6)
    _, (_, on) = placed_of(picture, words.model_copy(update={"place": "on"}))
    assert shapely.bounds(on) + shapely.bounds(on)[[2, 3, 0, 1]] == pytest.approx([0, 0, 0, 0], abs=1e-6)
    assert disc.area == pytest.approx(np.pi * 400, rel=1e-3)


@pytest.mark.parametrize(("way", "sign"), [("round", -1), ("ring", 1)])
def test_a_name_round_a_disc_keeps_its_gap_and_is_centred_over_it(way: str, sign: int) -> None:
    picture = PicturePart(artwork=DISC, picture=DISC, longest_mm=40)
    words = WordsPart(text="HHHHHHHHH", font="text-bold", size_mm=5, gap_mm=2, place=way)
    _, (disc, text) = placed_of(picture, words)
    reach = np.hypot(*shapely.get_coordinates(text).T)
    # Capitals of 5 mm stand on a circle of 22 mm; their flat feet come a little nearer, their corners go a little out.
    assert reach.min() == pytest.approx(22, abs=0.15)
    assert reach.max() == pytest.approx(27, abs=0.25)
    assert text.centroid.x == pytest.approx(0, abs=0.05)
    assert np.sign(text.centroid.y) == sign
    assert shapely.distance(disc, text) == pytest.approx(2, abs=0.15)


def test_an_arc_has_its_radius_and_the_outline_of_a_picture_its_gap() -> None:
    words = WordsPart(text="HHHHHHHHHH", font="text-bold", size_mm=4, arc_mm=50, place="under")
    _, (text,) = placed_of(words)
    feet = shapely.get_coordinates(text)
    circle = shapely.minimum_bounding_circle(text)
    assert circle is not None
    # A circle through both ends and the middle of the feet: three points tell its radius.
    low = feet[feet[:, 1] >= feet[:, 1].max() - 0.4]
    first, last = low[low[:, 0].argmin()], low[low[:, 0].argmax()]
    middle = feet[np.abs(feet[:, 0]) < 1.5]
    half = (last[0] - first[0]) / 2
    rise = first[1] - middle[:, 1].max()
    assert (half**2 + rise**2) / (2 * rise) == pytest.approx(50, rel=0.04)
    picture = PicturePart(artwork=DISC, picture=DISC, longest_mm=40)
    along = WordsPart(text="HHHHHHHH", font="text-bold", size_mm=4, gap_mm=3, place="outline")
    _, (disc, text) = placed_of(picture, along)
    assert shapely.distance(disc, text) == pytest.approx(3, abs=0.15)


def test_a_ground_holds_everything_with_its_margin() -> None:
    picture = PicturePart(artwork=DISC, picture=DISC, longest_mm=40)
    _, (_, ground) = placed_of(picture, GroundPart(margin_mm=4))
    assert shapely.bounds(ground) == pytest.approx([-24, -24, 24, 24], abs=0.02)
    for pattern in ("fade", "dots", "stripes", "checks"):
        recipe, _ = placed_of(picture, GroundPart(margin_mm=4, pattern=pattern, second="#ff0000"))
        made = place(recipe, ship, {DISC: ROUND})
        disc_png = drawings.png(drawings.coverage(drawings.disc(200))[0])
        traced, rgba = trace_artwork(decode(draw(recipe, made, {DISC: disc_png}).encode()), longest_mm=48)
        assert rgba[..., 3].max() == 255
        side = max(traced.outline.box_px[2] - traced.outline.box_px[0], 1)
        assert shapely.area(traced.outline.shape) / side**2 == pytest.approx(np.pi / 4, rel=2e-3)


def test_one_outline_goes_round_what_is_cut_and_not_round_what_is_printed_only() -> None:
    word = WordsPart(text="OO", font="text-bold", size_mm=20, close="even", place="under")
    maker = WordsPart(text="Reedwater kiosk", font="text", size_mm=2, place="under", gap_mm=2, role="print")
    recipe, (ink, line) = placed_of(word, maker)
    svg = draw(recipe, place(recipe, ship, {}), {}).encode()
    decoded = decode(svg)
    traced, rgba = trace_artwork(decoded, longest_mm=float(np.ptp(shapely.bounds(ink)[[0, 2]])))
    scale = decoded.rgba.shape[1] / (shapely.bounds(shapely.union(ink, line)) @ [-1, 0, 1, 0] + 0.4)
    # The outline is that of the closed word alone, as exact as any: within 0.05 mm everywhere.
    found = shapely.transform(traced.outline.shape, lambda xy: xy / scale)
    shift = shapely.bounds(found)[:2] - shapely.bounds(ink)[:2]
    assert shapely.hausdorff_distance(shapely.transform(found, lambda xy: xy - shift), ink) < 0.05
    # And yet the maker's line is printed below it.
    below = rgba[int(traced.outline.box_px[3]) + 20 :, :, 3]
    assert (below > 200).sum() > 500
    assert composition_in(svg) == recipe
    assert composition_in(drawings.png(drawings.coverage(drawings.disc(60))[0])) is None


def several_roles() -> Decoded:
    """A disc that is cut round, a bar below it that is printed only, and a square at its right that is cut round and
    not printed; drawn in 2,000 x 1,200 px."""
    decoded = decode(
        b'<svg xmlns="http://www.w3.org/2000/svg" width="2000" height="1200">'
        b'<g><circle cx="500" cy="500" r="400" fill="#a33"/></g>'
        b'<g data-role="print"><rect x="200" y="1000" width="600" height="80" fill="#222"/></g>'
        b'<g data-role="cut"><rect x="899" y="400" width="201" height="200" fill="#000"/></g></svg>'
    )
    assert decoded.rgba.shape == (1200, 2000, 4)
    return decoded


@pytest.mark.parametrize(
    ("mend", "times"),
    [
        ({"strokes": [{"kind": "erase", "radius_px": 40, "points": [[500, 500]]}]}, 1),
        ({"crop": {"left_px": 60, "top_px": 40, "width_px": 1800, "height_px": 1120}}, 1),
        ({"crop": {"left_px": 60, "top_px": 40, "width_px": 1800, "height_px": 1120}, "enlarge": 2}, 2),
        ({"specks_px2": 50}, 1),
    ],
)
def test_what_is_printed_only_stays_so_when_the_picture_is_mended(mend: dict, times: int) -> None:
    """Disc and square are cut round, but for the hole that the brush leaves in the disc; the bar is printed."""
    traced, rgba = trace_artwork(several_roles(), MendRecipe.model_validate(mend))
    hole = np.pi * 40**2 if "strokes" in mend else 0
    disc_and_square = np.pi * 400**2 + 200 * 200
    assert shapely.area(traced.outline.shape) / times**2 == pytest.approx(disc_and_square - hole, rel=2e-3)
    (x, y), (across, along) = traced.origin_px, traced.scale
    _, _, right, low = traced.outline.box_px
    assert (right / across + x, low / along + y) == pytest.approx((1100, 900), abs=0.5)
    bar = rgba[round((1000 - y) * along) : round((1080 - y) * along), :, 3]
    assert (bar > 127).sum() / times**2 == pytest.approx(600 * 80, rel=0.01)


def test_a_ground_goes_round_what_is_printed_only_too_and_rubbing_out_the_rest_is_refused() -> None:
    ground = MendRecipe.model_validate({"backing": {"margin_mm": 3}})
    traced, _ = trace_artwork(several_roles(), ground, longest_mm=60)
    assert traced.box_came_px[3] > 1080
    rubbed = {"strokes": [{"kind": "erase", "radius_px": 440, "points": [[500, 500]]}]}
    with pytest.raises(ArtworkError, match="printed only"):
        trace_artwork(several_roles(), MendRecipe.model_validate(rubbed))


def test_a_name_goes_into_every_text_that_asks_for_one() -> None:
    recipe = CompositionRecipe.model_validate(
        {"parts": [{"kind": "words", "text": "{name}, mate"}, {"kind": "words", "text": "Crew"}]}
    )
    filled = recipe.filled("Ida <&> O'Hare")
    assert [part.text for part in filled.parts] == ["Ida <&> O'Hare, mate", "Crew"]  # type: ignore[union-attr]
    svg = draw(filled, place(filled, ship, {}), {}).encode()
    assert composition_in(svg) == filled
    assert json.loads(filled.model_dump_json())["parts"][0]["text"] == "Ida <&> O'Hare, mate"
