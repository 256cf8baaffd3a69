"""A throwaway database cluster, blobs and machines for the tests that need them."""

import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest


@pytest.fixture(scope="session")
def shop() -> Iterator[Path]:
    """The environment of a whole shop: database, blobs, a printer and a plotter on loopback."""
    from perisect.tasks.rehearse import stand_ins
    from perisect.up.cluster import Cluster

    # PostgreSQL's own user must be able to reach the cluster.
    folder = Path(tempfile.mkdtemp(prefix="perisect-test-"))
    folder.chmod(0o755)
    cluster = Cluster(folder)
    os.environ["PERISECT_DATABASE_URL"] = cluster.start()
    os.environ["PERISECT_BLOBS"] = f"file://{folder}/blobs"
    try:
        with stand_ins(seed=3) as devices:
            for name, address in zip(("PRINTER", "PLOTTER", "PLOTTER_TRAY"), devices, strict=True):
                os.environ[f"PERISECT_{name}"] = f"{address.host}:{address.port}"
            from perisect.store.migrate import migrate

            migrate()
            yield folder
    finally:
        cluster.stop()
        shutil.rmtree((folder / "pg").resolve(), ignore_errors=True)
        shutil.rmtree(folder, ignore_errors=True)
