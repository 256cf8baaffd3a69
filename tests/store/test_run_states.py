"""The database lets a run change as the table of its states says, and in no other way."""

from contextlib import suppress
from pathlib import Path

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session

from perisect.core.artwork import ToneRecipe
from perisect.core.cutting.run_state import RunState, may_follow
from perisect.core.job import JobRecipe
from perisect.services.led_run import LedRun
from perisect.store import jobs, runs
from perisect.store.database import transaction
from perisect.store.models import Print, Run


def printed_sheet(session: Session, title: str) -> Print:
    """A printed sheet of a job of its own."""
    job = jobs.create(session, title, JobRecipe())
    recipe, tone = JobRecipe().model_dump(mode="json"), ToneRecipe().model_dump(mode="json")
    more = {"step": 1, "sheet": 0, "recipe": recipe, "tone": tone, "made_key": "", "printer": "p"}
    sheet = Print(job_id=job.id, state="printed", **more)
    session.add(sheet)
    session.flush()
    return sheet


def test_the_database_knows_the_same_changes_as_the_table(shop: Path) -> None:
    with transaction() as session:
        sheet = printed_sheet(session, "States")
        numbers = {}
        for state in RunState:
            run = Run(print_id=sheet.id, job_id=sheet.job_id, plotter=f"states {state}", state=state)
            session.add(run)
            session.flush()
            numbers[state] = run.id
    allowed = set()
    for before, number in numbers.items():
        for after in RunState:
            with transaction() as session, suppress(DatabaseError):
                change = text("UPDATE run SET state = :after, plotter = :plotter WHERE id = :id")
                session.execute(change, {"after": after, "plotter": f"try {before}", "id": number})
                allowed.add((before, after))
                session.rollback()
    assert allowed == {(one, two) for one in RunState for two in RunState if may_follow(one, two)}


def test_a_run_that_was_given_up_for_lost_goes_on(shop: Path) -> None:
    with transaction() as session:
        sheet = printed_sheet(session, "Lost")
        run = Run(
            print_id=sheet.id,
            job_id=sheet.job_id,
            plotter="lost",
            state=RunState.STOPPED,
            swept=True,
            claim="me",
        )
        session.add(run)
        session.flush()
        number = run.id
    with transaction() as session:
        now = runs.change(session, number, "me", state=RunState.CUTTING)
        assert now is not None
        assert (now.state, now.swept) == (RunState.CUTTING, False)
    with transaction() as session:
        runs.change(session, number, "me", state=RunState.DONE)


def test_a_beat_beside_the_end_of_a_run_takes_nothing_of_it(
    shop: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with transaction() as session:
        sheet = printed_sheet(session, "Beats")
        row = Run(
            print_id=sheet.id, job_id=sheet.job_id, plotter="beats", state=RunState.MEASURING, claim="me"
        )
        session.add(row)
        session.flush()
        session.refresh(row)
        led = LedRun(row, sheet, "me")
    change, beats = runs.change, []

    def with_a_beat(*args: object, **values: object) -> object:
        if not beats:
            beats.append(True)
            led.say({})
        return change(*args, **values)  # type: ignore[arg-type]

    monkeypatch.setattr(runs, "change", with_a_beat)
    with transaction() as session:
        led.write(session, {"state": RunState.DONE, "good": 7})
    with transaction() as session:
        now = session.get_one(Run, led.run_id)
        assert (now.state, now.good) == (RunState.DONE, 7)
