"""Prints and runs that two workers claim, lead, lose and report, against a model of them."""

import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule
from sqlalchemy import select, text
from sqlalchemy.exc import DatabaseError

from perisect.core.cutting.run_request import Cancel
from perisect.core.cutting.run_state import RunState, may_follow
from perisect.core.job import JobRecipe

WORKERS = st.sampled_from(["one", "two"])
STAGES = st.sampled_from(["loading", "sensing", "cutting", "unloading", "measuring"])
ENDS = st.sampled_from(["done", "stopped", "cancelled"])
NEWEST = st.integers(1, 2)
"""Which one: the newest, or the one before it, which may have been lost and still report."""
QUIET = "update {table} set heartbeat_at = now() - interval '1 hour' where id = :id"


class Devices(RuleBasedStateMachine):
    """One printer and one plotter. The model: what each print and run is, who leads it, and whether it was heard."""

    @initialize()
    def begin(self) -> None:
        from perisect.store import jobs, models, prints, run_requests, runs
        from perisect.store.database import transaction

        self.models, self.prints, self.runs, self.transaction = models, prints, runs, transaction
        self.requests = run_requests
        with transaction() as session:
            session.execute(text("update print set state = 'failed' where state in ('queued', 'printing')"))
            session.execute(text("update run set state = 'stopped' where state not in ('done', 'cancelled')"))
            self.job = jobs.create(session, "Machine", JobRecipe()).id
        self.sheets: dict[int, dict[str, Any]] = {}
        self.cuts: dict[int, dict[str, Any]] = {}
        for _ in range(2):
            self.ask()
        self.begin_run(1)

    def sheet(self, back: int) -> int:
        return sorted(self.sheets)[-back]

    def run_at(self, back: int) -> int:
        return sorted(self.cuts)[-back if back <= len(self.cuts) else 0]

    # --- prints

    @rule()
    def ask(self) -> None:
        with self.transaction() as session:
            new = self.models.Print(
                job_id=self.job,
                step=1,
                sheet=0,
                recipe={},
                made_key="",
                printer="p",
                state="queued",
                tone={},
            )
            session.add(new)
            session.flush()
            number = new.id
        self.sheets[number] = {"state": "queued", "by": None}

    @rule(sheet=NEWEST, worker=WORKERS)
    def claim_print(self, sheet: int, worker: str) -> None:
        sheet = self.sheet(sheet)
        model = self.sheets[sheet]
        taken = any(each["state"] == "printing" for each in self.sheets.values())
        if model["state"] == "queued" and taken:
            with pytest.raises(self.prints.DeviceTaken), self.transaction() as session:
                self.prints.claim(session, sheet, worker)
            return
        with self.transaction() as session:
            claimed = self.prints.claim(session, sheet, worker)
        assert (claimed is not None) == (model["state"] == "queued")
        if claimed is not None:
            model.update(state="printing", by=worker)

    @rule(sheet=NEWEST)
    def take_out(self, sheet: int) -> None:
        sheet = self.sheet(sheet)
        with self.transaction() as session:
            done = self.prints.cancel(session, sheet)
        assert done == (self.sheets[sheet]["state"] == "queued")
        if done:
            self.sheets[sheet]["state"] = "cancelled"

    @rule(sheet=NEWEST, worker=WORKERS, state=st.sampled_from(["printed", "failed", "unknown"]))
    def end_print(self, sheet: int, worker: str, state: str) -> None:
        sheet = self.sheet(sheet)
        model = self.sheets[sheet]
        mine = model["by"] == worker and model["state"] in ("printing", "unknown")
        with self.transaction() as session:
            assert self.prints.end(session, sheet, worker, state) == mine
        if mine:
            model["state"] = state

    @rule(sheet=NEWEST, late=st.booleans())
    def a_print_goes_quiet(self, sheet: int, late: bool) -> None:
        sheet = self.sheet(sheet)
        model = self.sheets[sheet]
        with self.transaction() as session:
            session.execute(text(QUIET.format(table="print")), {"id": sheet})
            if late and model["by"]:  # It was only slow: it is heard before the sweep.
                self.prints.beat(session, sheet, model["by"])
            gone = self.prints.sweep(session)
        assert gone == (model["state"] == "printing" and not late)
        if gone:
            model["state"] = "unknown"

    @rule(sheet=NEWEST)
    def give_a_print_up(self, sheet: int) -> None:
        sheet = self.sheet(sheet)
        model = self.sheets[sheet]
        with self.transaction() as session:
            assert self.prints.give_up(session, sheet) == (model["state"] == "printing")
        if model["state"] == "printing":
            model["state"] = "unknown"

    @rule(sheet=NEWEST, came=st.booleans())
    def say_whether_it_came_out(self, sheet: int, came: bool) -> None:
        sheet = self.sheet(sheet)
        model = self.sheets[sheet]
        say = self.prints.say_printed if came else self.prints.say_not_printed
        with self.transaction() as session:
            assert say(session, sheet) == (model["state"] == "unknown")
        if model["state"] == "unknown":
            model["state"] = "printed" if came else "failed"

    # --- runs

    def open_run(self) -> int | None:
        over = ("done", "stopped", "cancelled")
        return next((n for n, each in self.cuts.items() if each["state"] not in over), None)

    @rule(sheet=NEWEST)
    def begin_run(self, sheet: int) -> None:
        sheet = self.sheet(sheet)
        taken = self.open_run()
        if taken is not None:
            with pytest.raises(self.prints.DeviceTaken), self.transaction() as session:
                self.runs.begin(session, session.get_one(self.models.Print, sheet), "k", "a4")
            return
        with self.transaction() as session:
            number = self.runs.begin(session, session.get_one(self.models.Print, sheet), "k", "a4").id
        self.cuts[number] = {"state": "queued", "by": None, "swept": False, "lines": 0, "cancels": 0}

    @rule(run=NEWEST, worker=WORKERS)
    def claim_run(self, run: int, worker: str) -> None:
        run = self.run_at(run)
        model = self.cuts[run]
        with self.transaction() as session:
            claimed = self.runs.claim(session, run, worker)
        assert (claimed is not None) == (model["state"] == "queued" and model["by"] is None)
        if claimed is not None:
            model.update(state="loading", by=worker)

    @rule(run=NEWEST, worker=WORKERS, stage=STAGES, lines=st.integers(0, 50))
    def report(self, run: int, worker: str, stage: str, lines: int) -> None:
        run = self.run_at(run)
        model, other = self.cuts[run], self.open_run()
        heard = model["by"] == worker and (other == run or model["swept"])
        if heard and not model["swept"] and not may_follow(RunState(model["state"]), RunState(stage)):
            with pytest.raises(DatabaseError, match="cannot go from"), self.transaction() as session:
                self.runs.change(session, run, worker, state=RunState(stage), lines_done=lines)
            return
        with self.transaction() as session:
            now = self.runs.change(session, run, worker, state=RunState(stage), lines_done=lines)
            asked, _ = self.requests.take(session, run, 0)
        assert (now is not None) == heard
        if not heard:
            return
        assert asked == [Cancel()] * model["cancels"]
        model["lines"] = lines
        if other in (run, None):  # Nobody was given the plotter meanwhile: the cut goes on.
            model.update(state=stage, swept=False)

    @rule(run=NEWEST, worker=WORKERS, state=ENDS, lines=st.integers(0, 50))
    def end_run(self, run: int, worker: str, state: str, lines: int) -> None:
        run = self.run_at(run)
        model = self.cuts[run]
        heard = model["by"] == worker and (self.open_run() == run or model["swept"])
        with self.transaction() as session:
            end = {"state": RunState(state), "lines_done": lines, "finished_at": datetime.now(UTC)}
            now = self.runs.change(session, run, worker, **end)
        assert (now is not None) == heard
        if heard:
            model.update(state=state, swept=False, lines=lines)

    @rule(run=NEWEST)
    def cancel_run(self, run: int) -> None:
        run = self.run_at(run)
        model = self.cuts[run]
        with self.transaction() as session:
            self.runs.ask(session, run, Cancel())
        if model["state"] == "queued":
            model["state"] = "cancelled"
        elif self.open_run() == run:
            model["cancels"] += 1

    @rule(run=NEWEST)
    def a_run_goes_quiet(self, run: int) -> None:
        run = self.run_at(run)
        model = self.cuts[run]
        with self.transaction() as session:
            session.execute(text(QUIET.format(table="run")), {"id": run})
            gone = bool(self.runs.sweep(session))
        assert gone == (self.open_run() == run and model["by"] is not None)
        if gone:
            model.update(state="stopped", swept=True)

    @rule(run=NEWEST, taken=st.booleans(), stage=STAGES, state=ENDS, lines=st.integers(0, 50))
    def is_lost_and_heard_again(self, run: int, taken: bool, stage: str, state: str, lines: int) -> None:
        """A worker that was only held up reports twice and ends; the plotter may be another run's by then."""
        number = self.run_at(run)
        self.claim_run(run, "one")
        self.a_run_goes_quiet(run)
        if taken:
            self.begin_run(1)
        back = len(self.cuts) - sorted(self.cuts).index(number)
        for _ in range(2):
            self.report(back, self.cuts[number]["by"], stage, lines)
            self.agrees()
        self.end_run(back, self.cuts[number]["by"], state, lines)

    @invariant()
    def agrees(self) -> None:
        if not hasattr(self, "cuts"):
            return
        one, other = self.models.Print, self.models.Run
        with self.transaction() as session:
            sheets = session.scalars(select(one).where(one.id.in_(self.sheets))).all()
            cuts = session.scalars(select(other).where(other.id.in_(self.cuts))).all()
        assert {row.id: {"state": row.state, "by": row.claim} for row in sheets} == self.sheets
        for row in sheets:
            assert (row.finished_at is None) == (row.state in ("queued", "printing"))
        for row in cuts:
            told = {"state": row.state, "by": row.claim, "swept": row.swept, "lines": row.lines_done}
            assert told | {"cancels": self.cuts[row.id]["cancels"]} == self.cuts[row.id]
            over = row.state in ("done", "stopped", "cancelled")
            assert (row.finished_at is not None) == over
            assert over or row.message is None


@pytest.mark.long
def test_states_of_devices_agree_with_their_model(shop: Path) -> None:
    from hypothesis.stateful import run_state_machine_as_test

    from perisect.store.database import transaction
    from perisect.store.prints import QUIET_AFTER

    with transaction() as session:
        up = session.scalar(text("select extract(epoch from now() - pg_postmaster_start_time())::float"))
    # The sweep does not count the time before the database was there.
    time.sleep(max(0.0, QUIET_AFTER.total_seconds() + 1 - up))
    run_state_machine_as_test(
        Devices,
        settings=settings(
            max_examples=30,
            stateful_step_count=30,
            deadline=None,
            derandomize=True,
            suppress_health_check=list(HealthCheck),
        ),
    )
