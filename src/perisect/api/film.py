"""Film over a printed sheet."""

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel

from perisect.api.problems import Problem
from perisect.services import laminating

router = APIRouter(prefix="/api/prints/{print_id}/film", tags=["print"])


class FilmView(BaseModel):
    """Width and length of film that leaves the marks bare, mm; when the ink is dry by the printer's card; whether the
    print is laminated; how many of its stickers reach out of the film."""

    film_mm: tuple[float, float] | None
    dry_at: datetime | None
    laminated: bool
    outside: int


class Laminated(BaseModel):
    """Whether film lies over the print."""

    laminated: bool


@router.get("")
def get_film(print_id: int) -> FilmView:
    """What lies over a print, and when it may."""
    return _view(laminating.film_of(print_id))


@router.put("")
def put_film(print_id: int, said: Laminated) -> FilmView:
    """Say that a print is laminated, or not after all. Its film is counted once."""
    try:
        return _view(laminating.laminate(print_id, said.laminated))
    except laminating.NotPrinted as error:
        raise Problem(
            409, "There is no printed sheet to laminate.", "Print it first; film must leave its marks bare."
        ) from error


def _view(film: laminating.Film) -> FilmView:
    return FilmView(film_mm=film.film_mm, dry_at=film.dry_at, laminated=film.laminated, outside=film.outside)
