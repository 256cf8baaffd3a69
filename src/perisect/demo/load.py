"""Load the demo shop: a job half way through, really printed and cut, an empty one, and awkward pictures."""

from pathlib import Path

from perisect.core.job import DesignRecipe, JobRecipe, SheetRecipe
from perisect.core.job.recipe import CardRecipe
from perisect.core.lines import LineRecipe
from perisect.core.sheet.labels import CodeBox, LabelRecipe, ShortForm, TextBox
from perisect.store import jobs, tables
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from perisect.store.settings import settings
from perisect.tasks.artwork import split, take_in
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

AWKWARD = (
    ("Kingfisher", "kingfisher-painted.png", 70.0),
    ("Dinghy", "dinghy-white-page.png", 60.0),
    ("Reedwater, in letters", "loose-word.png", 120.0),
    ("Filigree", "filigree.png", 60.0),
    ("Evening on the river", "evening-river.jpg", 90.0),
    ("River birds, a page", "river-birds-page.png", 190.0),
    ("Heron, drawn in curves", "heron.svg", 62.0),
)
"""Each as it was given to the kiosk: a painted checkerboard, a white page with white inside, loose letters,
thin lines, a picture all over, a page of many drawings, and one in curves."""


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
    # The lantern's ring leaves a slot half a millimetre wide in its border.
    whole = LineRecipe(bridge_mm=0.3)
    peeled = tuple(
        design.model_copy(update={"peel_mm": 3.0} | ({"lines": whole} if design.name == "Lantern" else {}))
        for design in designs
    )
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
    _awkward_pictures()
    _theme_sheet()
    _labels()
    _print_and_cut(job_id, print_id)


def _awkward_pictures() -> None:
    """A job of pictures that nobody has mended yet."""
    designs = tuple(
        DesignRecipe(
            id=f"d{number}",
            name=name,
            artwork=take_in((ARTWORK / file).read_bytes())[0],
            longest_mm=longest_mm,
        )
        for number, (name, file, longest_mm) in enumerate(AWKWARD, start=1)
    )
    recipe = JobRecipe(designs=designs, sheet=SheetRecipe(fill=False))
    with transaction() as session:
        job = jobs.create(session, "Pictures as they were given to us")
        jobs.write(session, job.id, job.revision, recipe, f"Add {len(designs)} pictures")


def _theme_sheet() -> None:
    """The river birds of one page on cards, two of them nested on a sheet."""
    sha256, _ = take_in((ARTWORK / "river-birds-page.png").read_bytes())
    page = DesignRecipe(id="d1", name="River bird", artwork=sha256, longest_mm=105, border_mm=1.2)
    birds = split(JobRecipe(designs=(page,)), "d1").designs
    card = CardRecipe(width_mm=94, height_mm=114, heading="River birds", colour="#cfe3dd")
    recipe = JobRecipe(designs=birds, sheet=SheetRecipe(card=card, gap_mm=1.0))
    with transaction() as session:
        job = jobs.create(session, "River birds, a theme sheet")
        jobs.write(session, job.id, job.revision, recipe, "A theme sheet of one page")


HONEYS = ("Reed honey", "Lime honey", "Heather honey", "Wildflower honey of the upper ferry meadow")


def _labels() -> None:
    """Forty jar labels from a list, one kind of honey too long for its label."""
    rows = [
        f"{HONEYS[n % 4]};{(125, 250, 500)[n % 3]} g;https://reedwater.example/jar/{n + 1}" for n in range(40)
    ]
    table, _ = tables.keep("\n".join(["honey;weight;page", *rows]).encode())
    sha256, _ = take_in((ARTWORK / "honey-label.png").read_bytes())
    texts = (
        TextBox(
            template="{honey}", x=0.22, y=0.08, width=0.7, height=0.13, font="head", size_mm=4.5, least_mm=2.0
        ),
        TextBox(
            template="{weight} · no. {#3}", x=0.22, y=0.25, width=0.36, height=0.08, font="text", size_mm=2.4
        ),
    )
    code = CodeBox(template="{page}", x=0.64, y=0.21, width=0.3, height=0.3, colour="#3a2508")
    shorts = (ShortForm(long="honey of the upper ferry meadow", short="honey"),)
    labels = LabelRecipe(table=table, texts=texts, codes=(code,), shorts=shorts)
    label = DesignRecipe(
        id="d1", name="Honey label", artwork=sha256, longest_mm=60, border_mm=1.0, labels=labels
    )
    with transaction() as session:
        job = jobs.create(session, "Honey labels from a list")
        recipe = JobRecipe(designs=(label,), sheet=SheetRecipe(fill=False))
        jobs.write(session, job.id, job.revision, recipe, "Forty labels")


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
