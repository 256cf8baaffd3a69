"""Load the demo shop: a job half way through, really printed and cut, an empty one, and awkward pictures."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from perisect.core.cutting.book import BookEntry, BookKey
from perisect.core.cutting.setting import CutSetting
from perisect.core.job import DesignRecipe, JobRecipe, SheetRecipe
from perisect.core.job.new_piece import usual_lines
from perisect.core.lines import LineRecipe
from perisect.core.prepress.setup_card import SetupCard
from perisect.core.sheet.labels import CodeBox, LabelRecipe, ShortForm, TextBox
from perisect.core.sheet.recipe import CardRecipe
from perisect.core.sheet.shop_records import Kind, PlotterRecord, PrinterRecord, StockRecord
from perisect.demo.books import keep_books
from perisect.services import label_lists
from perisect.services.cut_requests import ask_for_cut
from perisect.services.cutting import do_cut
from perisect.services.head_check import say_gaps
from perisect.services.pictures import split, take_in, trace_all
from perisect.services.printing import Copies, ask_for_prints, do_print
from perisect.services.shop import set_currency, set_name
from perisect.stand_ins.shop import StandIns, stand_ins
from perisect.store import book, equipment, jobs, setup_cards
from perisect.store.database import transaction

ARTWORK = Path(__file__).parent / "artwork"
SEED = 41

SHOP = "Reedwater Ferry kiosk"

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
        if jobs.any_there(session):
            return
        set_name(session, SHOP)
        set_currency(session, "€")
    _known_of_the_machines()
    recipe, steps = JobRecipe(sheet=SheetRecipe(fill=False)), []
    designs: tuple[DesignRecipe, ...] = ()
    for number, (name, file, longest_mm, copies) in enumerate(PIECES, start=1):
        sha256, _ = take_in((ARTWORK / file).read_bytes())
        designs += (
            DesignRecipe(id=f"d{number}", name=name, artwork=sha256, longest_mm=longest_mm, copies=copies),
        )
    recipe = recipe.model_copy(update={"designs": designs})
    steps.append((recipe, "Add 5 pictures"))
    peel_mm, usual = usual_lines("edge", recipe.sheet.tooling)
    # The lantern's ring leaves a slot half a millimetre wide in its border.
    whole = usual.model_copy(update={"bridge_mm": 0.3})
    peeled = tuple(
        design.model_copy(update={"peel_mm": peel_mm, "lines": whole if design.name == "Lantern" else usual})
        for design in designs
    )
    recipe = recipe.model_copy(update={"designs": peeled})
    steps.append((recipe, "Peel margin 3 mm"))
    with transaction() as session:
        jobs.create(session, "Luggage tags for the summer deck")
        job = jobs.create(session, "Spring stickers, set of five")
        for changed, label in steps:
            job = jobs.write(session, job.id, job.revision, changed, label)
        job_id = job.id
    _awkward_pictures()
    _theme_sheet()
    _labels()
    _roll()
    _print_and_cut(job_id)
    keep_books(job_id)


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
    trace_all(birds[:3])  # Those that the list of jobs shows; the others when the job is opened.
    card = CardRecipe(width_mm=94, height_mm=114, heading="River birds", colour="#cfe3dd", spread=True)
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
    table, _ = label_lists.take_in("\n".join(["honey;weight;page", *rows]).encode())
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


def _roll() -> None:
    """Deck stickers on a roll of vinyl: printed, sensed pair by pair and cut on the roll's own machines."""
    sha256, _ = take_in((ARTWORK / "lantern.png").read_bytes())
    lantern = DesignRecipe(
        id="d1",
        name="Deck lantern",
        artwork=sha256,
        longest_mm=82,
        copies=24,
        lines=LineRecipe(bridge_mm=0.3),
    )
    with transaction() as session:
        stock = equipment.one_of(session, "stock", StockRecord, "roll-vinyl").recipe
        printer = equipment.one_of(session, "printer", PrinterRecord, "roll-printer").recipe
        plotter = equipment.one_of(session, "plotter", PlotterRecord, "roll-plotter").recipe
        sheet = SheetRecipe(paper=stock, printer=printer, plotter=plotter, fill=False)
        job = jobs.create(session, "Deck lanterns, from the roll")
        jobs.write(
            session, job.id, job.revision, JobRecipe(designs=(lantern,), sheet=sheet), "Twenty-four on a roll"
        )


def _known_of_the_machines() -> None:
    """What the kiosk has found out: how its printer is set for paper, that its head is well, and two test cuts."""
    sheet = SheetRecipe()
    card = SetupCard(
        media="Matt paper", surface="matt", quality="High", tray="rear", side="up", profile="", dry_min=15
    )
    with transaction() as session:
        setup_cards.save(session, sheet, card)
        setup_cards.tick(session, sheet)
        for process, force, speed, passes, sure in (("kiss", 6, 20, 1, 0.97), ("through", 14, 12, 2, 0.96)):
            book.save(
                session,
                BookEntry(
                    key=BookKey(stock=sheet.on.id, process=process, plotter=sheet.cut_by.id),
                    setting=CutSetting(speed_cm_s=speed, force=force, passes=passes),
                    source="test",
                    sure=sure,
                    note="test cut of 7 steps",
                ),
            )
    say_gaps(sheet.printed_by.id, sheet.on, [], None)


def _print_and_cut(job_id: int) -> None:
    """Through the same stand-ins and the same code as any job, in simulated time."""
    with stand_ins(SEED) as machines, _standing_in(machines):
        (sheet,), _ = ask_for_prints(job_id, Copies(), "link")
        do_print(sheet.id)
        run, _ = ask_for_cut(sheet.id)
        do_cut(run.id)


@contextmanager
def _standing_in(machines: StandIns) -> Iterator[None]:
    """These machines in the place of the shop's simulated ones, for a while."""
    here: dict[tuple[Kind, str], str] = {("printer", key): where for key, where in machines.printers.items()}
    here |= {("plotter", key): where for key, where in machines.plotters.items()}
    before = _addressed(here)
    yield
    _addressed(before)


def _addressed(wanted: dict[tuple[Kind, str], str]) -> dict[tuple[Kind, str], str]:
    """Set addresses of simulated machines; returns those they had."""
    with transaction() as session:
        before = {key: equipment.simulated_address(session, *key) for key in wanted}
        for (kind, machine), address in wanted.items():
            equipment.set_simulated_address(session, kind, machine, address)
    return before
