"""The day of the shop: the one thing to do now, the plan by machine, and what would be late."""

from datetime import UTC, datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Path, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import AwareDatetime, BaseModel

from perisect.api.problems import Problem
from perisect.api.versions import IfMatch, expected
from perisect.api.views import OperationView, operation_view
from perisect.api.waiting import WaitS, ended
from perisect.core.ledger.hours import ShopHours
from perisect.core.sheet.shop_records import PlotterRecord, PrinterRecord
from perisect.services import shop
from perisect.services.day import HANDS, Work, key_of, next_act, works_now
from perisect.services.operations import ask_for_day
from perisect.store import day_plans, equipment, jobs
from perisect.store.database import transaction

router = APIRouter(prefix="/api/day", tags=["day"])

OLD = timedelta(minutes=20)


class ActView(BaseModel):
    """What to do next, at which station of which job."""

    title: str
    detail: str
    label: str
    job: int | None
    station: str


class LaneView(BaseModel):
    """A machine, or hands."""

    id: str
    name: str


class DayStep(BaseModel):
    """A step of a job in the plan; drying is one that no machine does."""

    job: int
    title: str
    step: str
    lane: str
    start_at: datetime
    end_at: datetime
    pinned: bool


class LateView(BaseModel):
    """A job that would be late by so many minutes, and the least change that saves it; `moves` are pins that do so,
    empty where no order of work does."""

    job: int
    title: str
    due_at: datetime
    minutes: int
    remedy: str
    moves: dict[str, datetime]


class OpenSpan(BaseModel):
    """From when to when."""

    start_at: datetime
    end_at: datetime


class DayView(BaseModel):
    """The plan that was made last; `fresh` when it is of the work as it stands now."""

    now: ActView
    fresh: bool
    made_at: datetime | None
    problem: str
    lanes: list[LaneView]
    steps: list[DayStep]
    dries: list[DayStep]
    openings: list[OpenSpan]
    late: list[LateView]
    to_do: int
    """Jobs with something to be done."""


class PinAt(BaseModel):
    """When a step begins, decided by somebody; nothing lets it go."""

    start_at: AwareDatetime | None


StepName = Annotated[str, Path(max_length=24, pattern=r"^(print|cut|finish)( [0-9]{1,3})?$")]


@router.get("")
def get_day() -> DayView:
    """What to do now, and the plan as it was made last."""
    now = datetime.now(UTC).astimezone().replace(second=0, microsecond=0)
    works, hours, pins = works_now(now)
    key = key_of(works, hours, pins, now)
    with transaction() as session:
        row = day_plans.latest(session)
        plan: dict[str, Any] = {} if row is None else row.plan
        begin, made_at = (now, None) if row is None else (row.begin_at, row.made_at)
        steps = [each for each in plan.get("steps", ()) if int(each["order"]) in {work.job for work in works}]
        act = next_act(session, works, [(each["step"], int(each["order"])) for each in steps])
        lanes = _lanes(
            equipment.all_of(session, "printer", PrinterRecord),
            equipment.all_of(session, "plotter", PlotterRecord),
        )
    titles = {str(work.job): work.title for work in works}
    pinned = {(pin.order, pin.step) for pin in pins}

    def at(minute: int) -> datetime:
        return begin + timedelta(minutes=minute)

    shown = [
        DayStep(
            job=int(each["order"]),
            title=titles[each["order"]],
            step=each["step"],
            lane=each["machine"],
            start_at=at(each["start"]),
            end_at=at(each["end"]),
            pinned=(each["order"], each["step"]) in pinned,
        )
        for each in steps
    ]
    fresh = row is not None and row.key == key and datetime.now(UTC) - row.made_at < OLD
    return DayView(
        now=ActView(**vars(act)),
        fresh=fresh or not works,
        made_at=made_at,
        problem=plan.get("problem", ""),
        lanes=lanes,
        steps=shown,
        dries=_dries(works, shown),
        openings=[OpenSpan(start_at=at(start), end_at=at(end)) for start, end in plan.get("openings", ())],
        late=_late(plan, works, begin),
        to_do=len(works),
    )


