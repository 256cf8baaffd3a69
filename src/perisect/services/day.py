"""The day of the shop: what is to be done of each job, the plan of it, and what to do next."""

import hashlib
import json
import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from perisect.core.cutting.run_state import RunState
from perisect.core.job import JobRecipe
from perisect.core.ledger.cost import CostRates
from perisect.core.ledger.hours import ShopHours
from perisect.core.ledger.schedule import NoPlan, Order, Pin, Plan, Planned, Shop, Step
from perisect.services import shop
from perisect.services.costing import get_rates, sheet_seconds
from perisect.services.plans import plan as plan_of
from perisect.store import day_plans, jobs, prints, runs, setup_cards
from perisect.store.database import transaction
from perisect.store.models import Job, Print, Run
from perisect.store.prints import STANDS

HANDS = "hands"
PLAN_S = 1.6
RESCUES = 3


@dataclass(frozen=True)
class Standing:
    """What a job's prints and cuts leave to be done, in sheets and stickers, and when its ink is dry."""

    to_print: int
    to_cut: int
    to_count: int
    dry_at: datetime | None
    """Of the sheet that was printed last and is not cut."""


@dataclass(frozen=True)
class Work:
    """A job with its steps, for the planner and for people."""

    job: int
    title: str
    due_at: datetime | None
    steps: tuple[Step, ...]
    standing: Standing
    stock: str
    printer: str
    plotter: str


@dataclass(frozen=True)
class _Known:
    """What was read of a job before it is planned outside of the transaction."""

    job: Job
    recipe: JobRecipe
    printed: list[Print]
    cut: list[Run]
    dry_min: int


def works_now(now: datetime) -> tuple[list[Work], ShopHours, list[Pin]]:
    """Everything that is to be done, the shop's hours, and what is pinned from now on."""
    with transaction() as session:
        hours, rates = shop.get_hours(session), get_rates(session)
        known = [_read(session, job) for job in day_plans.jobs_to_do(session)]
        pinned = [(each.job_id, each.step, each.start_at) for each in day_plans.pins(session)]
    works = [work for each in known if (work := _work(each, hours, rates, now)) is not None]
    there = {(str(work.job), step.name) for work in works for step in work.steps}
    pins = [
        Pin(str(job), step, start=_minute(start, now))
        for job, step, start in pinned
        if start >= now and (str(job), step) in there
    ]
    return works, hours, pins


def _read(session: Session, job: Job) -> _Known:
    recipe = jobs.recipe(session, job)
    card, _ = setup_cards.get(session, recipe.sheet)
    return _Known(
        job, recipe, prints.of_job(session, job.id), runs.of_job(session, job.id), round(card.dry_min)
    )


