"""Read what strangers drop in a process of its own, with limits on memory and time.

The process may die without harm: the caller gets an `ArtworkError` and the next picture a new
process. One that behaves is used again, so nothing is paid for a start.
"""

import contextlib
import multiprocessing
import resource
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, TimeoutError
from concurrent.futures.process import BrokenProcessPool
from typing import TypeVar

from perisect.core.artwork import ArtworkError

MEMORY_BYTES = 3 << 30
SECONDS = 40.0
READERS = 2

T = TypeVar("T")

_lock = threading.Lock()
_pool: ProcessPoolExecutor | None = None


def _limit() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    import cv2

    cv2.setNumThreads(1)


def _current_pool() -> ProcessPoolExecutor:
    global _pool
    with _lock:
        if _pool is None:
            context = multiprocessing.get_context("forkserver")
            _pool = ProcessPoolExecutor(READERS, context, initializer=_limit)
        return _pool


def _discard(pool: ProcessPoolExecutor) -> None:
    global _pool
    with _lock:
        if _pool is pool:
            _pool = None
    for process in list(getattr(pool, "_processes", {}).values()):
        with contextlib.suppress(Exception):
            process.kill()
    pool.shutdown(wait=False, cancel_futures=True)


def call(work: Callable[[bytes], T], data: bytes) -> T:
    """`work(data)` in a reader process.

    Raises:
        ArtworkError: raised by the work, or the reader died, ran out of memory or of time.
    """
    for attempt in range(2):
        pool = _current_pool()
        try:
            return pool.submit(work, data).result(timeout=SECONDS)
        except TimeoutError as error:
            _discard(pool)
            raise ArtworkError(
                f"Reading the picture took more than {SECONDS:.0f} s.", "Export it smaller and drop it again."
            ) from error
        except MemoryError as error:
            raise _too_much() from error
        except (BrokenProcessPool, RuntimeError) as error:
            # Another picture's reader may have died and taken this one with it: try once more.
            _discard(pool)
            if attempt:
                raise _too_much() from error
    raise AssertionError("not reached")


def _too_much() -> ArtworkError:
    return ArtworkError(
        "The picture needs more memory than a reader is given.", "Export it smaller and drop it again."
    )
