"""Steps of a job against a model of them: written, undone, redone, opened, and written too late."""

from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from perisect.core.job import JobRecipe, SheetRecipe


def with_gap(gap: int) -> JobRecipe:
    return JobRecipe(sheet=SheetRecipe(gap_mm=gap))


class Steps(RuleBasedStateMachine):
    """The model: gap, parent and whether aside by number, and the number that holds."""

    @initialize()
    def begin(self) -> None:
        from perisect.store import jobs
        from perisect.store.database import transaction

        self.jobs, self.transaction = jobs, transaction
        with transaction() as session:
            job = jobs.create(session, "Machine", with_gap(2))
            self.id, self.revision = job.id, job.revision
        self.steps: dict[int, tuple[int, int | None, bool]] = {1: (2, None, False)}
        self.at = 1

    def child(self) -> int | None:
        return max(
            (n for n, (_, parent, aside) in self.steps.items() if parent == self.at and not aside),
            default=None,
        )

    @rule(gap=st.integers(0, 9))
    def write(self, gap: int) -> None:
        with self.transaction() as session:
            job = self.jobs.write(session, self.id, self.revision, with_gap(gap), "Gap")
            if gap != self.steps[self.at][0]:
                number = max(self.steps) + 1
                self.steps[number] = (gap, self.at, False)
                self.at = number
                assert job.revision > self.revision
            self.revision = job.revision

    @rule()
    def undo(self) -> None:
        parent = self.steps[self.at][1]
        self.walk(self.jobs.undo, parent)

    @rule()
    def redo(self) -> None:
        self.walk(self.jobs.redo, self.child())

    def walk(self, how, to: int | None) -> None:
        with self.transaction() as session:
            if to is None:
                with pytest.raises(self.jobs.NothingToWalk):
                    how(session, self.id, self.revision)
                return
            self.revision = how(session, self.id, self.revision).revision
            self.at = to

    @rule(behind=st.integers(1, 3), gap=st.integers(0, 9))
    def write_too_late(self, behind: int, gap: int) -> None:
        with self.transaction() as session, pytest.raises(self.jobs.StaleRevision):
            self.jobs.write(session, self.id, self.revision - behind, with_gap(gap), "Late")
        with self.transaction() as session:
            number = self.jobs.set_aside(session, self.id, with_gap(gap), "Late")
        kept = [n for n, (other, _, aside) in self.steps.items() if aside and other == gap]
        assert kept in ([], [number])
        self.steps.setdefault(number, (gap, self.at, True))

    @rule(data=st.data())
    def open(self, data: st.DataObject) -> None:
        number = data.draw(st.sampled_from(sorted(self.steps)))
        with self.transaction() as session:
            self.revision = self.jobs.open_step(session, self.id, self.revision, number).revision
        self.at = number

    @invariant()
    def agrees(self) -> None:
        if not hasattr(self, "steps"):
            return
        with self.transaction() as session:
            job = self.jobs.get(session, self.id)
            assert (job.cursor, job.revision) == (self.at, self.revision)
            assert self.jobs.recipe(session, job).sheet.gap_mm == self.steps[self.at][0]
            kept = {step.number: (step.parent, step.aside) for step in self.jobs.steps(session, self.id)}
            assert kept == {n: (parent, aside) for n, (_, parent, aside) in self.steps.items()}
            assert self.jobs.newest_child(session, job) == self.child()


def test_steps_agree_with_their_model(shop: Path) -> None:
    from hypothesis.stateful import run_state_machine_as_test

    run_state_machine_as_test(
        Steps,
        settings=settings(
            max_examples=20,
            stateful_step_count=25,
            deadline=None,
            derandomize=True,
            suppress_health_check=list(HealthCheck),
        ),
    )
