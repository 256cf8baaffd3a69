"""A disk that is really full: nothing half-written, and what happened is told as it was."""

import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from perisect.store import blobs
from perisect.store.settings import settings

ROOM = 400_000


@pytest.fixture
def small_disk(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """Blobs on a disk of 400 kB."""
    if os.geteuid() != 0:
        pytest.skip("only root mounts a small disk")
    mount = ["mount", "-t", "tmpfs", "-o", f"size={ROOM // 1000}k", "tmpfs", str(tmp_path)]
    if subprocess.run(mount, capture_output=True, check=False).returncode:
        pytest.skip("no disk can be mounted here")
    monkeypatch.setattr(settings(), "blobs", f"file://{tmp_path}")
    blobs._place.cache_clear()
    yield tmp_path
    blobs._place.cache_clear()
    subprocess.run(["umount", str(tmp_path)], check=True)


def test_what_does_not_fit_leaves_nothing_behind(small_disk: Path) -> None:
    blobs.put("there/before", b"7" * 1000)
    with pytest.raises(blobs.DiskFull):
        blobs.put("there/large", os.urandom(ROOM + 100_000))
    assert blobs.get("there/large") is None
    assert blobs.get("there/before") == b"7" * 1000
    assert [path.name for path in small_disk.rglob("*") if path.is_file()] == ["before"]
    # The room is free again for what fits.
    blobs.put("there/small", b"8" * 100_000)


def test_no_work_is_taken_in_before_it_is_full(small_disk: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settings(), "least_free_mb", 1)
    with pytest.raises(blobs.DiskFull):
        blobs.need_room()
    monkeypatch.setattr(settings(), "least_free_mb", 0)
    blobs.need_room()
