"""What is counted on a sheet, and what it means for the order."""

from collections import Counter

import pytest

from perisect.core.job import JobRecipe
from perisect.core.job.more import NothingLacks, job_for_more
from perisect.core.job.recipe import DesignRecipe
from perisect.core.ledger.count import Count, CountImpossible, Found, Numbers, found_on, order_lines
from perisect.core.sheet.recipe import SheetRecipe

SHEET = ["heron", "heron", "jar", "heron", "jar"]


def test_all_good_is_a_count_without_a_bad_one() -> None:
    found = found_on(Count(), SHEET)
    assert (found.good, found.bad, found.causes) == (Counter(heron=3, jar=2), Counter(), Counter())


def test_bad_stickers_are_counted_by_piece_and_by_cause() -> None:
    found = found_on(Count(bad={1: "slipped", 4: "clings"}), SHEET)
    assert (found.good, found.bad) == (Counter(heron=2, jar=1), Counter(heron=1, jar=1))
    assert found.causes == Counter(slipped=1, clings=1)
    with pytest.raises(CountImpossible, match="none of number 6"):
        found_on(Count(bad={5: "lost"}), SHEET)


def test_numbers_without_a_picture() -> None:
    """Of three herons two good and one ragged; of two jars one good, of the other nobody says anything: lost."""
    numbers = {"heron": Numbers(good=2, bad=1, cause="ragged"), "jar": Numbers(good=1)}
    found = found_on(Count(numbers=numbers), SHEET)
    assert (found.good, found.bad) == (Counter(heron=2, jar=1), Counter(heron=1, jar=1))
    assert found.causes == Counter(ragged=1, lost=1)
    with pytest.raises(CountImpossible, match="more than the 2"):
        found_on(Count(numbers={"jar": Numbers(good=2, bad=1)}), SHEET)
    with pytest.raises(CountImpossible, match="more than the 0"):
        found_on(Count(numbers={"kite": Numbers(good=1)}), SHEET)


def test_an_order_lacks_what_was_bad_and_has_to_spare_what_was_too_much() -> None:
    counted = [Found(Counter(heron=3, jar=5), Counter(heron=2), Counter(slipped=2))]
    heron, jar, kite = order_lines(
        {"heron": 6, "jar": 4, "kite": 2}, counted, [["heron"]], [["kite"], ["kite"]]
    )
    # Of six herons three are good, one is cut and waits to be counted: two lack.
    assert (heron.good, heron.bad, heron.uncounted, heron.more, heron.spare) == (3, 2, 1, 2, 0)
    assert (jar.more, jar.spare) == (0, 1)
    assert (kite.to_cut, kite.more) == (2, 0)


def test_a_job_for_what_lacks_has_those_pieces_alone() -> None:
    designs = tuple(DesignRecipe(id=n, name=n, artwork="a" * 64, copies=9) for n in ("heron", "jar"))
    recipe = JobRecipe(designs=designs, sheet=SheetRecipe(until_mm=120.0))
    more = job_for_more(recipe, {"heron": 0, "jar": 2})
    assert [(d.id, d.copies) for d in more.designs] == [("jar", 2)]
    # On what is left of the opened sheet.
    assert (more.sheet.from_mm, more.sheet.until_mm, more.sheet.fill) == (120.0, None, False)
    with pytest.raises(NothingLacks):
        job_for_more(recipe, {"heron": 0})
