"""From a key on a slider to the painted line, in a browser without a graphics card."""

import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, sync_playwright

from bench.figure import Figure
from bench.server import Server, api

BAR_MS = 100
KEYS = 40
EVERY_MS = 150
ARTWORK = Path(__file__).parents[1] / "src/perisect/demo/artwork"
PIECES = (
    ("heron.png", 62),
    ("lantern.png", 52),
    ("rope-knot.png", 48),
    ("paddle-boat.png", 64),
    ("honey-jar.png", 50),
    ("filigree.png", 60),
    ("loose-word.png", 120),
    ("river-birds-page.png", 190),
)

WATCH = """() => {
    window.painted = [];
    let pressed = null;
    addEventListener('keydown', () => { pressed = performance.now(); }, true);
    new MutationObserver((changes) => {
        const line = changes.some(({ target }) => target.matches?.('path.line-kiss'));
        if (pressed === null || !line) return;
        const since = pressed;
        pressed = null;
        // A message posted in a frame is read when that frame is painted.
        requestAnimationFrame(() => {
            const { port1, port2 } = new MessageChannel();
            port1.onmessage = () => window.painted.push(performance.now() - since);
            port2.postMessage(0);
        });
    }).observe(document.body, { subtree: true, attributes: true, attributeFilter: ['d'] });
}"""
NOTHING = """async () => {
    const taken = [];
    for (let n = 0; n < 20; n += 1) {
        const since = performance.now();
        await fetch('/api/health');
        await new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
        taken.push(performance.now() - since);
    }
    return taken;
}"""


def border_slider_on_the_screen() -> Iterator[Figure]:
    """p95 over forty keys from no border on, a key every 150 ms, for each drawing of the demo shop; beside the asking
    for nothing and a frame."""
    flags = ["--no-sandbox", "--disable-gpu"]
    with api(workers=1) as server, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=flags)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=str(server.client.base_url))
        for file, longest_mm in PIECES:
            painted, nothing = _painted(page, _job(server, file, longest_mm))
            name = f"border slider on the screen, {file.removesuffix('.png')}"
            yield Figure(name, painted, nothing, "ms", "a frame and an empty answer", BAR_MS)
        browser.close()


def _job(server: Server, file: str, longest_mm: float) -> int:
    job = server.client.post("/api/jobs", json={"title": file}).json()["id"]
    sent = {"file": (file, (ARTWORK / file).read_bytes(), "image/png")}
    wait = {"Prefer": "wait=60"}
    server.client.post(f"/api/jobs/{job}/pictures?batch=one", files=sent, headers=wait).raise_for_status()
    now = server.client.get(f"/api/jobs/{job}").json()
    now["recipe"]["designs"][0] |= {"longest_mm": longest_mm, "border_mm": 0.0, "peel_mm": 3.0}
    body = {"revision": now["revision"], "recipe": now["recipe"], "label": "Size"}
    server.client.put(f"/api/jobs/{job}/recipe", json=body, headers=wait).raise_for_status()
    return int(job)


def _painted(page: Page, job: int) -> tuple[float, float]:
    """p95 from key to paint, and of nothing, ms."""
    page.goto(f"/jobs/{job}/lines")
    slider = page.get_by_role("slider", name="White border")
    slider.focus()
    page.wait_for_timeout(1000)
    nothing = page.evaluate(NOTHING)
    page.evaluate(WATCH)
    for _ in range(KEYS):
        slider.press("ArrowRight")
        page.wait_for_timeout(EVERY_MS)
    painted = page.evaluate("window.painted")
    if len(painted) < 0.9 * KEYS:
        raise RuntimeError(f"only {len(painted)} of {KEYS} keys were painted before the next one")
    return float(np.percentile(painted, 95)), float(np.percentile(nothing, 95))
