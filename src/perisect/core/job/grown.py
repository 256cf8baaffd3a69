"""How much larger the pieces of a card can all be."""

from collections.abc import Callable

from perisect.core.job.recipe import JobRecipe

MOST_MM = 400.0
MOST_TIMES = 4.0
HALVINGS = 6
"""Growth is found to a sixty-fourth of what is possible."""


def grown(recipe: JobRecipe, fits: Callable[[JobRecipe], bool]) -> JobRecipe:
    """The recipe with all its pieces grown by one factor, as far as they still fit; as it is when they do not.

    Borders and gaps keep their width. Sizes are rounded down to a tenth of a millimetre.

    Args:
        fits: whether every piece of a recipe finds its place.
    """
    longest = max((design.longest_mm for design in recipe.designs), default=MOST_MM)
    low, high = 1.0, min(MOST_TIMES, MOST_MM / longest)
    best = recipe
    for _ in range(HALVINGS):
        factor = (low + high) / 2
        tried = _times(recipe, factor)
        if fits(tried):
            low, best = factor, tried
        else:
            high = factor
    return best


def _times(recipe: JobRecipe, factor: float) -> JobRecipe:
    designs = tuple(
        design.model_copy(
            update={"longest_mm": max(design.longest_mm, int(design.longest_mm * factor * 10) / 10)}
        )
        for design in recipe.designs
    )
    return recipe.model_copy(update={"designs": designs})
