"""A nest that was kept is the nest that was found."""

from pathlib import Path

import pytest

from perisect.core.job import JobPlan
from perisect.core.sheet.nest import Nest, NestQuestion, nest
from tests.core.test_layout import PAIR, stand, with_sheet


def kept(question: NestQuestion) -> Nest | None:
    """Searched, put away, and read again as another process does."""
    from perisect.store import nests

    nests.save(question, nest(question))
    nests._read_complete.cache_clear()
    return nests.find(question)


def nested(turn: float, nested_by=kept) -> JobPlan:  # type: ignore[no-untyped-def]
    places = [stand(80, 120, turn, locked=True)]
    return with_sheet(PAIR, nested=nested_by, method="nest", nest_s=2, placements=places)


@pytest.mark.parametrize("turn", [0.0, 30.0, 90.0, 205.0])
def test_a_locked_piece_stands_where_it_was_put_when_its_nest_is_read_again(shop: Path, turn: float) -> None:
    plan = nested(turn)
    (locked,) = [each for sheet in plan.sheets.sheets for each in sheet if each.locked]
    assert (locked.x_mm + locked.width_mm / 2, locked.y_mm + locked.height_mm / 2) == (80, 120)
    assert locked.rotation_deg == turn
    assert plan.sheets.count == 6


def test_what_was_nested_is_read_again_to_the_micrometre(shop: Path) -> None:
    found: dict[str, Nest] = {}

    def searched(question: NestQuestion) -> Nest:
        found[question.key] = nest(question)
        return found[question.key]

    at_once = nested(30.0, searched)

    def again(question: NestQuestion) -> Nest | None:
        from perisect.store import nests

        nests.save(question, found[question.key])
        nests._read_complete.cache_clear()
        return nests.find(question)

    read = nested(30.0, again)
    for before, after in zip(at_once.sheets.sheets[0], read.sheets.sheets[0], strict=True):
        assert before.key == after.key
        assert (before.x_mm, before.y_mm) == pytest.approx((after.x_mm, after.y_mm), abs=1e-3)
        assert before.rotation_deg == pytest.approx(after.rotation_deg)


@pytest.mark.parametrize("seconds", [4, 30])
def test_a_search_has_its_time_in_a_reader_and_what_comes_before_and_after(
    shop: Path, seconds: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One of 30 s on a slow machine takes 37.5, and a sheet is made ready first and measured afterwards."""
    from perisect import sandbox
    from perisect.services import nests
    from perisect.services.plans import Planned

    asked = with_sheet(PAIR, method="nest", nest_s=seconds)
    times = []

    def call(work: object, data: bytes, seconds: float, cpu_seconds: float, kind: object) -> Nest:
        times.append(seconds)
        assert cpu_seconds == seconds
        return Nest(())

    monkeypatch.setattr(nests, "plan", lambda recipe: Planned(asked, ""))
    monkeypatch.setattr(sandbox, "call", call)
    nests.nested_plan(asked.recipe)
    assert times == [sandbox.SECONDS + seconds]
    assert times[0] > 1.25 * seconds + 30


def test_a_nest_cut_short_stands_until_a_full_search_is_done(
    shop: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A full search runs only when it is asked for, and its nest stands from then on."""
    from perisect import sandbox
    from perisect.services import nests, plans

    question = with_sheet(PAIR, method="nest", nest_s=2).layout.question
    assert question is not None
    whole = nest(question)
    half = Nest(whole.placements[:3], is_cut_short=True)
    given = [half, Nest(whole.placements[:1], is_cut_short=True), whole]
    monkeypatch.setattr(sandbox, "call", lambda *asked: given.pop(0))
    cache = plans.PlanCache()
    monkeypatch.setattr(
        plans, "_plan", lambda recipe: with_sheet(PAIR, plans.nests.find, method="nest", nest_s=2)
    )
    monkeypatch.setattr(nests, "plan", cache.get)
    recipe = with_sheet(PAIR, method="nest", nest_s=2).recipe

    def count(in_full: bool) -> tuple[int, bool]:
        layout = nests.nested_plan(recipe, in_full).plan.layout
        known = plans.nests.find(question)
        assert known is not None
        return len(known.placements), layout.is_cut_short

    assert count(False) == (3, True)
    # A print, or a file, takes what there is.
    assert count(False) == (3, True)
    assert len(given) == 2
    # A search in full that is stopped too changes nothing.
    assert count(True) == (3, True)
    assert count(True) == (len(whole.placements), False)
    assert not given
    assert count(True) == (len(whole.placements), False)
