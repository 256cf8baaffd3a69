"""Bring the database to the present tables."""

from pathlib import Path

from alembic import command
from alembic.config import Config

from perisect.store.settings import settings


def config() -> Config:
    """Alembic's settings, without a file of their own."""
    made = Config()
    made.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    made.set_main_option("sqlalchemy.url", settings().sqlalchemy_url.replace("%", "%%"))
    return made


def migrate() -> None:
    """Apply every migration that is missing."""
    command.upgrade(config(), "head")
