"""Whatever a finding proposes can be carried out, changes the recipe, and is not proposed again."""

import pytest
from hypothesis import HealthCheck, example, given, reject, settings
from hypothesis import strategies as st

from perisect.core.artwork import decode
from perisect.core.finding import KnockOut, PutShape, SetField, SplitPage
from perisect.core.job import JobRecipe, apply_remedy, plan_job, trace_artwork
from perisect.core.job.findings import findings_of
from perisect.core.lines import LineError
from tests.core import drawings

ARTS = {
    f"{n:064x}": trace_artwork(decode(drawings.png(drawings.coverage(shape)[0])))[0]
    for n, shape in enumerate([drawings.disc(120), drawings.ring(150, 75), drawings.star(200, 70)])
}
mm = st.floats(0, 12).map(lambda value: round(value, 1))
design = st.fixed_dictionaries(
    {
        "artwork": st.sampled_from(sorted(ARTS)),
        "longest_mm": st.floats(6, 290).map(lambda value: round(value, 1)),
        "border_mm": st.floats(-1, 8).map(lambda value: round(value, 1)),
        "peel_mm": st.none() | mm.filter(lambda value: value >= 0.5),
        "copies": st.sampled_from([1, 7, 400]),
        "lines": st.fixed_dictionaries(
            {"outer": st.sampled_from(["through", "perforate"]), "radius_mm": st.sampled_from([0.0, 0.8])}
        ),
    }
)
SLIGHT = {
    "artwork": f"{2:064x}",
    "longest_mm": 6.0,
    "border_mm": -0.8,
    "peel_mm": None,
    "copies": 1,
    "lines": {},
}
"""A star of which bends of half a millimetre would leave nothing."""
sheet = st.fixed_dictionaries({"fill": st.booleans(), "gap_mm": mm, "common_line": st.booleans()})


@pytest.mark.long
@settings(deadline=None, max_examples=30, derandomize=True, suppress_health_check=list(HealthCheck))
@given(st.lists(design, min_size=1, max_size=3), sheet)
@example([SLIGHT], {"fill": False, "gap_mm": 0.0, "common_line": False})
def test_every_remedy_applies_and_settles_its_finding(designs: list[dict], on: dict) -> None:
    named = [{"id": f"d{n}", "name": f"Art {n}", **each} for n, each in enumerate(designs)]
    recipe = JobRecipe.model_validate({"designs": named, "sheet": on})
    try:
        plan = plan_job(recipe, ARTS)
    except LineError:
        reject()  # Lines that cannot be are refused, not mended.
    for found in findings_of(plan):
        remedy = found.remedy
        if remedy is None or isinstance(remedy, SplitPage):
            continue
        assert isinstance(remedy, SetField | KnockOut | PutShape)
        changed = apply_remedy(recipe, remedy, found.design)
        assert changed != recipe, found
        if isinstance(remedy, SetField) and not remedy.field.startswith("mend"):
            after = findings_of(plan_job(changed, ARTS))
            again = [each for each in after if each.code == found.code and each.design == found.design]
            assert all(each.remedy != remedy for each in again), (found, again)
