"""Readers: one a piece of work, its clock its own, and whoever waits is told the place."""

import os
import signal
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import pytest

from perisect.core.artwork import ArtworkError
from perisect.sandbox import Watch, asked_to_stop, call, watched, work
from perisect.sandbox.errors import TooBusy, WorkFailed
from perisect.sandbox.line import Line


def _length(data: bytes, rest_s: float = 0.0) -> int:
    time.sleep(rest_s)
    return len(data)


def _die(data: bytes) -> int:
    os.kill(os.getpid(), signal.SIGKILL)
    return 0


def _mistake(data: bytes) -> int:
    nothing: dict[str, int] = {}
    return nothing["values"]


def _much(data: bytes) -> int:
    return len(bytearray(4_000_000_000))


def test_a_reader_that_dies_takes_only_its_own() -> None:
    with ThreadPoolExecutor(8) as crowd:
        good = [crowd.submit(call, partial(_length, rest_s=0.3), b"x" * n) for n in range(6)]
        bad = [crowd.submit(call, _die, b"x") for _ in range(6)]
        assert [each.result() for each in good] == list(range(6))
        for each in bad:
            with pytest.raises(ArtworkError, match="memory"):
                each.result()


def test_a_mistake_of_ours_is_told_as_ours() -> None:
    with pytest.raises(WorkFailed, match="KeyError"):
        call(_mistake, b"x")


def test_too_much_memory_is_told_as_that() -> None:
    with pytest.raises(ArtworkError, match="memory"):
        call(_much, b"x")
    assert call(_length, b"xyz") == 3


def test_work_that_takes_too_long_is_called_by_its_name() -> None:
    with pytest.raises(ArtworkError) as refused:
        call(partial(_length, rest_s=20), b"x", 1, kind=work.NEST)
    assert refused.value.title == "Searching for a nest took more than 1 s."
    assert "allow less time" in refused.value.detail
    with pytest.raises(ArtworkError, match="Reading the list needs more memory"):
        call(_much, b"x", kind=work.LIST)


@pytest.mark.long
def test_the_clock_runs_from_the_start_of_the_work() -> None:
    # Ten of a second and a half in a line of two readers: the last waits six seconds and has its own six.
    with ThreadPoolExecutor(10) as crowd:
        asked = [crowd.submit(call, partial(_length, rest_s=1.5), b"x", 6.0) for _ in range(10)]
        assert [each.result() for each in asked] == [1] * 10
    with pytest.raises(ArtworkError, match="more than 1 s"):
        call(partial(_length, rest_s=3.0), b"x", 1.0)


def test_a_line_is_served_in_order_tells_places_and_sends_the_last_away() -> None:
    line, leave = Line(1, 3, seconds_each=2.0), threading.Event()
    served: list[int] = []
    heard: dict[int, list[int]] = {n: [] for n in range(3)}

    def wait(number: int) -> None:
        with line.place(ahead=heard[number].append):
            served.append(number)

    with line.place():
        crowd = []
        for number in range(3):
            crowd.append(threading.Thread(target=wait, args=(number,)))
            crowd[-1].start()
            while not heard[number]:
                time.sleep(0.01)
        with pytest.raises(TooBusy) as full, line.place():
            pass
        # Three before, two seconds each, one place.
        assert full.value.seconds == 6
    for each in crowd:
        each.join()
    assert served == [0, 1, 2]
    assert [places[0] for places in heard.values()] == [0, 1, 2]
    leave.set()
    with line.place(leave=leave.is_set) as mine:
        assert mine


def test_owners_take_turns_in_a_line() -> None:
    line, served = Line(3, 100, seconds_each=1.0, most_each=2), list[str]()
    gates = {owner: threading.Event() for owner in ("greedy", "modest")}

    def work(owner: str) -> None:
        with line.place(owner=owner):
            served.append(owner)
            gates[owner].wait(10)

    crowd = [threading.Thread(target=work, args=("greedy",)) for _ in range(12)]
    for each in crowd:
        each.start()
    while served.count("greedy") < 2:
        time.sleep(0.01)
    time.sleep(0.3)
    assert served == ["greedy", "greedy"]
    # Who comes last, with one piece of work, has the third place at once.
    late = threading.Thread(target=work, args=("modest",))
    late.start()
    began = time.monotonic()
    while "modest" not in served:
        time.sleep(0.01)
    assert time.monotonic() - began < 1
    for gate in gates.values():
        gate.set()
    for each in (*crowd, late):
        each.join(20)
    assert len(served) == 13


def _busy(data: bytes) -> None:
    while True:
        pass


def test_what_only_computes_is_ended_by_its_cpu_seconds() -> None:
    began = time.monotonic()
    with pytest.raises(ArtworkError, match="more than 1 s"):
        call(_busy, b"", 30.0, 1.0)
    assert time.monotonic() - began < 12
    # What was used before is not counted for the next, and waiting costs nothing.
    for _ in range(3):
        assert call(partial(_length, rest_s=1.2), b"x", 30.0, 1.0) == 1


def _search_in_threads(data: bytes) -> int:
    """Searches side by side, each until it is told that it is enough; how many ended so."""

    def search(_: int) -> bool:
        end = time.monotonic() + 5
        while time.monotonic() < end:
            if asked_to_stop():
                return True
        return False

    with ThreadPoolExecutor(8) as threads:
        return sum(threads.map(search, range(8)))


def test_every_thread_of_a_search_hears_that_it_is_enough() -> None:
    for _ in range(6):
        begun = time.monotonic()

        def enough(since: float = begun) -> bool:
            return time.monotonic() > since + 0.1

        with watched(Watch(enough=enough)):
            assert call(_search_in_threads, b"", seconds=8) == 8
