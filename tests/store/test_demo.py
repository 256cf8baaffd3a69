"""The demo shop: real at every station, loaded once, and its pictures are drawn from its drawings."""

import io
import json
import os
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import psycopg
import pytest
import resvg_py
from PIL import Image
from sqlalchemy import select
from typer.testing import CliRunner

from perisect.cli import app
from perisect.demo.load import ARTWORK, AWKWARD, PIECES


@pytest.fixture(scope="module")
def loaded(shop: Path) -> Iterator[None]:
    """The demo in a database of its own: what it knows of cards, heads and settings is no other test's business."""
    from perisect.demo.load import load
    from perisect.store.database import engine
    from perisect.store.migrate import migrate
    from perisect.store.settings import settings

    def turn_to(url: str) -> None:
        os.environ["PERISECT_DATABASE_URL"] = url
        settings.cache_clear()
        engine.cache_clear()

    common = os.environ["PERISECT_DATABASE_URL"]
    with psycopg.connect(settings().libpq_url, autocommit=True) as connection:
        connection.execute("CREATE DATABASE demo")
    turn_to(common.rsplit("/", 1)[0] + "/demo")
    migrate()
    load()
    load()  # a second time changes nothing
    yield
    engine().dispose()
    turn_to(common)


@pytest.mark.long
def test_a_job_half_way_through_an_empty_one_and_awkward_pictures(loaded: None) -> None:
    from perisect.store import jobs
    from perisect.store.database import transaction

    with transaction() as session:
        everything = {job.title: jobs.recipe(session, job) for job in jobs.newest(session, 20)}
    awkward = everything.pop("Pictures as they were given to us")
    assert [design.name for design in awkward.designs] == [name for name, *_ in AWKWARD]
    labels = everything.pop("Honey labels from a list")
    assert labels.designs[0].labels is not None
    assert everything.pop("River birds, a theme sheet").sheet.card is not None
    assert everything.pop("Deck lanterns, from the roll").sheet.on.kind == "roll"
    made = everything.pop("Ferry office and 1 other")
    assert sum(design.copies for design in made.designs) >= 40 + 24 + 28
    assert set(everything) == {"Spring stickers, set of five", "Luggage tags for the summer deck"}
    assert [len(recipe.designs) for recipe in everything.values()].count(0) == 1
    spring = everything["Spring stickers, set of five"]
    assert [design.name for design in spring.designs] == [name for name, *_ in PIECES]


@pytest.mark.long
def test_one_sheet_was_really_printed_cut_and_measured(loaded: None) -> None:
    from perisect.store import blobs
    from perisect.store.database import transaction
    from perisect.store.models import Print, Run

    with transaction() as session:
        (sheet,) = session.scalars(select(Print)).all()
        (run,) = session.scalars(select(Run)).all()
        assert (sheet.state, run.state, run.bad) == ("printed", "done", 0)
        assert run.lines_done == run.lines_total > 20
        assert 0 < (run.slip_largest_mm or 0) <= 0.2
        assert len(run.slips or []) == run.good
        names = (sheet.picture or "", run.picture or "")
    printed, cut = (np.asarray(Image.open(io.BytesIO(blobs.get(name) or b""))) for name in names)
    assert printed.shape == cut.shape == (3508, 2480, 3)
    changed = (printed != cut).any(axis=2)
    assert 0.005 < changed.mean() < 0.1  # thin lines, nothing else


@pytest.mark.long
def test_nothing_stands_in_the_way_of_the_demo_job(loaded: None) -> None:
    from perisect.services.plans import plan
    from perisect.store import jobs
    from perisect.store.database import transaction

    with transaction() as session:
        job = next(job for job in jobs.newest(session, 20) if "Spring" in job.title)
        planned = plan(jobs.recipe(session, job))
    assert planned.plan.sheets.count == sum(copies for *_, copies in PIECES)
    assert all(finding.severity == "good" for finding in planned.findings)


@pytest.mark.long
@pytest.mark.parametrize(("title", "count"), [("Honey labels", 40), ("River birds", 4)])
def test_theme_sheet_and_labels_can_be_printed(loaded: None, title: str, count: int) -> None:
    from perisect.services.plans import plan
    from perisect.store import jobs
    from perisect.store.database import transaction

    with transaction() as session:
        job = next(job for job in jobs.newest(session, 20) if job.title.startswith(title))
        planned = plan(jobs.recipe(session, job))
    pieces = len(planned.plan.recipe.designs) if planned.plan.cards else 1
    assert planned.plan.sheets.count == count * pieces
    assert not [f.text for f in planned.findings if f.severity == "stop"]


@pytest.mark.long
@pytest.mark.parametrize(
    ("name", "codes"),
    [
        ("Kingfisher", {"background_checkerboard"}),
        ("Dinghy", {"background_plain"}),
        ("Reedwater, in letters", {"page", "specks", "resolution", "loose_pieces"}),
        ("Filigree", {"thin", "resolution"}),
        ("Evening on the river", {"background_photograph"}),
        ("River birds, a page", {"page", "specks", "resolution"}),
        ("Heron, drawn in curves", {"resolution"}),
    ],
)
def test_each_awkward_picture_shows_its_case(loaded: None, name: str, codes: set[str]) -> None:
    from perisect.services.plans import plan
    from perisect.store import jobs
    from perisect.store.database import transaction

    with transaction() as session:
        job = next(job for job in jobs.newest(session, 20) if "given" in job.title)
        planned = plan(jobs.recipe(session, job))
    design = next(design.id for design in planned.plan.recipe.designs if design.name == name)
    found = [f for f in planned.findings if f.design == design]
    assert codes <= {f.code for f in found}
    assert {f.code for f in found if f.severity == "look"} <= codes | {
        "loose_pieces",
        "neck",
        "slot",
        "turns",
    }


@pytest.mark.parametrize("name", [file.removesuffix(".png") for _, file, *_ in PIECES])
def test_shipped_pictures_are_those_of_their_drawings(name: str) -> None:
    drawn = bytes(resvg_py.svg_to_bytes(svg_string=(ARTWORK / f"{name}.svg").read_text(encoding="utf-8")))
    shipped = np.asarray(Image.open(ARTWORK / f"{name}.png").convert("RGBA")).astype(int)
    again = np.asarray(Image.open(io.BytesIO(drawn)).convert("RGBA")).astype(int)
    assert shipped.shape == again.shape
    assert np.abs(shipped - again).max() <= 2


def test_the_command_line_explains_itself() -> None:
    run = CliRunner().invoke
    shown = run(app, ["--help"]).output
    for command in ("make", "rehearse", "up", "worker", "migrate", "demo"):
        assert command in shown
    assert "stand-in" not in shown
    document = json.loads(run(app, ["openapi"]).output)
    assert document["info"]["title"] == "Perisect"
    assert "/api/jobs/{job_id}/recipe" in document["paths"]
