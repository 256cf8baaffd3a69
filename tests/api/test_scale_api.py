"""The size a printer prints at, measured and corrected; cut files stay as they are."""

import io
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor

import httpx
import numpy as np
import pytest
from PIL import Image

Work = Callable[[], None]


@pytest.fixture
def url(api: httpx.Client, job: dict) -> Iterator[str]:
    url = f"/api/jobs/{job['id']}"
    yield url
    api.delete(f"{url}/scale")


def span_mm(api: httpx.Client, url: str, work: Work) -> np.ndarray:
    """Prints a sheet and measures from its top left mark across and along, mm, however it was turned and shifted."""
    asked = api.post(f"{url}/prints", json={"sheet": 1}).json()
    work()
    data = api.get(f"/api/prints/{asked['id']}/printed.png").content
    dark = np.asarray(Image.open(io.BytesIO(data)).convert("L")) < 128
    centres = []
    for x, y in ((11, 12), (199, 12), (11, 282)):
        # Each is alike on both sides of its middle, and nothing else stands so near.
        left, top, reach = (round(mm / 25.4 * 300) for mm in (x, y, 5.5))
        rows, columns = np.nonzero(dark[top - reach : top + reach, left - reach : left + reach])
        centres.append((columns.mean() + left, rows.mean() + top))
    first, across, along = np.array(centres)
    return np.array([np.hypot(*(across - first)), np.hypot(*(along - first))]) / 300 * 25.4


@pytest.mark.long
def test_a_print_is_corrected_by_what_was_measured_and_the_cut_is_not(
    api: httpx.Client, work: Work, job: dict, url: str
) -> None:
    seen = api.get(f"{url}/scale").json()
    assert (seen["across"]["mm"], seen["along"]["mm"], seen["scale"]) == (188.0, 270.0, [1.0, 1.0])
    cut, before = api.get(f"{url}/sheets/1/cut.svg").text, span_mm(api, url, work)
    reading = {"across_mm": 187.0, "along_mm": 270.1, "was": seen["scale"]}
    told = api.post(f"{url}/scale", json=reading).json()
    assert told["across"] == {
        "error_pct": pytest.approx(-100 / 188),
        "uncertainty_pct": pytest.approx(0.1032, abs=1e-4),
        "corrected": True,
    }
    assert not told["along"]["corrected"]
    assert told["now"]["scale"] == [pytest.approx(188 / 187), 1.0]
    after = span_mm(api, url, work)
    assert after[0] / before[0] == pytest.approx(188 / 187, abs=0.0006)
    assert after[1] == pytest.approx(before[1], abs=0.1)
    assert api.get(f"{url}/sheets/1/cut.svg").text == cut
    # The sheet is cut as it is printed: its marks are where they were sensed.
    asked = api.post(f"{url}/prints", json={"sheet": 1}).json()
    work()
    run = api.post(f"/api/prints/{asked['id']}/cuts").json()
    work()
    assert api.get(f"/api/runs/{run['id']}").json()["state"] == "done"


def test_of_eight_who_measured_the_same_sheet_one_corrects_it(api: httpx.Client, url: str) -> None:
    reading = {"across_mm": 187.0, "along_mm": 268.0, "was": [1.0, 1.0]}
    with ThreadPoolExecutor(8) as crowd:
        codes = sorted(crowd.map(lambda _: api.post(f"{url}/scale", json=reading).status_code, range(8)))
    assert codes == [200] + [409] * 7
    assert api.get(f"{url}/scale").json()["scale"] == pytest.approx([188 / 187, 270 / 268])
    assert api.delete(f"{url}/scale").json()["scale"] == [1.0, 1.0]


def test_distances_that_cannot_be_are_said_and_change_nothing(api: httpx.Client, url: str) -> None:
    for read in ((0, 270), (-5, 270), (270, 188), (188, 300), (1e9, 270), ("NaN", 270)):
        reading = {"across_mm": read[0], "along_mm": read[1], "was": [1.0, 1.0]}
        assert api.post(f"{url}/scale", json=reading).status_code == 422
    swapped = api.post(f"{url}/scale", json={"across_mm": 270, "along_mm": 188, "was": [1.0, 1.0]}).json()
    assert "swapped" in swapped["detail"]
    assert api.get(f"{url}/scale").json()["scale"] == [1.0, 1.0]


@pytest.mark.long
def test_a_scan_of_a_print_says_what_a_ruler_would(
    api: httpx.Client, work: Work, job: dict, url: str
) -> None:
    true = span_mm(api, url, work)
    sheet = api.get(url).json()["prints"][0]["id"]
    printed = Image.open(io.BytesIO(api.get(f"/api/prints/{sheet}/printed.png").content)).convert("RGB")

    def sent(picture: Image.Image, **told: object) -> httpx.Response:
        file = io.BytesIO()
        picture.save(file, "PNG", **{name: value for name, value in told.items() if name == "dpi"})
        params = {name: value for name, value in told.items() if name == "ppi"}
        return api.post(f"{url}/scale/scan", files={"file": ("scan.png", file.getvalue())}, params=params)

    read = sent(printed, dpi=(300, 300)).json()
    assert (read["across_mm"], read["along_mm"]) == pytest.approx(tuple(true), abs=0.1)
    assert (read["ppi"], read["reads_to_mm"]) == (pytest.approx(300, abs=0.01), 0.25)
    assert api.get(f"{url}/scale").json()["checked_at"] is None  # nothing is corrected by looking
    # At another ppi than it was scanned at it would be twice as large; without one nobody can say.
    assert sent(printed, ppi=150).json()["across_mm"] == pytest.approx(2 * true[0], abs=0.2)
    unknown = sent(printed)
    assert (unknown.status_code, unknown.json()["detail"]) == (422, "Enter the ppi it was scanned at.")
    upside_down = sent(printed.rotate(180), dpi=(300, 300)).json()
    assert upside_down["across_mm"] == pytest.approx(true[0], abs=0.1)
    for other in (Image.new("RGB", (2480, 3508), "white"), printed.resize((248, 351))):
        refused = sent(other, dpi=(300, 300))
        assert (refused.status_code, "300 ppi" in refused.json()["detail"]) == (422, True)
    bad = api.post(f"{url}/scale/scan", files={"file": ("scan.png", b"no picture")})
    assert bad.status_code == 422
    assert api.post(f"{url}/scale/scan?ppi=0", files={"file": ("a.png", b"x")}).status_code == 422
