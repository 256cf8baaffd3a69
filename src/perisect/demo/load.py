"""Load the demo shop: a job half way through, really printed and cut, and an empty one."""

from pathlib import Path

from perisect.core.job import DesignRecipe, JobRecipe, SheetRecipe
from perisect.store import jobs
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.store.settings import settings
from perisect.tasks.artwork import take_in
from perisect.tasks.rehearse import stand_ins
from perisect.tasks.shop import do_cut, do_print

ARTWORK = Path(__file__).parent / "artwork"
SEED = 41

PIECES = (
    ("Heron", "heron.png", 62.0, 6),
    ("Lantern", "lantern.png", 52.0, 6),
    ("Rope knot", "rope-knot.png", 48.0, 6),
    ("Paddle boat", "paddle-boat.png", 64.0, 6),
    ("Honey jar", "honey-jar.png", 50.0, 6),
)


def load() -> None:
    """Load it, unless there is a job already."""
    with transaction() as session:
        if jobs.everything(session):
            return
    recipe, steps = JobRecipe(sheet=SheetRecipe(fill=False)), []
    designs: tuple[DesignRecipe, ...] = ()
    for number, (name, file, longest_mm, copies) in enumerate(PIECES, start=1):
        sha256, _ = take_in((ARTWORK / file).read_bytes())
        designs += (
            DesignRecipe(id=f"d{number}", name=name, artwork=sha256, longest_mm=longest_mm, copies=copies),
        )
    recipe = recipe.model_copy(update={"designs": designs})
    steps.append((recipe, "Add 5 pictures"))
    peeled = tuple(design.model_copy(update={"peel_mm": 3.0}) for design in designs)
    recipe = recipe.model_copy(update={"designs": peeled})
    steps.append((recipe, "Peel margin 3 mm"))
    with transaction() as session:
        jobs.create(session, "Luggage tags for the summer deck")
        job = jobs.create(session, "Spring stickers, set of five")
        for changed, label in steps:
            job = jobs.write(session, job.id, job.revision, changed, label)
        sheet = Print(
            job_id=job.id, step=job.cursor, sheet=0, recipe=recipe.model_dump(mode="json"), state="queued"
        )
        session.add(sheet)
        session.flush()
        print_id, job_id = sheet.id, job.id
    _print_and_cut(job_id, print_id)


def _print_and_cut(job_id: int, print_id: int) -> None:
    """Through the same stand-ins and the same code as any job, in simulated time."""
    with stand_ins(SEED) as (printer, plotter, tray):
        here = settings()
        here.printer, here.plotter, here.plotter_tray = (
            f"{a.host}:{a.port}" for a in (printer, plotter, tray)
        )
        do_print(print_id)
        with transaction() as session:
            run = Run(
                print_id=print_id, job_id=job_id, state="queued", lines_done=0, lines_total=0, cancel=False
            )
            session.add(run)
            session.flush()
            run_id = run.id
        do_cut(run_id)
