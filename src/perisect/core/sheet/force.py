"""The forces that a plotter takes, in its own steps."""

from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

ForceUnit = Literal["gf", "steps"]
Force = Annotated[float, Field(ge=0.1, le=2000, allow_inf_nan=False)]


class ForceScale(BaseModel):
    """The forces that a plotter takes: from the least to the most in equal steps, in its own unit."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    least: Force = 10.0
    most: Force = 600.0
    step: Annotated[float, Field(ge=0.1, le=100, allow_inf_nan=False)] = 5.0
    unit: ForceUnit = "gf"

    @model_validator(mode="after")
    def _is_a_range(self) -> "ForceScale":
        if self.most < self.least + self.step:
            raise ValueError("the most force is above the least by a step or more")
        return self

    @property
    def forces(self) -> NDArray[np.float64]:
        """All of them, rising."""
        count = int((self.most - self.least) / self.step + 1e-9) + 1
        return np.asarray(self.least + self.step * np.arange(count), np.float64)

    def nearest(self, force: float) -> float:
        """The force nearest to one."""
        forces = self.forces
        return float(forces[int(np.abs(forces - force).argmin())])


USUAL_SCALE = ForceScale()
