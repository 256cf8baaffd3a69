"""Strangers: other origins and names, bodies without end, addresses that cannot be, and the passphrase."""

import re
import threading
import time
from collections.abc import Iterator

import httpx
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import delete

from perisect.api import events
from perisect.api.security import most_of
from perisect.services import sign_in
from perisect.store import sign_ins
from perisect.store.database import transaction
from perisect.store.models import SignInTry
from perisect.store.settings import settings

NEW_JOB = {"title": "From afar"}


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "http://stranger.example"},
        {"Origin": "null"},
        {"Origin": "http://127.0.0.1:9999"},
        {"Sec-Fetch-Site": "cross-site"},
        {"Sec-Fetch-Site": "same-site"},
    ],
)
def test_a_page_of_another_origin_changes_nothing(headers: dict, api: httpx.Client, job: dict) -> None:
    before = len(api.get("/api/jobs").json())
    assert api.post("/api/jobs", json=NEW_JOB, headers=headers).status_code == 403
    assert len(api.get("/api/jobs").json()) == before
    # What a form of a stranger's page can send without asking the browser first.
    picture = api.post("/api/artwork", files={"file": ("a.png", b"x")}, headers=headers)
    run = api.post(f"/api/jobs/{job['id']}/undo", content=b'{"revision": 1}', headers=headers)
    assert (picture.status_code, run.status_code) == (403, 403)


def test_its_own_page_and_programs_without_a_browser_may(api: httpx.Client) -> None:
    own = {"Origin": "http://127.0.0.1", "Sec-Fetch-Site": "same-origin"}
    assert api.post("/api/jobs", json=NEW_JOB, headers=own).status_code == 201
    assert api.post("/api/jobs", json=NEW_JOB).status_code == 201


@pytest.mark.parametrize(
    "host", ["stranger.example", "127.0.0.1.stranger.example", "192.168.7.7", "", "[::2]"]
)
def test_a_name_that_points_here_is_not_answered(host: str, api: httpx.Client) -> None:
    answer = api.get("/api/jobs", headers={"Host": host})
    assert answer.status_code == 421
    assert "not known by that name" in answer.json()["title"]


def test_answers_say_what_a_browser_may_do_with_them(api: httpx.Client) -> None:
    for path in ("/", "/api/jobs", "/api/nothing"):
        headers = api.get(path).headers
        assert "frame-ancestors 'none'" in headers["content-security-policy"]
        assert "script-src 'self'" in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "same-origin"


def test_a_body_without_end_is_refused_while_it_arrives(api: httpx.Client) -> None:
    sent = 0

    def endless() -> Iterator[bytes]:
        nonlocal sent
        while sent < 400_000_000:
            sent += 1_000_000
            yield b" " * 1_000_000

    answer = api.post("/api/jobs", content=endless(), headers={"Content-Type": "application/json"})
    assert answer.status_code == 413
    assert api.post("/api/jobs", content=b"{}", headers={"Content-Length": "9" * 40}).status_code == 413


@pytest.mark.parametrize("path", ["/api/jobs/1%00", "/api/%0d%0ajobs", "/api/" + "j" * 5000, "/%7f"])
def test_an_address_that_cannot_be_is_400(path: str, api: httpx.Client) -> None:
    assert api.get(path).status_code == 400


@pytest.mark.parametrize("title", ["a\x00b", "\x1b[31m", "t" * 5000])
def test_titles_of_control_characters_or_without_end_are_422(title: str, api: httpx.Client) -> None:
    assert api.post("/api/jobs", json={"title": title}).status_code == 422


def test_a_stream_of_a_job_that_is_not_there_is_404(api: httpx.Client) -> None:
    assert api.get("/api/jobs/987654321/events").status_code == 404


@pytest.fixture
def beyond(api: httpx.Client, monkeypatch: pytest.MonkeyPatch) -> Iterator[httpx.Client]:
    """The application as it stands when it listens beyond this machine."""
    from perisect.api.app import create_app

    monkeypatch.setattr(settings(), "host", "192.168.7.20")
    sign_in.set_passphrase("a ferry at seven")
    app = create_app()
    with TestClient(app, base_url="http://192.168.7.20", raise_server_exceptions=False) as client:
        yield client
    with transaction() as session:
        sign_ins.end_all(session)
        sign_ins.forget_tries(session, "testclient")


