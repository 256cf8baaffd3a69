"""Stocks, printers and plotters of the shop, and what it has set once."""

from collections.abc import Callable
from dataclasses import asdict
from typing import Annotated, Literal

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from perisect.api.problems import Problem
from perisect.api.versions import IfMatch, expected
from perisect.core.job.new_piece import ComesOff
from perisect.core.prepress.plates import AREAS, HAIRLINE_MM, AreaPlate, Plate, PlateError
from perisect.core.process import TABLE
from perisect.core.sheet.first_equipment import FIRST_PLOTTERS, FIRST_PRINTERS, FIRST_STOCKS
from perisect.core.sheet.shop_records import Kind, PlotterRecord, PrinterRecord, StockRecord
from perisect.services import costing, shop, stockroom
from perisect.services.devices import check_device, try_device
from perisect.services.first_equipment import NOT_HERE, AlreadyBegun, UnknownChoice, begin_shop, is_new
from perisect.store import equipment
from perisect.store.database import transaction
from perisect.store.equipment import MOST, LastOne, TooMany

router = APIRouter(prefix="/api/shop", tags=["shop"])

Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Chosen = Annotated[list[Annotated[str, Field(max_length=40)]], Field(min_length=1, max_length=20)]
EquipmentId = Annotated[str, Path(max_length=40)]


class PlateRecord(BaseModel):
    """The plate that a kind of line or area has in files for a RIP that cuts, what stands in for it (cyan, magenta,
    yellow, black, 0 to 1), and the width of its lines, or by how much its area spreads. Without a name there is
    none."""

    name: Annotated[str, Field(max_length=60)] = ""
    cmyk: tuple[Share, Share, Share, Share] = (0.0, 1.0, 0.0, 0.0)
    width_mm: Annotated[float, Field(ge=0.01, le=5, allow_inf_nan=False)] = HAIRLINE_MM
    spread_mm: Annotated[float, Field(ge=-5, le=5, allow_inf_nan=False)] = 0.0


class ShopView(BaseModel):
    """The shop's name, its habit and money, and everything it prints on, prints with and cuts with."""

    name: str
    habit: ComesOff | None
    """How pieces of new jobs come off; null until somebody has said."""
    currency: str
    plates: dict[str, PlateRecord]
    """By process or kind of area (white, varnish), for those that have one."""
    stocks: list[StockRecord]
    printers: list[PrinterRecord]
    plotters: list[PlotterRecord]
    is_new: bool
    """True until somebody says what the shop has; the lists hold simulated examples until then."""
    versions: dict[str, str]
    """Versions by record: `name`, `comes_off`, `currency`, `hours`, `plate.PROCESS`, `KIND:ID`."""


class ShopName(BaseModel):
    """What the shop is called."""

    name: Annotated[
        str, Field(min_length=1, max_length=80, pattern=r"^[^\x00-\x1f\x7f]*\S[^\x00-\x1f\x7f]*$")
    ]


class Habit(BaseModel):
    """How pieces of new jobs come off."""

    comes_off: ComesOff


class Currency(BaseModel):
    """What stands before a sum of money: a sign or a short name."""

    currency: Annotated[str, Field(max_length=6, pattern=r"^[^\x00-\x20\x7f0-9]*$")]


@router.get("")
def get_shop() -> ShopView:
    """The shop's stocks, printers and plotters; examples until it has its own."""
    with transaction() as session:
        return ShopView(
            name=shop.get_name(session),
            habit=shop.get_habit(session),
            currency=shop.get_currency(session),
            plates={
                what: PlateRecord(**asdict(plate))
                for what, plate in (shop.get_plates(session) | shop.get_area_plates(session)).items()
            },
            stocks=stockroom.with_levels(session, equipment.all_of(session, "stock", StockRecord)),
            printers=equipment.all_of(session, "printer", PrinterRecord),
            plotters=equipment.all_of(session, "plotter", PlotterRecord),
            is_new=is_new(session),
            versions=shop.versions(session)
            | equipment.versions(session)
            | {"rates": costing.rates_version(session)},
        )


@router.put("/name")
def put_name(wanted: ShopName, if_match: IfMatch = None) -> ShopView:
    """Give the shop its name."""
    with transaction() as session:
        shop.set_name(session, wanted.name.strip(), expected(if_match))
    return get_shop()


@router.put("/habit")
def put_habit(wanted: Habit, if_match: IfMatch = None) -> ShopView:
    """Say how pieces of new jobs come off."""
    with transaction() as session:
        shop.set_habit(session, wanted.comes_off, expected(if_match))
    return get_shop()


@router.put("/currency")
def put_currency(wanted: Currency, if_match: IfMatch = None) -> ShopView:
    """Name the shop's money."""
    with transaction() as session:
        shop.set_currency(session, wanted.currency, expected(if_match))
    return get_shop()


