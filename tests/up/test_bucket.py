"""Several machines: two API processes and three workers that share a database and a bucket, and nothing else."""

import os
import signal
from collections.abc import Iterator
from pathlib import Path

import pytest
import s3fs
from moto.server import ThreadedMotoServer

from perisect.store import blobs
from perisect.store.settings import settings
from tests.api.conftest import DISC, STAR
from tests.up.conftest import new_job, processes, send, soon


@pytest.fixture
def bucket(monkeypatch: pytest.MonkeyPatch) -> Iterator[s3fs.S3FileSystem]:
    """A simulated bucket, which this process and those it starts keep their blobs in."""
    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
    server.start()
    for name, value in {
        "PERISECT_BLOBS": "s3://kiosk/shop",
        "AWS_ENDPOINT_URL": f"http://127.0.0.1:{server.get_host_and_port()[1]}",
        "AWS_DEFAULT_REGION": "us-east-1",
        "AWS_ACCESS_KEY_ID": "key",
        "AWS_SECRET_ACCESS_KEY": "secret",
    }.items():
        monkeypatch.setenv(name, value)
    # What was opened for another bucket goes on asking at its address.
    s3fs.S3FileSystem.clear_instance_cache()
    store = s3fs.S3FileSystem(use_listings_cache=False, skip_instance_cache=True)
    if not store.exists("kiosk"):
        store.mkdir("kiosk")
    settings.cache_clear()
    blobs._place.cache_clear()
    yield store
    settings.cache_clear()
    blobs._place.cache_clear()
    server.stop()


@pytest.mark.long
def test_a_job_is_made_by_any_machine_from_one_bucket(shop: Path, bucket: s3fs.S3FileSystem) -> None:
    in_folder = sorted((shop / "blobs").rglob("*"))
    with processes(shop, apis=2, workers=3) as ((one, two), workers):
        job = new_job(one)
        for n, (name, data) in enumerate((("disc.png", DISC), ("star.png", STAR))):
            assert send((one, two)[n], job, name, data, "b", n).status_code == 202
        soon(lambda: len(two.get(f"/api/jobs/{job}").json()["designs"]) == 2)
        # One of the three dies; the others go on.
        os.kill(workers[0].pid, signal.SIGKILL)
        printed = two.post(f"/api/jobs/{job}/prints", json={"sheet": 1}).json()
        soon(lambda: one.get(f"/api/jobs/{job}").json()["prints"][0]["state"] == "printed", 60)
        assert one.post(f"/api/prints/{printed['id']}/cuts").status_code < 300
        soon(lambda: two.get(f"/api/jobs/{job}").json()["runs"][0]["state"] == "done", 90)
        (run,) = one.get(f"/api/jobs/{job}").json()["runs"]
        assert run["lines_done"] == run["lines_total"] > 0
        # The slip that the simulated machines are built to have, so the picture came back whole.
        assert 0 < run["slip_largest_mm"] < 1
    assert len(bucket.find("kiosk/shop")) >= 4
    assert sorted((shop / "blobs").rglob("*")) == in_folder


def test_what_is_written_to_a_bucket_is_there_for_all_and_never_swept(bucket: s3fs.S3FileSystem) -> None:
    assert not blobs.exists("other")
    bucket.pipe_file("kiosk/shop/other", b"from another machine")
    assert blobs.exists("other")
    # Another process may be writing it at this moment: a bucket tells no age that a sweep could go by.
    blobs.put(f"one{blobs.PASSING}1", b"on its way")
    assert blobs.sweep() == 0
    assert blobs.get(f"one{blobs.PASSING}1") == b"on its way"
    assert blobs.get("none") is None
