"""Random acts over composed, held, split, labelled and carded pieces: the job opens after each of them."""

import io
import random
from collections.abc import Callable
from typing import Any

import httpx
import numpy as np
import pytest
from PIL import Image

from tests.api.conftest import DISC, STAR
from tests.core.test_die import dxf, ticket

SHAPES = ("contour", "held", "circle", "ellipse", "rectangle", "rounded")
CARD = {"width_mm": 90, "height_mm": 120, "heading": "Reedwater"}


def page_of_two() -> bytes:
    """Two drawings that stand apart on one page."""
    page = np.zeros((300, 700, 4), np.uint8)
    for left in (20, 400):
        page[40:260, left : left + 240] = (20, 120, 110, 255)
    file = io.BytesIO()
    Image.fromarray(page).save(file, "PNG")
    return file.getvalue()


class Acts:
    """A job that somebody does things to, whether they are allowed or not.

    Args:
        api: the shop.
        seed: of what is done.
    """

    def __init__(self, api: httpx.Client, seed: int) -> None:
        self.api, self.chance = api, random.Random(seed)
        self.url = f"/api/jobs/{api.post('/api/jobs', json={'title': 'Acts'}).json()['id']}"
        self.pictures = [
            api.post("/api/artwork", files={"file": ("art", data)}).json()["sha256"]
            for data in (DISC, STAR, dxf(ticket), page_of_two())
        ]
        self.now: dict[str, Any] = {}
        self.done: list[str] = []

    def open(self) -> None:
        """Open the job, as its page does."""
        answer = self.api.get(self.url)
        assert answer.status_code == 200, (self.done, answer.text)
        self.now = answer.json()

    def change(self, label: str, recipe: dict[str, Any]) -> httpx.Response:
        body = {"revision": self.now["revision"], "recipe": recipe, "label": label}
        return self.api.put(f"{self.url}/recipe", json=body)

    def act(self) -> None:
        """Do one thing; a refusal is an answer too, a fault is not."""
        doings: list[Callable[[], httpx.Response | None]] = [
            self.add,
            self.lines,
            self.mend,
            self.sheet,
            self.compose,
            self.remove,
            self.remedy,
            self.walk,
            self.walk,
        ]
        doing = self.chance.choice(doings)
        answer = doing()
        self.done.append(f"{doing.__name__} {None if answer is None else answer.status_code}")
        assert answer is None or answer.status_code < 500, (self.done, answer.text)

    @property
    def designs(self) -> list[dict[str, Any]]:
        return self.now["recipe"]["designs"]

    def one(self) -> dict[str, Any] | None:
        return self.chance.choice(self.designs) if self.designs else None

    def with_one(
        self, label: str, changes: Callable[[dict[str, Any]], dict[str, Any]]
    ) -> httpx.Response | None:
        chosen = self.one()
        if chosen is None:
            return None
        designs = [each | changes(each) if each is chosen else each for each in self.designs]
        return self.change(label, self.now["recipe"] | {"designs": designs})

    def add(self) -> httpx.Response | None:
        number = 1 + max([0, *(int(each["id"][1:]) for each in self.designs)])
        new = {
            "id": f"d{number}",
            "name": f"Piece {number}",
            "artwork": self.chance.choice(self.pictures),
            "longest_mm": self.chance.choice([20, 40, 80]),
            "copies": self.chance.choice([1, 3]),
        }
        return self.change("Add", self.now["recipe"] | {"designs": [*self.designs, new]})

    def lines(self) -> httpx.Response | None:
        changes = self.chance.choice(
            [
                {"shape": self.chance.choice(SHAPES)},
                {"radius_mm": self.chance.choice([0, 2, 15])},
                {"bridge_mm": 3},
                {"tab": {"width_mm": 12, "length_mm": 8, "near": None}},
                {"extras": [{"process": "crease", "shape": "across", "place": 0.5}]},
            ]
        )
        border = {"border_mm": self.chance.choice([-8, -1, 0, 2, 12])}
        return self.with_one("Lines", lambda each: border | {"lines": each["lines"] | changes})

    def mend(self) -> httpx.Response | None:
        changes = self.chance.choice(
            [
                {"background": self.chance.choice(["as_is", "plain", "checkerboard"])},
                {"specks_px2": self.chance.choice([0, 500, 500_000])},
                {"crop": [10, 10, 60, 60]},
                {"frame": {"shape": "ellipse"}},
                {"backing": {"shape": "circle"}},
                {"drawings": [[60, 100]]},
            ]
        )
        return self.with_one("Mend", lambda each: {"mend": each["mend"] | changes})

    def sheet(self) -> httpx.Response | None:
        changes = self.chance.choice(
            [
                {"card": CARD},
                {"card": None},
                {"method": self.chance.choice(["rows", "hand"])},
                {"fill": self.chance.choice([True, False])},
                {"cut_only": self.chance.choice([True, False])},
                {"common_line": True},
                {"from_mm": 100, "until_mm": 220},
                {"from_mm": 0, "until_mm": None},
                {"parts": self.chance.choice(["whole", "stickers", "sections"])},
            ]
        )
        recipe = self.now["recipe"]
        return self.change("Sheet", recipe | {"sheet": recipe["sheet"] | changes})

    def compose(self) -> httpx.Response | None:
        chosen = self.one()
        if chosen is None:
            return None
        part = self.api.get(f"{self.url}/designs/{chosen['id']}/part")
        if part.status_code != 200:
            return part
        words = {
            "kind": "words",
            "text": "Ferry",
            "place": self.chance.choice(["under", "on", "round"]),
            "size_mm": 6,
            "font": "text-bold",
            "role": self.chance.choice(["both", "print"]),
        }
        parts = [part.json() | {"role": self.chance.choice(["both", "both", "print"])}, words]
        body = {"composition": {"parts": parts}, "design": chosen["id"], "names": []}
        return self.api.post(f"{self.url}/compose", json=body)

    def remove(self) -> httpx.Response | None:
        if len(self.designs) < 4:
            return self.add()
        chosen = self.one()
        kept = [each for each in self.designs if each is not chosen]
        return self.change("Remove", self.now["recipe"] | {"designs": kept})

    def remedy(self) -> httpx.Response | None:
        offered = [each for each in self.now["findings"] if each.get("remedy")]
        if not offered:
            return None
        finding = self.chance.choice(offered)
        body = {"revision": self.now["revision"], "remedy": finding["remedy"], "design": finding["design"]}
        return self.api.post(f"{self.url}/remedies", json=body)

    def walk(self) -> httpx.Response | None:
        way = self.chance.choice(["undo", "redo"])
        return self.api.post(f"{self.url}/{way}", json={"revision": self.now["revision"]})


@pytest.mark.long
@pytest.mark.parametrize("seed", range(4))
def test_a_job_opens_whatever_was_done_to_it(api: httpx.Client, work: Callable[[], None], seed: int) -> None:
    acts = Acts(api, seed)
    for _ in range(3):
        acts.open()
        acts.add()
    acts.open()
    for _ in range(12):
        acts.act()
        work()
        acts.open()
