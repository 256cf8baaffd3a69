"""`python -m perisect.cli`."""

from perisect.cli import app

app()