def _work(known: _Known, hours: ShopHours, rates: CostRates, now: datetime) -> Work | None:
    try:
        planned = plan_of(known.recipe)
    except Exception:
        return None  # What is the matter with it, its own page says.
    sheets = planned.plan.sheets.sheets
    standing = standing_of(known, len(sheets), planned.made_key)
    cut_s = sheet_seconds(planned.plan, Counter(place.key for place in sheets[0])) if sheets else 0.0
    stickers = round(planned.plan.sheets.count * standing.to_count / max(len(sheets), 1))
    sheet = known.recipe.sheet
    steps: list[Step] = []

    def add(name: str, machine: str, minutes: float, setup: str, wait: int = 0, not_before: int = 0) -> None:
        # What is longer than a day is done in parts.
        left, part = max(1, round(minutes)), max(hours.longest - hours.setup_min - 5, 20)
        for number in range(1, -(-left // part) + 1):
            size = min(part, left)
            called = name if number == 1 else f"{name} {number}"
            steps.append(Step(called, (machine,), size, setup, wait if number == 1 else 0, not_before))
            left -= size

    if standing.to_print:
        add("print", f"printer {sheet.printed_by.id}", standing.to_print * rates.print_min, sheet.on.id)
    if standing.to_cut:
        dry = 0 if standing.dry_at is None else max(0, _minute(standing.dry_at, now))
        each = cut_s / 60 + hours.load_min
        wait = known.dry_min if standing.to_print else 0
        add("cut", f"plotter {sheet.cut_by.id}", standing.to_cut * each, sheet.on.id, wait, dry)
    if standing.to_count:
        add("finish", HANDS, stickers * rates.sticker_s / 60 + rates.order_min, "")
    if not steps:
        return None
    return Work(
        known.job.id,
        known.job.title,
        known.job.due_at,
        tuple(steps),
        standing,
        sheet.on.name,
        sheet.printed_by.name,
        sheet.cut_by.name,
    )


def standing_of(known: _Known, sheets: int, key: str) -> Standing:
    """What the prints and cuts of a job leave to be done.

    Args:
        sheets: that it plans.
        key: of its recipe as it is printed now.
    """
    last: dict[int, Run] = {}
    for run in known.cut:
        last.setdefault(run.print_id, run)
    mine = [row for row in known.printed if row.made_key == key and row.state in STANDS]
    on_paper = [row for row in mine if row.state == "printed"]
    done = {number for number, run in last.items() if run.state == RunState.DONE}
    counted = {number for number, run in last.items() if run.count is not None}
    waiting = [row for row in on_paper if row.id not in done | counted]
    to_print = max(0, sheets - len({row.sheet for row in on_paper}))
    to_cut = to_print + len(waiting)
    to_count = to_cut + len([row for row in on_paper if row.id in done - counted])
    dry = [row.finished_at + timedelta(minutes=known.dry_min) for row in waiting if row.finished_at]
    return Standing(to_print, to_cut, to_count, max(dry, default=None))


def _minute(when: datetime, begin: datetime) -> int:
    return round((when - begin).total_seconds() / 60)


def key_of(works: Sequence[Work], hours: ShopHours, pins: Sequence[Pin], now: datetime) -> str:
    """Name of what there is to plan; it changes with the work, the hours and the pins, and not with the clock."""
    told = [
        [
            work.job,
            work.due_at and work.due_at.isoformat(),
            [(s.name, s.machines, s.minutes, s.setup) for s in work.steps],
        ]
        for work in works
    ]
    pinned = [(pin.order, pin.step, (now + timedelta(minutes=pin.start or 0)).isoformat()) for pin in pins]
    text = json.dumps([told, hours.model_dump(mode="json"), pinned], default=str)
    return hashlib.sha256(text.encode()).hexdigest()


def make_day() -> dict[str, Any]:
    """Plan what there is to do now, and keep the plan; seconds of two cores."""
    # CP-SAT takes a second to load, and only the worker that plans needs it.
    from perisect.core.ledger.planner import make_plan, rescue

    now = datetime.now(UTC).astimezone().replace(second=0, microsecond=0)
    works, hours, pins = works_now(now)
    key = key_of(works, hours, pins, now)
    orders = [
        Order(str(work.job), work.steps, None if work.due_at is None else _minute(work.due_at, now))
        for work in works
    ]
    openings = Shop(
        hours.openings(now), hours.setup_min, many={HANDS: hours.hands} if hours.hands > 1 else {}
    )
    problem, found, saved = "", Plan((), {}, 0, 0), []
    try:
        found = make_plan(orders, openings, pins, PLAN_S, _before(), clock=time.monotonic)
        worst = sorted(found.late, key=lambda each: -found.late[each])[:RESCUES]
        saved = [rescue(each, orders, openings, pins, found, 0.8, clock=time.monotonic) for each in worst]
    except NoPlan as error:
        problem = str(error)
    told = {
        "steps": [asdict(step) for step in found.steps],
        "late": dict(found.late),
        "rescues": [asdict(each) for each in saved],
        "openings": openings.openings,
        "problem": problem,
        "lateness": found.lateness,
        "least": found.least,
    }
    with transaction() as session:
        day_plans.save(session, key, now, told)
    return {"key": key}


def _before() -> Plan | None:
    """The plan of before, from which the search begins."""
    with transaction() as session:
        row = day_plans.latest(session)
    if row is None:
        return None
    return Plan(tuple(Planned(**step) for step in row.plan["steps"]), {}, 0, 0)


LYING = {
    RunState.HELD: ("Lift a corner of print", "It is still in the plotter. Unload it when it peels cleanly."),
    RunState.PAUSED: ("Resume cutting print", "It is paused between two lines."),
    RunState.PLACING: ("Set the marks of print", "The plotter waits for you to set the blade over a mark."),
}
"""What somebody is waited for at a plotter."""


@dataclass(frozen=True)
class Act:
    """What to do next: in words, and at which station of which job."""

    title: str
    detail: str
    label: str
    job: int | None
    station: str


def next_act(session: Session, works: Sequence[Work], begun: Sequence[tuple[str, int]]) -> Act:
    """The one thing to do now: first what lies in a machine, then what the plan begins with.

    Args:
        begun: steps of the plan in their order: name and job.
    """
    for run in runs.under_way(session):
        if run.state in LYING:
            begins, detail = LYING[run.state]
            return Act(f"{begins} {run.print_id}", detail, "Open the cut", run.job_id, "cut")
    by_job = {work.job: work for work in works}
    now = datetime.now(UTC)
    for name, job in begun:
        work = by_job.get(job)
        if work is None or name not in {step.name for step in work.steps}:
            continue
        act = _act(name.split()[0], work, now)
        if act is not None:
            return act
    for work in works:
        act = _act(work.steps[0].name, work, now)
        if act is not None:
            return act
    return Act(
        "Nothing is due",
        "Enter an order, or give a job a due date.",
        "Open the orders",
        None,
        "orders",
    )


def _act(step: str, work: Work, now: datetime) -> Act | None:
    standing = work.standing
    match step:
        case "print":
            many = f"{standing.to_print} sheet{'' if standing.to_print == 1 else 's'}"
            detail = f"{many} of {work.stock}, for {work.title}."
            return Act(
                f"Print {many} at the {work.printer.lower()}", detail, "Open the print", work.job, "print"
            )
        case "cut":
            if standing.dry_at is not None and standing.dry_at > now:
                return None
            if standing.to_cut == standing.to_print:
                return None  # Nothing of it is printed yet.
            dry = "" if standing.dry_at is None else f" It dried at {standing.dry_at.astimezone():%H:%M}."
            title = f"Load a printed sheet of {work.title} at the {work.plotter.lower()}"
            return Act(
                title, f"{standing.to_cut - standing.to_print} to cut.{dry}", "Open the cut", work.job, "cut"
            )
        case _:
            ready = standing.to_count - standing.to_cut
            if ready <= 0:
                return None
            title = f"Weed and count {ready} cut sheet{'' if ready == 1 else 's'} of {work.title}"
            return Act(title, "Good stickers go to their orders.", "Open the log", work.job, "log")
