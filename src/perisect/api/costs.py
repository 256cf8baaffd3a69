"""What things cost, and what to ask for them."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from perisect.api.problems import Problem
from perisect.api.versions import IfMatch, expected
from perisect.core.ledger.cost import CostRates, OrderCost
from perisect.core.sheet.shop_records import StockRecord
from perisect.services import costing
from perisect.services.costing import WhatIf
from perisect.services.orders import reject_share
from perisect.services.plans import plan
from perisect.store import equipment, jobs
from perisect.store.database import transaction

router = APIRouter(prefix="/api", tags=["costs"])


class PartView(BaseModel):
    """A part of a cost, and how it comes about."""

    name: str
    amount: float
    told: str


class CostOf(BaseModel):
    """What so many good stickers cost, by part; money is the shop's own."""

    quantity: int
    sheets: float
    parts: list[PartView]
    total: float
    each: float
    price: float
    """What to ask for all of them."""


class WhatIfView(BaseModel):
    """What the quantity asked for costs at a size on a stock; null where none fits."""

    longest_mm: float
    stock: str
    cost: CostOf | None


class JobCostView(BaseModel):
    """The job as it is planned, and one of its pieces alone on full sheets: by quantity, by size, by stock."""

    reject_share: float
    job: CostOf | None
    quantities: list[CostOf]
    sizes: list[WhatIfView]
    stocks: list[WhatIfView]


@router.get("/shop/rates")
def get_rates(response: Response) -> CostRates:
    """Return the rates of hours and wear; the entity tag is their version."""
    with transaction() as session:
        response.headers["ETag"] = f'"{costing.rates_version(session)}"'
        return costing.get_rates(session)


@router.put("/shop/rates")
def put_rates(rates: CostRates, response: Response, if_match: IfMatch = None) -> CostRates:
    """Say what hours and wear cost."""
    with transaction() as session:
        costing.set_rates(session, rates, expected(if_match))
    return get_rates(response)


class WorkTimeView(BaseModel):
    """What a rate is by the log, in the rate's own unit, and by how many times."""

    rate: Literal["print_min", "sheet_min", "sticker_s"]
    value: float
    times: int


@router.get("/shop/rates/log")
def get_work_times() -> list[WorkTimeView]:
    """What the log says of the rates that are times."""
    with transaction() as session:
        return [
            WorkTimeView.model_validate(each, from_attributes=True) for each in costing.work_times(session)
        ]


@router.get("/jobs/{job_id}/cost")
def get_job_cost(
    job_id: int,
    design: Annotated[str, Query(max_length=40)],
    quantity: Annotated[int, Query(ge=1, le=20_000)] = 100,
) -> JobCostView:
    """What a job costs, and what so many of one of its pieces would."""
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
        rates, share = costing.get_rates(session), reject_share(session)
        stocks = [each.recipe for each in equipment.all_of(session, "stock", StockRecord)]
    if design not in {each.id for each in recipe.designs}:
        raise Problem(404, "This job has no such piece.", "Choose one of its pieces.")
    whole = costing.job_cost(plan(recipe), share, rates)
    asked = costing.what_if(recipe, design, quantity, share, rates, stocks)
    return JobCostView(
        reject_share=share,
        job=None if whole is None else _cost(whole),
        quantities=[_cost(each) for each in asked.quantities],
        sizes=[_what_if(each) for each in asked.sizes],
        stocks=[_what_if(each) for each in asked.stocks],
    )


def _what_if(each: WhatIf) -> WhatIfView:
    cost = None if each.cost is None else _cost(each.cost)
    return WhatIfView(longest_mm=each.longest_mm, stock=each.stock, cost=cost)


def _cost(cost: OrderCost) -> CostOf:
    parts = [PartView(name=part.name, amount=part.amount, told=part.told) for part in cost.parts]
    return CostOf(
        quantity=cost.quantity,
        sheets=cost.sheets,
        parts=parts,
        total=cost.total,
        each=cost.each,
        price=cost.price,
    )
