"""Search a nest in a process of its own, under a ticket."""

from functools import partial

from perisect.core.job import JobPlan, JobRecipe
from perisect.core.sheet.nest import Nested, NestQuestion, nest
from perisect.store import nests
from perisect.tasks import isolated
from perisect.tasks.artwork import plan


def _search(_: bytes, question: NestQuestion) -> list[Nested]:
    return nest(question, isolated.report, isolated.asked_to_stop)


def nested_plan(recipe: JobRecipe) -> JobPlan:
    """A recipe worked out, its nest searched and kept when there is none yet. One who cancels gets the best
    so far.

    Raises:
        UnknownArtwork, ArtworkError: as `plan` does.
    """
    planned = plan(recipe)
    question = planned.layout.question
    if question is None or not planned.layout.waiting:
        return planned
    isolated.stop_gently()
    nests.keep(question, isolated.call(partial(_search, question=question), b""))
    return plan(recipe)
