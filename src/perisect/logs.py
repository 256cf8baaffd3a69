"""Logs of every process: one line an event, plain tracebacks without locals, secrets masked."""

import logging
import re
import sys
import traceback
from collections.abc import MutableMapping
from types import TracebackType
from typing import Any

import structlog

IN_URL = r"(://[^\s:/@]*:)[^\s@/]+(@)"
NAMED = r"((?:password|passphrase|token)['\"]?\s*[=:]\s*['\"]?)[^\s'\",)}&]+"
SECRET = re.compile(f"{IN_URL}|{NAMED}", re.IGNORECASE)
MASK = "***"


def masked(text: str) -> str:
    """A text without the passwords of URLs and whatever is named a secret."""
    return SECRET.sub(lambda found: f"{found[1]}{MASK}{found[2]}" if found[1] else f"{found[3]}{MASK}", text)


class _Masking(logging.Formatter):
    def format(self, record: logging.LogRecord) -> str:
        return masked(super().format(record))


def _render(_: Any, __: str, event: MutableMapping[str, Any]) -> str:
    """When, how grave, what, and what belongs to it; a traceback below."""
    trace = event.pop("exception", None)
    when, level, what = event.pop("timestamp"), event.pop("level"), event.pop("event")
    rest = " ".join(f"{key}={value!r}" for key, value in event.items())
    line = f"{when} {level:<7} {what} {rest}".rstrip()
    return masked(line if trace is None else f"{line}\n{trace}")


def _on_fault(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    sys.stderr.write(masked("".join(traceback.format_exception(kind, error, trace))))


def configure() -> None:
    """Set up logging of this process."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            _render,
        ],
        wrapper_class=structlog.make_filtering_bound_logger(logging.INFO),
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
        cache_logger_on_first_use=True,
    )
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(_Masking("%(asctime)s %(levelname)-7s %(name)s %(message)s"))
    logging.basicConfig(level=logging.WARNING, handlers=[handler], force=True)
    sys.excepthook = _on_fault
