"""Perisect as `perisect up` starts it, and a browser in front of it."""

import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import pytest
from bench.processes import commands, pids_under
from playwright.sync_api import Browser, Page, Response, expect, sync_playwright

ROOT = Path(__file__).parents[2]
CHROMIUM = shutil.which("chromium") or "/usr/bin/chromium"
FLAGS = (
    "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync"
)


# A machine with two cores may be starting five processes while it draws the page.
expect.set_options(timeout=30_000)


@dataclass
class Shop:
    """A running shop."""

    url: str
    local: Path
    process: subprocess.Popen[str]

    def pid_of(self, name: str) -> int:
        """The process of one of its children, by its command."""
        for pid, line in commands(pids_under(self.process.pid)).items():
            if line.startswith(f"perisect {name} "):
                return pid
        raise LookupError(name)


def start(local: Path, *options: str) -> Shop:
    """Start a shop and wait for its URL."""
    environment = {k: v for k, v in os.environ.items() if not k.startswith("PERISECT_")}
    process = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "perisect.cli",
            "up",
            "--local",
            str(local),
            "--web",
            str(ROOT / "web/dist"),
            *options,
        ],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        env=environment,
        cwd=ROOT,
    )
    assert process.stdout is not None
    said = process.stdout.readline()
    if "is up at" not in said:
        process.wait(20)
        logs = [f"{log}:\n{log.read_text('utf-8')[-3000:]}" for log in sorted((local / "log").glob("*.log"))]
        raise AssertionError("\n".join([f"it said: {said}{process.stdout.read()}", *logs]))
    return Shop(said.split(" at ")[1].split()[0], local, process)


def stop(shop: Shop) -> int:
    """Ctrl C."""
    shop.process.send_signal(signal.SIGINT)
    code = shop.process.wait(30)
    assert shop.process.stdout is not None
    print(f"it said: {shop.process.stdout.read()}")
    return code


@contextmanager
def empty_folder() -> Iterator[Path]:
    """A folder that PostgreSQL's own user reaches, for a shop of its own."""
    made = Path(tempfile.mkdtemp(prefix="perisect-e2e-"))
    made.chmod(0o755)
    yield made
    shutil.rmtree((made / "pg").resolve(), ignore_errors=True)
    shutil.rmtree(made, ignore_errors=True)


@pytest.fixture(scope="session")
def folder() -> Iterator[Path]:
    with empty_folder() as made:
        yield made


@pytest.fixture(scope="session")
def running(folder: Path) -> Iterator[Shop]:
    from perisect.up.cluster import free_port

    shop = start(folder, "--port", str(free_port()), "--time-factor", "50", "--no-demo")
    yield shop
    assert stop(shop) == 0


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    """A browser for the tests of one file: while it is open an event loop runs, in which no worker can be run."""
    with sync_playwright() as playwright:
        yield playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS.split())


@pytest.fixture
def page(browser: Browser, running: Shop) -> Iterator[Page]:
    if running.process.poll() is not None:
        assert running.process.stdout is not None
        pytest.fail(f"the shop is gone; it said: {running.process.stdout.read()}")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=running.url)
    context.set_default_timeout(30_000)
    page = context.new_page()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))

    def heard(response: Response) -> None:
        # What is read for work just finished is there, in every flow; but for the job that nobody has.
        if response.status == 404 and response.request.method == "GET" and "/999999" not in response.url:
            faults.append(f"404 {response.url}")

    page.on("response", heard)
    yield page
    context.close()
    assert faults == []


@pytest.fixture
def empty_log(running: Shop) -> None:
    """No sticker has been measured yet: rejects are what the house takes for usual, whatever other tests cut."""
    import psycopg

    from perisect.up.cluster import Cluster

    with psycopg.connect(Cluster(running.local).start(), autocommit=True) as database:
        # A cut that another test began writes its figures when it ends.
        over = "select count(*) from run where state not in ('done', 'stopped', 'cancelled')"
        until(lambda: database.execute(over).fetchone() == (0,), 60)
        database.execute("update run set good = null, bad = null")


def new_job(page: Page) -> str:
    """Begin a job from the list; returns its path."""
    page.goto("/")
    page.get_by_role("button", name="New job", exact=True).click()
    page.wait_for_url(re.compile(r"/jobs/\d+/artwork"))
    expect(page.get_by_role("button", name="Choose pictures").first).to_be_visible()
    return page.url.removesuffix("/artwork")


def unfold(page: Page, title: str) -> None:
    """Open a section of the readings, of which one is open at a time."""
    button = page.get_by_label("Readings").get_by_role("button", name=re.compile(f"^{title}"))
    if button.get_attribute("aria-expanded") != "true":
        button.click()
    expect(button).to_have_attribute("aria-expanded", "true")


def drop(page: Page, files: dict[str, bytes]) -> None:
    """Drop files on the window, as from a folder."""
    given = [{"name": name, "bytes": list(data)} for name, data in files.items()]
    page.evaluate(
        """(files) => {
            const transfer = new DataTransfer();
            for (const file of files) transfer.items.add(new File([new Uint8Array(file.bytes)], file.name));
            const target = document.body;
            for (const kind of ['dragover', 'drop'])
                target.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: transfer }));
        }""",
        given,
    )


def printed_job(page: Page, art: bytes, by_number: bool = False) -> None:
    """A job with one piece (one copy, or a full sheet), printed."""
    new_job(page)
    drop(page, {"disc.png": art})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    if by_number:
        page.keyboard.press("3")
        page.get_by_role("radio", name="By number").click()
        expect(page.get_by_role("navigation", name="Stations")).to_contain_text("1 on 1 sheet")
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()


def unload(page: Page) -> None:
    """Lift a corner of the sheet that is cut, and take it out."""
    page.get_by_role("button", name="It peels cleanly: unload").click(timeout=60_000)
    done = page.get_by_role("status").filter(has_text="line")
    expect(done).to_contain_text("Done", timeout=60_000)


def until(check, seconds: float = 30) -> None:
    """Wait for something to become true."""
    deadline = time.monotonic() + seconds
    while not check():
        if time.monotonic() > deadline:
            raise TimeoutError
        time.sleep(0.05)