def test_beyond_this_machine_nothing_is_told_before_the_passphrase(beyond: httpx.Client) -> None:
    assert beyond.get("/api/jobs").status_code == 401
    assert beyond.post("/api/jobs", json=NEW_JOB).status_code == 401
    assert beyond.get("/").status_code == 200  # The page that asks for it.
    assert beyond.get("/api/sign-in").json() == {"needed": True, "signed_in": False}
    assert beyond.post("/api/sign-in", json={"passphrase": "a ferry at eight"}).status_code == 401
    answer = beyond.post("/api/sign-in", json={"passphrase": "a ferry at seven"})
    assert answer.status_code == 200
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert beyond.get("/api/jobs").status_code == 200
    assert beyond.delete("/api/sign-in").json()["signed_in"] is False
    assert beyond.get("/api/jobs").status_code == 401


def test_a_made_up_cookie_opens_nothing(beyond: httpx.Client) -> None:
    for token in ("", "x", "a" * 43, "é", "' or 1=1 --"):
        answer = beyond.get("/api/jobs", headers={"Cookie": f"perisect={token}".encode()})
        assert answer.status_code == 401


def test_guessing_has_to_wait_and_the_right_one_waits_too(beyond: httpx.Client) -> None:
    answers = [beyond.post("/api/sign-in", json={"passphrase": f"guess {n}"}).status_code for n in range(9)]
    assert answers == [401] * 8 + [429]
    waiting = beyond.post("/api/sign-in", json={"passphrase": "a ferry at seven"})
    assert waiting.status_code == 429
    assert int(waiting.headers["retry-after"]) > 0


def _wrong(count: int, *addresses: str) -> None:
    with transaction() as session:
        for address in addresses:
            for _ in range(count):
                sign_ins.add_try(session, address)


def _forget(*addresses: str) -> None:
    with transaction() as session:
        session.execute(delete(SignInTry))


def test_waits_grow_with_each_wrong_passphrase() -> None:
    waits = [sign_ins.wait_after(tries, 8) for tries in (0, 7, 8, 9, 10, 15, 16, 17, 500)]
    assert waits == [0, 0, 2, 4, 8, 256, 512, 600, 600]


def test_an_address_that_has_signed_in_is_locked_out_by_nobody(beyond: httpx.Client) -> None:
    right = {"passphrase": "a ferry at seven"}
    assert beyond.post("/api/sign-in", json=right).status_code == 200
    beyond.delete("/api/sign-in")
    try:
        _wrong(10, "testclient", *(f"192.168.7.{n}" for n in range(9)))
        # Neither its own slips nor those of its network keep it out; a stranger of that network waits.
        assert beyond.post("/api/sign-in", json=right).status_code == 200
        with transaction() as session, pytest.raises(sign_ins.TooManyTries):
            sign_ins.check_tries(session, "192.168.7.77")
        # Another network is slowed down, and not refused.
        with transaction() as session:
            assert 0 < sign_ins.check_tries(session, "10.9.8.7") <= 3
    finally:
        _forget()


def test_sixty_wrong_tries_from_nine_addresses_lock_nobody_else_out(beyond: httpx.Client) -> None:
    try:
        _wrong(7, *(f"10.{n}.0.9" for n in range(9)))
        assert beyond.post("/api/sign-in", json={"passphrase": "a ferry at seven"}).status_code == 200
    finally:
        _forget()


@pytest.mark.parametrize("act", ["signs out", "new passphrase", "revoked"])
def test_an_event_stream_ends_with_its_sign_in(act: str, beyond: httpx.Client) -> None:
    beyond.post("/api/sign-in", json={"passphrase": "a ferry at seven"})
    token = beyond.cookies["perisect"]
    job = beyond.post("/api/jobs", json=NEW_JOB).json()["id"]
    ended, begun = threading.Event(), threading.Event()

    def listen() -> None:
        async def stream() -> None:
            async for event in events.get_job_events(job, token):
                begun.set()
                assert event.event == "resync"
            ended.set()

        beyond.portal.call(stream)  # type: ignore[attr-defined]

    listener = threading.Thread(target=listen, daemon=True)
    listener.start()
    assert begun.wait(10)
    match act:
        case "signs out":
            beyond.delete("/api/sign-in")
        case "new passphrase":
            sign_in.set_passphrase("a ferry at seven")
        case _:
            with transaction() as session:
                sign_ins.end_all(session)
    began = time.monotonic()
    assert ended.wait(5)
    assert time.monotonic() - began < 2
    assert beyond.get("/api/jobs", headers={"Cookie": f"perisect={token}"}).status_code == 401


