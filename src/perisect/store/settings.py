"""Where things are, from the environment (`PERISECT_…`)."""

from functools import lru_cache

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Settings of one process. Workers on other machines share `database_url` and `blobs`."""

    model_config = SettingsConfigDict(env_prefix="PERISECT_")

    database_url: str = "postgresql://perisect@127.0.0.1:5432/perisect"
    blobs: str = "file://.local/blobs"
    """Any fsspec URL: a folder, or a bucket that every machine reaches."""
    printer: str = "127.0.0.1:0"
    plotter: str = "127.0.0.1:0"
    plotter_tray: str = "127.0.0.1:0"
    web: str = "web/dist"
    """The built front end."""

    @property
    def sqlalchemy_url(self) -> str:
        """The database URL with SQLAlchemy's name for the driver."""
        return "postgresql+psycopg://" + self.database_url.split("://", 1)[-1]

    @property
    def libpq_url(self) -> str:
        """The database URL as libpq takes it."""
        return "postgresql://" + self.database_url.split("://", 1)[-1]


@lru_cache
def settings() -> Settings:
    """Settings of this process, read once."""
    return Settings()
