"""Where things are, from the environment (`PERISECT_…`)."""

from functools import lru_cache
from urllib.parse import urlsplit

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Settings of one process. Workers on other machines share `database_url` and `blobs`."""

    model_config = SettingsConfigDict(env_prefix="PERISECT_")

    database_url: str = "postgresql://perisect@127.0.0.1:5432/perisect"
    blobs: str = "file://.local/blobs"
    """Any fsspec URL: a folder, or a bucket that every machine reaches."""
    device_networks: str = "127.0.0.0/8,::1/128"
    """Networks that printers and plotters may be in, names of hosts, queues of this system as lp:NAME, and serial lines
    as serial:/dev/NAME, separated by commas."""
    host: str = "127.0.0.1"
    """The address the application listens on; beyond loopback a passphrase is needed."""
    port: int = 8350
    """The port the application listens on, which is no device's."""
    hosts: str = ""
    """Further names that browsers may know this server by, separated by commas."""
    least_free_mb: int = 500
    """With less than this left on the disk, no more work is taken in."""
    web: str = "web/dist"
    """The built front end."""

    @property
    def networks(self) -> tuple[str, ...]:
        """The networks of devices."""
        return tuple(each.strip() for each in self.device_networks.split(",") if each.strip())

    @property
    def is_local(self) -> bool:
        """Whether nobody but this machine reaches the application."""
        return self.host in ("127.0.0.1", "::1", "localhost")

    @property
    def own_ports(self) -> frozenset[int]:
        """Ports of the application and of its database."""
        return frozenset({self.port, urlsplit(self.libpq_url).port or 5432})

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
