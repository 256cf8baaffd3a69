"""A cut setting: how one process is cut, in the plotter's own steps."""

from typing import Annotated

from pydantic import AliasChoices, BaseModel, ConfigDict, Field

from perisect.core.process import Process
from perisect.core.sheet.force import USUAL_SCALE, Force, ForceScale


class CutSetting(BaseModel):
    """Speed in cm/s, force in the plotter's own steps, passes, and how far a closed line is cut past its beginning."""

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True)

    speed_cm_s: Annotated[float, Field(ge=1, le=60, allow_inf_nan=False)]
    force: Annotated[Force, Field(validation_alias=AliasChoices("force", "force_gf"))]
    passes: Annotated[int, Field(ge=1, le=4)] = 1
    overcut_mm: Annotated[float, Field(ge=0, le=5, allow_inf_nan=False)] = 0.4


def default_setting(process: Process, scale: ForceScale = USUAL_SCALE) -> CutSetting:
    """What a process is cut with as long as nobody has said anything of a stock."""
    return CutSetting(speed_cm_s=process.speed_cm_s, force=scale.nearest(process.force_share * scale.most))
