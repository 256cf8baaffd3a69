"""Film over a printed sheet: when it may go on, and what of it is used."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from perisect.core.job import JobRecipe
from perisect.core.prepress.film import FilmMm, film_size, outside_film
from perisect.core.sheet.placing import boxes_on
from perisect.services.plans import plan
from perisect.store import setup_cards, stock_moves
from perisect.store.database import transaction
from perisect.store.locks import hold
from perisect.store.models import Print
from perisect.store.prints import UnknownPrint

FILM = "film:film"
MM_PER_M = 1000


class NotPrinted(Exception):
    """There is no printed sheet to laminate."""


@dataclass(frozen=True)
class Film:
    """What lies over a print: width and length of the film that leaves its marks bare, mm (None where none does); when
    the ink is dry by the printer's card; whether somebody said that it is laminated; and how many stickers reach out of
    the film."""

    film_mm: FilmMm | None
    dry_at: datetime | None
    laminated: bool
    outside: int


def film_of(print_id: int) -> Film:
    """How a print stands.

    Raises:
        UnknownPrint.
    """
    with transaction() as session:
        row = _there(session, print_id)
        recipe, number = JobRecipe.model_validate(row.recipe), row.sheet
        card, _ = setup_cards.get(session, recipe.sheet)
        dry_at = None if row.finished_at is None else row.finished_at + timedelta(minutes=card.dry_min)
        laminated = is_laminated(session, print_id)
    made = plan(recipe).plan
    boxes = boxes_on({each.key: each for each in made.footprints}, made.sheets.sheets[number])
    return Film(film_size(made.area), dry_at, laminated, outside_film(made.area, boxes))


def is_laminated(session: Session, print_id: int) -> bool:
    """Whether somebody said that film lies over a print."""
    return _used(session, print_id) > 0


def laminate(print_id: int, laminated: bool) -> Film:
    """Say that a print is laminated, or that it is not after all: its film leaves the shelf, or goes back. Said twice,
    or by many at once, it is one film.

    Raises:
        UnknownPrint.
        NotPrinted.
    """
    film = film_of(print_id)
    with transaction() as session:
        hold(session, f"film {print_id}")
        row, used = _there(session, print_id), _used(session, print_id)
        why = f"Print {print_id}, sheet {row.sheet + 1}"
        key = f"film print {print_id}"
        times = stock_moves.times(session, f"{key} ")
        if laminated and used <= 0:
            if row.state != "printed" or film.film_mm is None:
                raise NotPrinted
            length_m = film.film_mm[1] / MM_PER_M
            stock_moves.move(session, FILM, "shelf", "used", length_m, why, f"{key} on {times}", row.job_id)
        elif not laminated:
            back = f"{why}: not laminated after all"
            stock_moves.move(session, FILM, "used", "shelf", used, back, f"{key} off {times}", row.job_id)
    return replace(film, laminated=laminated)


def _there(session: Session, print_id: int) -> Print:
    row = session.get(Print, print_id)
    if row is None:
        raise UnknownPrint(print_id)
    return row


def _used(session: Session, print_id: int) -> float:
    """Metres of film over a print."""
    there = f"film print {print_id} "
    on, off = (stock_moves.moved_for(session, f"{there}{way}") for way in ("on", "off"))
    return round(on - off, 3)
