"""A remedy changes one field and nothing else."""

import pytest

from perisect.core.finding import KnockOut, PutShape, SetField
from perisect.core.job import DesignRecipe, JobRecipe, RemedyError, apply_remedy

RECIPE = JobRecipe(
    designs=(
        DesignRecipe(id="d1", name="Heron", artwork="a" * 64),
        DesignRecipe(id="d2", name="Lantern", artwork="b" * 64),
    )
)


def remedied(field: str, value: object, design: str | None = "d2") -> JobRecipe:
    return apply_remedy(RECIPE, SetField(label="x", field=field, value=value), design)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("field", "value"), [("border_mm", 3.5), ("longest_mm", 44.0), ("peel_mm", 2.0), ("copies", 7)]
)
def test_a_field_of_the_design_it_is_about(field: str, value: float) -> None:
    changed = remedied(field, value)
    assert getattr(changed.design("d2"), field) == value
    assert changed.design("d1") == RECIPE.design("d1")
    assert changed.design("d2").model_copy(
        update={field: getattr(RECIPE.design("d2"), field)}
    ) == RECIPE.design("d2")


def test_a_field_of_the_sheet() -> None:
    assert remedied("sheet.gap_mm", 5.0, None).sheet.gap_mm == 5
    assert remedied("sheet.stock", "letter", None).sheet.stock == "letter"


def test_mends() -> None:
    assert remedied("mend.background", "plain").design("d2").mend.background == "plain"
    assert remedied("mend.specks_px2", 12.5).design("d2").mend.specks_px2 == 12.5
    ellipse = PutShape(label="x", part="frame", shape="ellipse")
    framed = apply_remedy(RECIPE, ellipse, "d2").design("d2").mend.frame
    assert framed is not None
    assert framed.shape == "ellipse"
    once = apply_remedy(RECIPE, KnockOut(label="x", places=((10, 20),)), "d2")
    twice = apply_remedy(once, KnockOut(label="x", places=((30, 40),)), "d2")
    assert twice.design("d2").mend.knock_out == ((10, 20), (30, 40))


def test_a_mended_picture_has_a_name_of_its_own() -> None:
    design = remedied("mend.background", "plain").design("d2")
    assert design.picture != design.artwork
    assert len(design.picture) == 64
    assert RECIPE.design("d2").picture == "b" * 64
    assert design.picture == remedied("mend.background", "plain").design("d2").picture


@pytest.mark.parametrize(
    ("field", "value", "design"),
    [
        ("border_mm", -21, "d2"),
        ("border_mm", "wide", "d2"),
        ("longest_mm", 1e9, "d2"),
        ("nothing", 1, "d2"),
        ("id", "d9", "d2"),
        ("artwork", "c" * 64, "d2"),
        ("mend", {}, "d2"),
        ("mend.nothing", 1, "d2"),
        ("mend.knock_out", "nowhere", "d2"),
        ("mend.frame", "heart", "d2"),
        ("border_mm", 2, "d9"),
        ("border_mm", 2, None),
        ("sheet.stock", "napkin", None),
        ("sheet.a.b", 1, None),
    ],
)
def test_what_does_not_apply_is_refused(field: str, value: object, design: str | None) -> None:
    with pytest.raises((RemedyError, ValueError)):
        remedied(field, value, design)
