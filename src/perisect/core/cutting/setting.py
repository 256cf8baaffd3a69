"""A cut setting: how one process is cut in one stock."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from perisect.core.process import Process


class CutSetting(BaseModel):
    """Speed, force and passes of a process in a stock. Force in gram-force."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    speed_cm_s: Annotated[float, Field(ge=1, le=60, allow_inf_nan=False)]
    force_gf: Annotated[float, Field(ge=1, le=600, allow_inf_nan=False)]
    passes: Annotated[int, Field(ge=1, le=4)] = 1


def default_setting(process: Process) -> CutSetting:
    """What a process is cut with as long as nobody has said anything of a stock."""
    return CutSetting(speed_cm_s=process.speed_cm_s, force_gf=process.force_gf)
