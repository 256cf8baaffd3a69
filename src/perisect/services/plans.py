"""Plans by recipe: worked out once for all who ask at the same time, remembered up to a number of bytes.

Nothing here is called inside a transaction.
"""

import threading
from collections import OrderedDict
from concurrent.futures import Future
from contextlib import suppress
from functools import cached_property

import shapely

from perisect.core import ENGINE_VERSION
from perisect.core.artwork import ArtworkError, MendRecipe
from perisect.core.cutting.error_map import History
from perisect.core.finding import Finding
from perisect.core.job import JobPlan, JobRecipe, plan_job
from perisect.core.job.cut_errors import SheetErrors, sheet_errors
from perisect.core.job.files import CutFiles
from perisect.core.job.findings import findings_of
from perisect.core.job.made import made_key
from perisect.core.job.traced import TracedArtwork
from perisect.services import label_lists
from perisect.services.pictures import trace_all, traced
from perisect.store import artwork, nests
from perisect.store.jobs import hash_of

MOST_BYTES = 256_000_000
A_PLACEMENT, A_COORDINATE = 600, 48
"""About the bytes that each takes in memory, with what is worked out of it."""


class Planned:
    """A plan and what follows from it, each worked out when it is first asked for."""

    def __init__(self, plan: JobPlan, key: str) -> None:
        self.plan, self.key = plan, key
        self._errors: dict[bool, tuple[History, SheetErrors]] = {}

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What every station has to say."""
        return findings_of(self.plan)

    def errors(self, history: History, in_order: bool) -> SheetErrors:
        """The cut error to expect at every sticker, by what the plotter's log says, and by the order of the cut where
        that is asked for; the last answers are kept."""
        known, errors = self._errors.get(in_order, (None, None))
        if errors is None or known != history:
            errors = sheet_errors(self.plan, history, self.cut_files.turns if in_order else None)
            self._errors[in_order] = (history, errors)
        return errors

    @cached_property
    def frozen(self) -> JobRecipe:
        """The recipe as it is printed."""
        return self.plan.frozen()

    @cached_property
    def made_key(self) -> str:
        """Key of what is made: sheets printed under it are current."""
        return made_key(self.frozen)

    @cached_property
    def cut_files(self) -> CutFiles:
        """Cut sheets and files."""
        return CutFiles(self.plan)

    @property
    def is_good(self) -> bool:
        """True unless a picture could not be mended, or its nest was missing or cut short and a better one is known."""
        if any(isinstance(error, ArtworkError) for error in self.plan.undrawn.values()):
            # It may have been the time or the memory of that moment.
            return False
        layout = self.plan.layout
        if layout.question is None:
            return True
        if layout.waiting:
            return nests.find(layout.question) is None
        return not layout.is_cut_short or nests.find_complete(layout.question) is None

    @cached_property
    def bytes(self) -> int:
        """About what it takes in memory."""
        drawn = sum(
            int(shapely.get_num_coordinates(shape))
            for lines in self.plan.lines.values()
            for shape in (lines.outline, lines.own, lines.around)
        )
        return 50_000 + drawn * A_COORDINATE + self.plan.sheets.count * A_PLACEMENT


class PlanCache:
    """Plans by the hashes of their recipes, those asked for last; of one question one computation runs."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._most = most_bytes
        self._lock = threading.Lock()
        self._kept: OrderedDict[str, Planned] = OrderedDict()
        self._bytes = 0
        self._under_way: dict[str, Future[Planned]] = {}

    def get(self, recipe: JobRecipe) -> Planned:
        """The plan of a recipe.

        Raises:
            whatever working it out raises, to all who asked for it.
        """
        key = f"{ENGINE_VERSION} {hash_of(recipe)}"
        with self._lock:
            kept = self._kept.get(key)
            if kept is not None:
                self._kept.move_to_end(key)
        if kept is not None and kept.is_good:
            return kept
        with self._lock:
            waiting = self._under_way.get(key)
            mine = waiting is None
            if waiting is None:
                waiting = self._under_way[key] = Future()
        if mine:
            self._work_out(recipe, key, waiting)
        return waiting.result()

    def _work_out(self, recipe: JobRecipe, key: str, promised: "Future[Planned]") -> None:
        try:
            planned = Planned(_plan(recipe), key.split()[-1])
            size = planned.bytes
        except BaseException as error:
            with self._lock:
                del self._under_way[key]
            promised.set_exception(error)
            return
        with self._lock:
            del self._under_way[key]
            old = self._kept.pop(key, None)
            self._bytes += size - (old.bytes if old is not None else 0)
            self._kept[key] = planned
            while self._bytes > self._most and len(self._kept) > 1:
                _, gone = self._kept.popitem(last=False)
                self._bytes -= gone.bytes
        promised.set_result(planned)


def _plan(recipe: JobRecipe) -> JobPlan:
    artworks, unmended = _traced_all(recipe)
    lists = {design.labels.table for design in recipe.designs if design.labels is not None}
    return plan_job(
        recipe, artworks, artwork.lines, nests.find, {key: label_lists.get(key) for key in lists}, unmended
    )


def _traced_all(recipe: JobRecipe) -> tuple[dict[str, TracedArtwork], dict[str, ArtworkError]]:
    """Every design's picture as mended, and by design why one is only as it came."""
    unmended: dict[str, ArtworkError] = {}
    # Drawings of one page are found together; one that leaves nothing is named by itself below.
    with suppress(ArtworkError):
        trace_all(recipe.designs)
    artworks = {}
    for design in recipe.designs:
        try:
            artworks[design.picture] = traced(design)
        except ArtworkError as error:
            if design.mend.is_nothing:
                raise
            unmended[design.id] = error
            artworks[design.picture] = traced(design.model_copy(update={"mend": MendRecipe()}))
    return artworks, unmended


_cache = PlanCache()


def plan(recipe: JobRecipe) -> Planned:
    """Work a recipe out with the artwork and the nests that are there.

    Raises:
        UnknownArtwork: a design's picture is not here.
        UnknownTable: nor is a list.
        ArtworkError: a mend leaves nothing to cut.
        LineError: lines that cannot be.
    """
    planned = plan_to_show(recipe)
    for error in planned.plan.undrawn.values():
        raise error
    return planned


def plan_to_show(recipe: JobRecipe) -> Planned:
    """Work a recipe out as far as it goes: a design that cannot be drawn as it says is a finding.

    Raises:
        UnknownArtwork: a design's picture is not here.
        UnknownTable: nor is a list.
        ArtworkError: a picture cannot be read at all.
    """
    return _cache.get(recipe)
