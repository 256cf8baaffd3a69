"""A throwaway database cluster, blobs and machines for the tests that need them."""

import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest


@pytest.fixture(scope="session")
def shop() -> Iterator[Path]:
    """The environment of a whole shop: database, blobs, and simulated machines on loopback."""
    from perisect.stand_ins.shop import stand_ins
    from perisect.store import blobs
    from perisect.store.database import engine
    from perisect.store.settings import settings
    from perisect.up.cluster import Cluster

    # PostgreSQL's own user must be able to reach the cluster.
    folder = Path(tempfile.mkdtemp(prefix="perisect-test-"))
    folder.chmod(0o755)
    cluster = Cluster(folder)
    os.environ["PERISECT_DATABASE_URL"] = cluster.start()
    os.environ["PERISECT_BLOBS"] = f"file://{folder}/blobs"
    os.environ["PERISECT_LEAST_FREE_MB"] = "1"
    # A test without a shop may have read them before.
    settings.cache_clear()
    engine.cache_clear()
    blobs._place.cache_clear()
    try:
        with stand_ins(seed=3) as machines:
            from perisect.store import equipment
            from perisect.store.database import transaction
            from perisect.store.migrate import migrate

            migrate()
            with transaction() as session:
                for machine, address in machines.printers.items():
                    equipment.set_simulated_address(session, "printer", machine, address)
                for machine, address in machines.plotters.items():
                    equipment.set_simulated_address(session, "plotter", machine, address)
            yield folder
    finally:
        cluster.stop()
        shutil.rmtree((folder / "pg").resolve(), ignore_errors=True)
        shutil.rmtree(folder, ignore_errors=True)
