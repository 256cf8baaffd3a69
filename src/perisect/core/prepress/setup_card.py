"""The set-up card: how a printer is set for a stock, in the printer's own words, and where card and job disagree."""

from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from perisect.core.finding import Finding, Severity
from perisect.core.message import Message, quantity, says
from perisect.core.prepress.text_page import Words, broken, text_page
from perisect.core.sheet.equipment import StockRecipe
from perisect.core.sheet.stock import Stock

Said = Annotated[str, Field(max_length=60, pattern=r"^[^\x00-\x1f\x7f]*$")]
Tray = Literal["unsaid", "front", "rear", "roll"]
Surface = Literal["unsaid", "matt", "satin", "gloss"]
Side = Literal["unsaid", "up", "down"]
TRAYS = {
    "unsaid": "not said",
    "front": "front tray, round a bend",
    "rear": "rear, straight path",
    "roll": "roll",
}
SIDES = {"unsaid": "not tried", "up": "sticker face up", "down": "sticker face down"}
THICK_UM = 260.0
"""Face and liner together above this do not go round the bend of a front tray; a printer's manual has its own limit."""
OLD_AFTER_H = 24


class SetupCard(BaseModel):
    """How a printer is set for a stock. What nobody has said is `unsaid` or empty."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    media: Said = ""
    """The media type, as the printer's own dialog calls it."""
    surface: Surface = "unsaid"
    """What that media type is meant for."""
    quality: Said = ""
    tray: Tray = "unsaid"
    side: Side = "unsaid"
    """How the sticker face lies, found with a marked plain sheet."""
    profile: Said = ""
    borderless: bool = False
    fit_to_page: bool = False
    dry_min: Annotated[float, Field(ge=0, le=10_080, allow_inf_nan=False)] = 15.0
    """Until a print is dry enough to laminate or cut, minutes."""


class CardJob:
    """What a card is held against: the stock, whether a print reaches its edge, and whether bleed is printed at a white
    border."""

    def __init__(self, stock: StockRecipe, white_border_bleeds: bool = False) -> None:
        self.stock, self.white_border_bleeds = stock, white_border_bleeds


def _look(message: Message, stop: bool = False, **more: Any) -> Finding:
    severity: Severity = "stop" if stop else "look"
    return Finding(code=message.code, station="print", severity=severity, message=message, **more)


def _surface(card: SetupCard, job: CardJob) -> Iterator[Finding]:
    if card.surface not in ("unsaid", job.stock.gloss):
        yield _look(
            says(
                "card_surface",
                media=says("card_surface.media", media=card.media)
                if card.media
                else says("card_surface.unnamed"),
                surface=card.surface,
                stock=job.stock.name,
                gloss=job.stock.gloss,
            )
        )


def _thick(card: SetupCard, job: CardJob) -> Iterator[Finding]:
    thick = job.stock.face_um + job.stock.liner_um
    if card.tray == "front" and thick > THICK_UM:
        yield _look(
            says("card_tray", stock=job.stock.name, thick=quantity(thick, "um", 0)),
            measured=thick,
            limit=THICK_UM,
            unit="µm",
        )


def _roll(card: SetupCard, job: CardJob) -> Iterator[Finding]:
    if card.tray != "unsaid" and (card.tray == "roll") != (job.stock.kind == "roll"):
        yield _look(
            says(
                "card_path",
                tray=TRAYS[card.tray].split(",")[0],
                stock=job.stock.name,
                kind=job.stock.kind,
            )
        )


def _scaled(card: SetupCard, job: CardJob) -> Iterator[Finding]:
    for on, code in ((card.fit_to_page, "card_fit"), (card.borderless, "card_borderless")):
        if on:
            yield _look(says(code), stop=True)


def _bleed(card: SetupCard, job: CardJob) -> Iterator[Finding]:
    if job.white_border_bleeds:
        yield _look(says("card_bleed"))


def _side(card: SetupCard, job: CardJob) -> Iterator[Finding]:
    if card.side == "unsaid":
        yield _look(says("card_side"))


CHECKERS: tuple[Callable[[SetupCard, CardJob], Iterator[Finding]], ...] = (
    _scaled,
    _surface,
    _thick,
    _roll,
    _bleed,
    _side,
)


def card_findings(card: SetupCard, job: CardJob) -> list[Finding]:
    """Where card and job disagree, what stops a sheet first."""
    return [finding for check in CHECKERS for finding in check(card, job)]


def is_ticked(ticked_at: datetime | None, now: datetime) -> bool:
    """Whether somebody said within a day that the printer is set so."""
    return ticked_at is not None and (now - ticked_at.astimezone(UTC)).total_seconds() < OLD_AFTER_H * 3600


def card_lines(card: SetupCard, printer: str, stock: StockRecipe) -> list[tuple[str, str]]:
    """The card in words, a pair a line."""
    yes = {True: "on", False: "off"}
    return [
        ("Printer", printer),
        ("Stock", stock.name),
        ("Media type", card.media or "not said"),
        ("Quality", card.quality or "not said"),
        ("Feed", TRAYS[card.tray]),
        ("Side", SIDES[card.side]),
        ("Scale", "fit to page" if card.fit_to_page else "100 %, no fit to page"),
        ("Borderless", yes[card.borderless]),
        ("Colour profile", card.profile or "sRGB, by the printer"),
        ("Dry for", f"{card.dry_min:g} min before it is touched, laminated or cut"),
    ]


PAGE = Stock("card", "Card", 148.0, 105.0)
"""A postcard, to hang at the printer."""
CAUTION = "Solvent inks want air and gloves: follow the maker's manual and local rules."
SIDE_TEST = (
    "1. Draw a cross on one face of a plain sheet, at the edge that goes in first.",
    "2. Lay it in with the cross up, and print this page.",
    "3. Cross and words on one face: lay stickers in with the sticker face up. On two faces: face down.",
)


def card_pdf(card: SetupCard, printer: str, stock: StockRecipe) -> bytes:
    """The card to print and hang at the printer."""
    words = [Words("Set the printer so", 9, 15, 4.4, "head")]
    for number, (label, told) in enumerate(card_lines(card, printer, stock)):
        y = 26 + 7 * number
        words += [Words(label, 9, y, 2.2, colour="#586762"), Words(told, 45, y, 2.2, "text-bold")]
    return text_page(PAGE, [*words, Words(CAUTION, 9, PAGE.height_mm - 6, 1.7)])


def side_test_pdf(stock: StockRecipe) -> bytes:
    """A page that tells which side is printed, for a plain sheet that was marked by hand."""
    page = stock.panel(min(stock.height_mm, 297.0))
    words, y = [Words("This side is printed", 25, 40, 6, "head")], 56.0
    for step in SIDE_TEST:
        for line in broken(step, page.width_mm - 50, 3):
            words.append(Words(line, 25, y, 3))
            y += 6.5
    return text_page(page, words)
