"""What a running shop writes is for its owner alone."""

import stat

import httpx
import pytest

from tests.core import drawings
from tests.e2e.conftest import Shop


@pytest.fixture
def used(running: Shop) -> Shop:
    with httpx.Client(base_url=running.url, timeout=60) as client:
        png = drawings.png(drawings.coverage(drawings.disc(200))[0])
        assert client.post("/api/artwork", files={"file": ("a.png", png)}).status_code in (200, 201)
        with client.stream("GET", "/api/shop/backup.zip") as backup:
            assert sum(map(len, backup.iter_bytes())) > 1000
    return running


def test_nobody_else_reads_what_a_shop_writes(used: Shop) -> None:
    seen = 0
    for path in used.local.rglob("*"):
        if path.is_symlink() or "pg" in path.relative_to(used.local).parts[:1]:
            continue
        seen += 1
        assert not stat.S_IMODE(path.stat().st_mode) & 0o077, path
    assert seen > 10
    assert not stat.S_IMODE(used.local.stat().st_mode) & 0o044
