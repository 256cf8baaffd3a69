"""Keys of what prints make, worked out again from their recipes."""

import json

import psycopg
from pydantic import ValidationError

from perisect.core.job.made import made_key
from perisect.core.job.recipe import JobRecipe

BATCH = 100
"""Prints read at a time: a recipe has up to some hundred kilobytes."""


def rekey_prints(connection: psycopg.Connection) -> None:
    """Give every print the key of what its recipe makes; an empty one where the recipe cannot be read any more."""
    with (
        connection.cursor("every_print") as reading,
        connection.cursor() as writing,
    ):
        reading.execute("SELECT id, recipe::text FROM print")
        while rows := reading.fetchmany(BATCH):
            writing.executemany(
                "UPDATE print SET made_key = %s WHERE id = %s",
                [(_key(recipe), number) for number, recipe in rows],
            )


def _key(recipe: str) -> str:
    try:
        return made_key(JobRecipe.model_validate(json.loads(recipe)))
    except (ValidationError, ValueError, RecursionError):
        return ""
