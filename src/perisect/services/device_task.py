"""Work of a worker at a device, or in the sandbox: claimed, shown to be alive, ended once whatever happens.

A kind of work is a subclass: it says how its row is claimed and ended, what is done, and what is said of a failure.
`perform` is the same for all of them.
"""

from abc import ABC, abstractmethod
from dataclasses import dataclass, field
from typing import Any, ClassVar
from uuid import uuid4

import structlog
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from perisect.devices.errors import DeviceError
from perisect.services.heartbeat import Heartbeat, write_with_retry
from perisect.store.blobs import DiskFull
from perisect.store.database import transaction
from perisect.store.prints import DeviceTaken

log = structlog.get_logger()


class TryLater(Exception):
    """The device has other work, or the database is away: the task is to be tried again."""


@dataclass(frozen=True)
class Ending:
    """State that the row of some work ends in, and values of other columns."""

    state: str
    values: dict[str, Any] = field(default_factory=dict)


class DeviceTask(ABC):
    """One piece of work of a worker.

    Attributes:
        name: its name in the log.
        refusals: exceptions whose text is said to the person as it is.
        disk_full: message if a file could not be kept.
        fault: message of a fault of Perisect's own.
    """

    name: ClassVar[str]
    refusals: ClassVar[tuple[type[Exception], ...]] = (DeviceError,)
    disk_full: str
    fault: str

    def __init__(self, row_id: int) -> None:
        self.row_id, self.claim = row_id, str(uuid4())

    @abstractmethod
    def begin(self, session: Session) -> bool:
        """Claim the row and read what the work needs; return False if it is not queued any more.

        Raises:
            DeviceTaken: the device has other work.
        """

    @abstractmethod
    def say(self, values: dict[str, Any]) -> str | None:
        """Write what was told to the heartbeat, and that the worker lives.

        Returns:
            How the work is asked to stop, "" for not at all, None if the claim is lost.
        """

    @abstractmethod
    def work(self, beat: Heartbeat) -> Ending:
        """Do the work."""

    @abstractmethod
    def end(self, session: Session, ending: Ending) -> None:
        """Write how it ended."""

    def failed(self, error: Exception) -> Ending:
        """Return how a failure ends the work."""
        return Ending("failed", {"message": self.message_of(error)})

    def message_of(self, error: Exception) -> str:
        """Return what is said of a failure; one that nobody foresaw goes to the log."""
        if isinstance(error, self.refusals):
            return str(error)
        if isinstance(error, DiskFull):
            return self.disk_full
        log.exception(f"{self.name} failed", row_id=self.row_id)
        return self.fault

    def perform(self) -> None:
        """Do the work if it is queued still.

        Raises:
            TryLater: the device has other work, or the database is away.
        """
        try:
            with transaction() as session:
                if not self.begin(session):
                    return
        except (DeviceTaken, SQLAlchemyError) as error:
            raise TryLater from error
        with Heartbeat(self.say) as beat:
            try:
                ending = self.work(beat)
            except Exception as error:
                ending = self.failed(error)
            # What the heartbeat could not say while the database was away is said with the end.
            untold = beat.take_untold()
            write_with_retry(lambda: self._write(Ending(ending.state, untold | ending.values)))

    def _write(self, ending: Ending) -> None:
        with transaction() as session:
            self.end(session, ending)