@pytest.mark.parametrize(
    "headers",
    [
        {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors", "Sec-Fetch-Dest": "image"},
        {"Sec-Fetch-Site": "same-site", "Sec-Fetch-Mode": "cors", "Sec-Fetch-Dest": "empty"},
        {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"},
        {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "iframe"},
        {"Origin": "http://stranger.example"},
        {"Origin": "http://["},
    ],
)
def test_a_page_of_another_origin_has_nothing_worked_out(headers: dict, api: httpx.Client, job: dict) -> None:
    for path in (
        "/api/shop/backup.zip",
        f"/api/jobs/{job['id']}/sheets/1/print.pdf",
        "/api/jobs",
        "/api/health",
    ):
        assert api.get(path, headers=headers).status_code == 403, path
    assert api.options("/api/jobs", headers=headers).status_code == 403


def test_a_link_from_elsewhere_opens_a_page_and_nothing_else(api: httpx.Client) -> None:
    link = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}
    assert api.get("/jobs/7/lines", headers=link).status_code == 200
    assert api.post("/jobs/7/lines", headers=link).status_code == 403
    assert api.get("/mark.svg", headers={**link, "Sec-Fetch-Dest": "image"}).status_code == 403


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("Host", "[::1"),
        ("Host", "127.0.0.1:99999999"),
        ("Origin", "http://["),
        ("Origin", "\\"),
        ("Content-Length", "9" * 5000),
        ("Cookie", "perisect=\x00; =; ;;" + "a=b;" * 500),
        ("Prefer", "wait=99999999999"),
        ("If-Match", "\x7f" * 30),
        ("Range", "bytes=9-1"),
        ("Accept-Encoding", "gzip;q=nan"),
        ("X-" + "n" * 250, "x"),
    ],
)
def test_no_header_is_a_mistake_of_ours(name: str, value: str, api: httpx.Client) -> None:
    for method, path in (
        ("GET", "/api/jobs"),
        ("GET", "/"),
        ("POST", "/api/jobs"),
        ("PUT", "/api/shop/name"),
    ):
        answer = api.request(method, path, headers={name: value.encode("latin-1")}, content=b"{}")
        assert answer.status_code < 500, (method, path, answer.text)


def test_a_passphrase_is_kept_only_as_a_hash(beyond: httpx.Client) -> None:
    with transaction() as session:
        kept = sign_ins.get_setting(session, sign_in.PASSPHRASE)
    assert kept is not None
    assert kept.startswith("$argon2id$")
    with pytest.raises(sign_in.TooShort):
        sign_in.set_passphrase("short")


def test_the_step_given_up_can_be_opened(api: httpx.Client, job: dict) -> None:
    base = {"revision": job["revision"], "label": "Border"}
    mine, yours = job["recipe"], job["recipe"]
    mine = {**mine, "designs": [{**mine["designs"][0], "border_mm": 3.0}]}
    yours = {**yours, "designs": [{**yours["designs"][0], "border_mm": 5.0}]}
    assert api.put(f"/api/jobs/{job['id']}/recipe", json={**base, "recipe": mine}).status_code == 200
    late = api.put(f"/api/jobs/{job['id']}/recipe", json={**base, "recipe": yours})
    assert late.status_code == 409
    aside = [step for step in api.get(f"/api/jobs/{job['id']}/steps").json() if step["aside"]]
    assert len(aside) == 1
    now = api.get(f"/api/jobs/{job['id']}").json()
    opened = api.post(
        f"/api/jobs/{job['id']}/open", json={"revision": now["revision"], "step": aside[0]["number"]}
    )
    assert opened.json()["recipe"]["designs"][0]["border_mm"] == 5.0


def test_whatever_takes_a_file_takes_one_as_large_as_a_scan(api: httpx.Client) -> None:
    """A sheet scanned at 300 ppi is 20 to 25 MB as PNG."""
    paths = api.get("/api/openapi.json").json()["paths"]
    taking = [
        re.sub(r"\{[^}]+\}", "1", path)
        for path, methods in paths.items()
        for told in methods.values()
        if "multipart/form-data" in told.get("requestBody", {}).get("content", {})
    ]
    assert len(taking) >= 8
    assert {path: most_of(path) for path in taking if most_of(path) < 60_000_000} == {}
