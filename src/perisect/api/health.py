"""How the shop's parts are, one by one."""

from fastapi import APIRouter, Response

from perisect import __version__
from perisect.services.health import Health, health

router = APIRouter(tags=["health"])


class HealthView(Health):
    """Each part as it is, and the version."""

    version: str = __version__


@router.get("/api/health")
def get_health(response: Response) -> HealthView:
    """Database, queue, workers, devices and disk. 503 while the database is away."""
    found = health()
    if found.database != "up":
        response.status_code = 503
    return HealthView(**found.model_dump())