@router.put("/plates/{process}")
def put_plate(
    process: Annotated[str, Path(max_length=40)], wanted: PlateRecord, if_match: IfMatch = None
) -> ShopView:
    """Name the plate that a kind of line or area has, or take it away."""
    if process not in TABLE and process not in AREAS:
        known = ", ".join([*TABLE, *AREAS])
        raise Problem(404, "There is no such kind of line or area.", f"There are {known}.")
    try:
        with transaction() as session:
            shop.set_plate(session, process, _plate(process, wanted), expected(if_match))
    except PlateError as error:
        raise Problem(422, "This plate is not possible.", str(error)) from error
    return get_shop()


def _plate(what: str, wanted: PlateRecord) -> Plate | AreaPlate | None:
    name = wanted.name.strip()
    if not name:
        return None
    if what in AREAS:
        return AreaPlate(name, wanted.cmyk, wanted.spread_mm)
    return Plate(name, wanted.cmyk, wanted.width_mm)


@router.put("/stock")
def put_stock(stock: StockRecord, if_match: IfMatch = None) -> ShopView:
    """Save a stock; one of the same id is replaced. What is left of it is what was counted."""
    return _save("stock", stock, if_match, lambda session: stockroom.count_stock(session, stock))


@router.put("/printer")
def put_printer(printer: PrinterRecord, if_match: IfMatch = None) -> ShopView:
    """Save a printer; one of the same id is replaced."""
    if printer.address:
        check_device("printer", printer.address)
    return _save("printer", printer, if_match)


@router.put("/plotter")
def put_plotter(plotter: PlotterRecord, if_match: IfMatch = None) -> ShopView:
    """Save a plotter; one of the same id is replaced."""
    if plotter.address:
        check_device("plotter", plotter.address, plotter.language)
    return _save("plotter", plotter, if_match)


class FirstChoices(BaseModel):
    """Choices for a new shop; a simulated machine stands in for one that is not here yet."""

    printers: list[PrinterRecord]
    plotters: list[PlotterRecord]
    stocks: list[StockRecord]
    not_here: str


class FirstEquipment(BaseModel):
    """Ids of the chosen equipment, at least one of each kind."""

    printers: Chosen
    plotters: Chosen
    stocks: Chosen


@router.get("/first")
def get_first_choices() -> FirstChoices:
    """List the equipment that a new shop may choose from."""
    return FirstChoices(
        printers=list(FIRST_PRINTERS),
        plotters=list(FIRST_PLOTTERS),
        stocks=list(FIRST_STOCKS),
        not_here=NOT_HERE,
    )


@router.post("/first", status_code=201)
def post_first(has: FirstEquipment) -> ShopView:
    """Begin an empty shop with what the person has."""
    try:
        begin_shop(has.printers, has.plotters, has.stocks)
    except AlreadyBegun as error:
        raise Problem(
            409, "This shop is already set up.", "Add stocks and machines under Stocks and machines."
        ) from error
    except UnknownChoice as error:
        raise Problem(
            422, f"{str(error.args[0])[:40]} is none of the choices.", "Choose one of them."
        ) from error
    return get_shop()


class TriedAddress(BaseModel):
    """An address that a device is to have."""

    kind: Literal["printer", "plotter"]
    address: Annotated[str, Field(min_length=1, max_length=200)]
    language: Annotated[str, Field(max_length=20)] = "hpgl"


class TriedView(BaseModel):
    """Result of trying an address: `answers`, and the problem where nothing answers."""

    answers: bool
    problem: str | None


@router.post("/try-address")
def post_try_address(tried: TriedAddress) -> TriedView:
    """Try whether a device answers at an address; nothing is printed or cut, and nothing is saved."""
    problem = try_device(tried.kind, tried.address, tried.language)
    return TriedView(answers=problem is None, problem=problem)


@router.delete("/{kind}/{equipment_id}")
def delete_equipment(kind: Kind, equipment_id: EquipmentId) -> ShopView:
    """Take one away. Jobs that use it keep its numbers."""
    try:
        with transaction() as session:
            if not equipment.delete(session, kind, equipment_id):
                raise Problem(404, f"There is no such {kind}.", "Somebody has removed it already.")
    except LastOne as error:
        raise Problem(409, f"This is the last {kind}.", "Add another before you remove this one.") from error
    return get_shop()


def _save(
    kind: Kind, record: BaseModel, if_match: str | None, also: Callable[[Session], object] = lambda _: None
) -> ShopView:
    try:
        with transaction() as session:
            equipment.save(session, kind, record, expected(if_match))
            also(session)
    except TooMany as error:
        raise Problem(422, f"There are {MOST} already.", "Remove one that is not used.") from error
    return get_shop()
