"""Steps, artwork and blobs, on a real database."""

from pathlib import Path

import numpy as np
import pytest
from sqlalchemy import select

from perisect.core.job import DesignRecipe, JobRecipe, SheetRecipe
from tests.core import drawings, pictures
from tests.core.test_artwork import saved


@pytest.fixture(autouse=True)
def _shop(shop: Path) -> None:
    """Everything here needs the database."""


def with_gap(gap: float) -> JobRecipe:
    return JobRecipe(sheet=SheetRecipe(gap_mm=gap))


def test_steps_are_numbered_and_know_where_they_came_from() -> None:
    from perisect.store import jobs
    from perisect.store.database import transaction
    from perisect.store.models import Step

    with transaction() as session:
        job = jobs.create(session, "Steps")
        for gap in (3, 4):
            job = jobs.write(session, job.id, job.revision, with_gap(gap), f"Gap {gap}")
        job = jobs.undo(session, job.id, job.revision)
        job = jobs.write(session, job.id, job.revision, with_gap(5), "Gap 5")
        steps = session.scalars(select(Step).where(Step.job_id == job.id).order_by(Step.number)).all()
        assert [(s.number, s.parent, s.label) for s in steps] == [
            (1, None, "New job"),
            (2, 1, "Gap 3"),
            (3, 2, "Gap 4"),
            (4, 2, "Gap 5"),
        ]
        assert jobs.recipe(session, job).sheet.gap_mm == 5
        assert job.cursor == 4


def test_a_failed_transaction_keeps_nothing() -> None:
    from perisect.store import jobs
    from perisect.store.database import transaction

    made = []

    def begin_and_fail() -> None:
        with transaction() as session:
            made.append(jobs.create(session, "Never").id)
            raise RuntimeError

    with pytest.raises(RuntimeError):
        begin_and_fail()
    with transaction() as session, pytest.raises(jobs.UnknownJob):
        jobs.get(session, made[0])


def test_two_writers_from_one_revision_leave_one_step() -> None:
    from perisect.store import jobs
    from perisect.store.database import transaction

    with transaction() as session:
        job = jobs.create(session, "Two")
        number, revision = job.id, job.revision
    with transaction() as session:
        jobs.write(session, number, revision, with_gap(7), "First")
    with transaction() as session, pytest.raises(jobs.StaleRevision) as stale:
        jobs.write(session, number, revision, with_gap(8), "Second")
    assert stale.value.recipe.sheet.gap_mm == 7
    assert stale.value.step == 2


def test_a_search_that_has_not_begun_can_be_told_that_its_first_find_will_do() -> None:
    from perisect.store import operations
    from perisect.store.database import transaction

    with transaction() as session:
        wanted = operations.ask(session, "nest", "nest for its first find", {}).id
        unwanted = operations.ask(session, "nest", "nest for nobody", {}).id
    with transaction() as session:
        operations.stop(session, wanted, "best")
        operations.stop(session, unwanted, "drop")
    with transaction() as session:
        begun = operations.claim(session, wanted, "worker")
        assert begun is not None
        assert begun.stop == "best"
        assert operations.claim(session, unwanted, "worker") is None
        operations.end(session, wanted, "worker", "done")


def test_blobs_are_whole_or_absent(shop: Path) -> None:
    from perisect.store import blobs

    assert blobs.get("nothing/here") is None
    assert blobs.put("a/b/c", b"one") == "a/b/c"
    blobs.put("a/b/c", b"two")
    assert blobs.get("a/b/c") == b"two"
    assert [path.name for path in (shop / "blobs/a/b").iterdir()] == ["c"]  # nothing half written is left


def design(sha256: str, **mend: object) -> DesignRecipe:
    return DesignRecipe.model_validate({"id": "d1", "name": "A", "artwork": sha256, "mend": mend})


def test_what_was_found_in_a_picture_is_found_again_in_the_blob() -> None:
    from perisect.services.pictures import take_in, traced
    from perisect.store import artwork as store

    rng = np.random.default_rng(8)
    flat = pictures.over(pictures.art(rng, 300), pictures.squares(rng, 300))
    from PIL import Image

    data = saved(Image.fromarray(flat))
    sha256, first = take_in(data)
    removed = traced(design(sha256, background="checkerboard"))
    store.traced.cache_clear()
    again = store.traced(sha256)
    assert again.judged == first.judged
    assert again.facts == first.facts
    assert again.outline.shape.equals(first.outline.shape)
    mended = store.traced(design(sha256, background="checkerboard").picture)
    assert mended.outline.shape.equals(removed.outline.shape)
    assert (mended.islands, mended.loose, mended.pieces) == (removed.islands, removed.loose, removed.pieces)
    assert mended.outline.shape.area < 0.7 * first.outline.shape.area
    assert store.original(sha256) == data  # the original is never touched


def test_the_print_file_s_picture_is_made_once_and_as_mended() -> None:
    from perisect.services.pictures import take_in
    from perisect.services.print_files import encoded
    from perisect.store import artwork as store

    alpha = drawings.coverage(drawings.disc(50))[0]
    sha256, _ = take_in(drawings.png(alpha))
    plain, framed = design(sha256), design(sha256, specks_px2=5.0)
    assert store.encoded(plain.picture) is None
    once = encoded(plain)
    assert store.encoded(plain.picture) == once
    assert once.width_px == pytest.approx(101, abs=1)
    assert encoded(framed).width_px == once.width_px
    assert framed.picture != plain.picture


def test_unknown_artwork_is_said() -> None:
    from perisect.services.pictures import traced
    from perisect.store import artwork as store

    for ask in (store.original, store.preview, store.traced):
        with pytest.raises(store.UnknownArtwork):
            ask("f" * 64)
    with pytest.raises(store.UnknownArtwork):
        traced(design("f" * 64, specks_px2=1.0))