def _lanes(printers: list[PrinterRecord], plotters: list[PlotterRecord]) -> list[LaneView]:
    return [
        *(LaneView(id=f"printer {each.id}", name=each.title) for each in printers),
        *(LaneView(id=f"plotter {each.id}", name=each.title) for each in plotters),
        LaneView(id=HANDS, name="By hand"),
    ]


def _dries(works: list[Work], steps: list[DayStep]) -> list[DayStep]:
    """From the end of a job's printing until its ink is dry."""
    waits = {(work.job, step.name): step.wait for work in works for step in work.steps if step.wait}
    found = []
    for (job, name), minutes in waits.items():
        ends = [each.end_at for each in steps if each.job == job and each.step.startswith("print")]
        cut = next((each for each in steps if (each.job, each.step) == (job, name)), None)
        if ends and cut is not None:
            dry = max(ends) + timedelta(minutes=minutes)
            found.append(
                cut.model_copy(update={"step": "dry", "lane": "drying", "start_at": max(ends), "end_at": dry})
            )
    return found


def _late(plan: dict[str, Any], works: list[Work], begin: datetime) -> list[LateView]:
    by_job = {str(work.job): work for work in works}
    rescues = {each["order"]: each for each in plan.get("rescues", ())}
    found = []
    for order, minutes in sorted(plan.get("late", {}).items(), key=lambda each: -each[1]):
        work = by_job.get(order)
        if work is None or work.due_at is None:
            continue
        rescue = rescues.get(order)
        moves = {}
        if rescue is not None and rescue["first"]:
            moves = {step: begin + timedelta(minutes=start) for step, start in rescue["moves"].items()}
        found.append(
            LateView(
                job=work.job,
                title=work.title,
                due_at=work.due_at,
                minutes=minutes,
                remedy=_remedy(rescue, by_job),
                moves=moves,
            )
        )
    return found


def _remedy(rescue: dict[str, Any] | None, works: dict[str, Work]) -> str:
    if rescue is None:
        return "Other jobs are later still: look at those first."
    if not rescue["first"]:
        lacks = _long(rescue["minutes_short"])
        return f"Even done first it needs {lacks}: stay open longer, or tell the customer."
    others = [
        f"{works[each].title} {_long(minutes)} late"
        for each, minutes in rescue["others_late"].items()
        if each in works
    ]
    return (
        f"Do it first; then {' and '.join(others)}." if others else "Do it first; nothing else is late then."
    )


def _long(minutes: int) -> str:
    return f"{minutes} min" if minutes < 120 else f"{minutes / 60:.0f} h"


@router.post("/plan", status_code=202)
async def post_plan(wait_s: WaitS) -> OperationView:
    """Have the day planned anew, as the work stands now."""

    def ask() -> str:
        now = datetime.now(UTC).astimezone().replace(second=0, microsecond=0)
        works, hours, pins = works_now(now)
        return key_of(works, hours, pins, now)

    key = await run_in_threadpool(ask)
    return operation_view(await ended(await run_in_threadpool(ask_for_day, key), wait_s))


@router.put("/pins/{job_id}/{step}")
def put_pin(job_id: int, step: StepName, wanted: PinAt) -> list[str]:
    """Decide when a step begins; the rest is planned round it. What is pinned of the job, by step."""
    if wanted.start_at is not None and wanted.start_at < datetime.now(UTC):
        raise Problem(422, "That time has passed.", "Choose a later time.")
    with transaction() as session:
        jobs.get(session, job_id)
        day_plans.pin(session, job_id, step, wanted.start_at)
        return [each.step for each in day_plans.pins(session) if each.job_id == job_id]


@router.get("/hours")
def get_hours(response: Response) -> ShopHours:
    """When the shop is open; its entity tag is the version."""
    with transaction() as session:
        response.headers["ETag"] = f'"{shop.versions(session)[shop.HOURS]}"'
        return shop.get_hours(session)


@router.put("/hours")
def put_hours(hours: ShopHours, response: Response, if_match: IfMatch = None) -> ShopHours:
    """Say when the shop is open, and how many work by hand."""
    with transaction() as session:
        shop.set_hours(session, hours, expected(if_match))
    return get_hours(response)
