"""Parts of a computation in processes of their own: what they bring, and what is left of them."""

import os
import signal
import threading
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import pytest

from perisect import sandbox
from tests.processes import is_running

Stop = Callable[[], bool]


def children() -> set[str]:
    return set(Path(f"/proc/self/task/{threading.get_native_id()}/children").read_text("ascii").split())


def counted(until: int, stop: Stop) -> tuple[int, int]:
    count = 0
    while count < until and not stop():
        count += 1
        time.sleep(0.001)
    return os.getpid(), count


def test_each_part_runs_in_a_process_of_its_own_and_brings_its_own() -> None:
    before = children()
    found = sandbox.beside([partial(counted, 3), partial(counted, 5)], lambda: False)
    assert [part and part[1] for part in found] == [3, 5]
    assert len({os.getpid(), *(part[0] for part in found if part)}) == 3
    assert children() == before


def test_parts_are_told_to_end_and_bring_what_they_have() -> None:
    end = time.monotonic() + 0.4
    found = sandbox.beside([partial(counted, 10**9)] * 2, lambda: time.monotonic() > end)
    assert time.monotonic() < end + 2
    assert all(part is not None and 10 < part[1] < 1000 for part in found)


def test_what_a_part_raises_is_raised_and_no_other_is_left() -> None:
    before = children()

    def fails(stop: Stop) -> tuple[int, int]:
        raise ZeroDivisionError("by hand")

    with pytest.raises(ZeroDivisionError, match="by hand"):
        sandbox.beside([partial(counted, 10**9), fails], lambda: False)
    assert children() == before


def test_a_part_that_dies_brings_nothing_and_the_others_do() -> None:
    def dies(stop: Stop) -> tuple[int, int]:
        os.kill(os.getpid(), signal.SIGKILL)
        return 0, 0

    found = sandbox.beside([dies, partial(counted, 4)], lambda: False)
    assert found[0] is None
    assert found[1] is not None
    assert found[1][1] == 4


def test_a_part_whose_caller_dies_ends() -> None:
    mine, its = os.pipe()
    caller = os.fork()
    if not caller:
        os.close(mine)

        def told(stop: Stop) -> int:
            os.write(its, f"{os.getpid()} ".encode())
            while not stop():
                time.sleep(0.01)
            return 0

        sandbox.beside([told, told], lambda: False)
        os._exit(0)
    os.close(its)
    text = b""
    while text.count(b" ") < 2:
        text += os.read(mine, 100)
    parts = [int(part) for part in text.split()]
    os.kill(caller, signal.SIGKILL)
    os.waitpid(caller, 0)
    end = time.monotonic() + 5
    while any(is_running(part) for part in parts) and time.monotonic() < end:
        time.sleep(0.02)
    assert not any(is_running(part) for part in parts)
    os.close(mine)
