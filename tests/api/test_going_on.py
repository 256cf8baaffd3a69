"""A cut that breaks off goes on, and one that is done can be cut once more before the sheet is taken out."""

import threading
import time
from collections.abc import Callable

import httpx
import pytest

from perisect.core.cutting.setting import CutSetting
from perisect.core.sheet.force import ForceScale
from perisect.devices.errors import DeviceError
from perisect.devices.wire_plotter import WirePlotter
from perisect.services.held import harder
from tests.api.test_print_and_cut_api import Work, printed


@pytest.fixture
def breaks(monkeypatch: pytest.MonkeyPatch) -> Callable[[int], None]:
    """Have the plotter stop answering in the middle of a line, once, after so many."""

    def after(lines: int) -> None:
        send, sent = WirePlotter.send, []

        def broken(self: WirePlotter, text: str) -> list[str]:
            sent.append(text)
            if len(sent) == lines + 2:  # beside the opening
                first = text.index("PD")
                numbers = text[first + 2 : text.index(";", first)].split(",")
                send(self, f"{text[:first]}PD{','.join(numbers[: len(numbers) // 4 * 2])};PU;")
                raise DeviceError("The plotter stopped answering.", "plotter gone")
            return send(self, text)

        monkeypatch.setattr(WirePlotter, "send", broken)

    return after


def eight(api: httpx.Client, job: dict) -> dict:
    recipe = job["recipe"] | {
        "designs": [job["recipe"]["designs"][0] | {"longest_mm": 30, "copies": 4, "peel_mm": 3}]
    }
    return api.put(
        f"/api/jobs/{job['id']}/recipe", json={"revision": job["revision"], "recipe": recipe}
    ).json()


@pytest.mark.long
@pytest.mark.parametrize("in_blade", ["again", "leave"])
def test_a_cut_that_broke_off_goes_on_with_no_line_twice_and_none_forgotten(
    in_blade: str, api: httpx.Client, work: Work, job: dict, breaks: Callable[[int], None]
) -> None:
    sheet = printed(api, work, eight(api, job))
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    breaks(3)
    work()
    over = api.get(f"/api/runs/{run['id']}").json()
    assert (over["state"], over["lines_done"], over["lines_total"]) == ("stopped", 3, 8)
    assert "go on at the next line" in over["message"]
    url = f"/api/runs/{run['id']}/resume"
    answers = [api.post(url, json={"in_blade": in_blade}) for _ in range(4)]
    assert [each.status_code for each in answers] == [202, 409, 409, 409]
    rest = answers[0].json()
    assert (rest["first_line"], rest["lines_done"]) == ((3, 3) if in_blade == "again" else (4, 4))
    work()
    done = api.get(f"/api/runs/{rest['id']}").json()
    assert (done["state"], done["lines_done"], len(done["slips"])) == ("done", 8, 4)
    whole = 4 if in_blade == "again" else 3
    assert done["good"] >= whole
    assert api.post(f"/api/runs/{rest['id']}/resume", json={}).status_code == 409  # nothing is left
    assert api.post("/api/runs/999999/resume", json={}).status_code == 404


@pytest.mark.long
def test_a_sheet_that_is_held_is_cut_once_more_and_unloaded(api: httpx.Client, work: Work, job: dict) -> None:
    sheet = printed(api, work, eight(api, job))
    run = api.post(f"/api/prints/{sheet['id']}/cuts", params={"hold": True}).json()
    url = f"/api/runs/{run['id']}"
    assert api.post(f"{url}/unload").status_code == 409  # it is not cut yet
    worker = threading.Thread(target=work)
    worker.start()
    try:
        until(api, url, "held")
        assert api.post(f"/api/prints/{sheet['id']}/cuts").status_code == 409  # the plotter is taken
        assert api.post(f"{url}/once-more", json={"process": "laser"}).status_code == 422
        assert api.post(f"{url}/once-more", json={"stickers": [-1]}).status_code == 422
        again = {"stickers": [1, 2], "process": "kiss", "harder": True}
        assert api.post(f"{url}/once-more", json=again).status_code == 202
        # At once: it is taken out when those lines are cut.
        assert api.post(f"{url}/unload").status_code == 202
    finally:
        api.post(f"{url}/cancel")
        worker.join(60)
    done = api.get(url).json()
    assert (done["state"], done["good"], done["bad"]) == ("done", 4, 0)
    assert api.post(f"{url}/unload").status_code == 409
    assert api.post("/api/runs/999999/unload").status_code == 404


@pytest.mark.long
def test_the_first_sheet_with_its_settings_is_lifted_at_more_corners(
    api: httpx.Client, work: Work, job: dict
) -> None:
    job = eight(api, job)
    key = {"stock": "a4", "process": "kiss", "plotter": "desk"}

    def cut() -> dict:
        run = api.post(f"/api/prints/{printed(api, work, job)['id']}/cuts").json()
        work()
        return api.get(f"/api/runs/{run['id']}/corners").json()

    def save(force: float) -> None:
        entry = {"key": key, "setting": {"force": force, "speed_cm_s": 10}}
        assert api.put("/api/shop/book", json=entry).is_success

    save(80)
    assert cut() == {"stickers": [0, 1, 2, 3], "is_first": True}
    assert cut() == {"stickers": [0, 1, 2, 3], "is_first": False}
    save(90)
    assert cut()["is_first"]
    assert api.get("/api/runs/999999/corners").status_code == 404


@pytest.mark.long
def test_a_cut_waits_after_a_line_and_goes_on(
    api: httpx.Client, work: Work, job: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    sheet = printed(api, work, eight(api, job))
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    url = f"/api/runs/{run['id']}"
    assert api.post(f"{url}/pause").status_code == 409  # no line is cut yet
    send = WirePlotter.send
    monkeypatch.setattr(WirePlotter, "send", lambda self, text: (time.sleep(0.4), send(self, text))[1])
    worker = threading.Thread(target=work)
    worker.start()
    try:
        until(api, url, "cutting")
        assert api.post(f"{url}/pause").status_code == 202
        until(api, url, "paused")
        there = api.get(url).json()["lines_done"]
        time.sleep(1)
        waits = api.get(url).json()
        assert (waits["state"], waits["lines_done"]) == ("paused", there)
        assert there < waits["lines_total"]
        assert api.post(f"{url}/pause", params={"on": False}).status_code == 202
        until(api, url, "done")
    finally:
        api.post(f"{url}/cancel")
        worker.join(60)
    done = api.get(url).json()
    assert (done["lines_done"], done["good"]) == (8, 4)
    assert api.post(f"{url}/pause").status_code == 409
    assert api.post("/api/runs/999999/pause").status_code == 404


def test_another_pass_with_more_force_is_a_step_of_that_plotter() -> None:
    steps = ForceScale(least=1, most=33, step=1, unit="steps")
    kiss = CutSetting(speed_cm_s=20, force=10, passes=2)
    more = harder({"kiss": kiss, "through": kiss.model_copy(update={"force": 32})}, steps)
    # 8 % of 33 steps are between two and three; nothing goes past the plotter's most.
    assert (more["kiss"].force, more["kiss"].passes) == (13, 1)
    assert more["through"].force == 33


def until(api: httpx.Client, url: str, state: str) -> None:
    for _ in range(200):
        if api.get(url).json()["state"] == state:
            return
        time.sleep(0.1)
    raise AssertionError(api.get(url).json())
