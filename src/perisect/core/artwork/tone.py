"""Tone: what is done to colours on the way to the printer, never to the original.

Sticker stock prints lighter and flatter than a screen shows; a tone per stock takes that back.
"""

import io
from functools import lru_cache
from itertools import pairwise
from typing import Annotated

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms
from pydantic import BaseModel, ConfigDict, Field, model_validator

from perisect.core.artwork.cielab import lab_of
from perisect.core.artwork.errors import ArtworkError

Level = Annotated[int, Field(ge=0, le=255)]

LUMA = np.array([0.2126, 0.7152, 0.0722])
"""Weights of red, green and blue in lightness (ITU-R BT.709)."""


class ToneRecipe(BaseModel):
    """Brightness and contrast in per cent of the whole range, saturation in per cent, a curve through points.

    The curve is monotone between its points (Fritsch and Carlson 1980) and runs level beyond them.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    brightness: Annotated[int, Field(ge=-50, le=50)] = 0
    contrast: Annotated[int, Field(ge=-50, le=50)] = 0
    saturation: Annotated[int, Field(ge=-100, le=100)] = 0
    curve: Annotated[tuple[tuple[Level, Level], ...], Field(max_length=8)] = ()

    @model_validator(mode="after")
    def _curve_rises(self) -> "ToneRecipe":
        steps = [place for place, _ in self.curve]
        if any(after <= before for before, after in pairwise(steps)):
            raise ValueError("the points of a curve run from dark to light")
        return self

    @property
    def is_nothing(self) -> bool:
        """Whether colours stay as they are."""
        return self == ToneRecipe()

    def describe(self) -> str:
        """The tone in a few words: what a label under a patch says."""
        parts = [
            f"{name} {value:+d}"
            for name, value in (("B", self.brightness), ("C", self.contrast), ("S", self.saturation))
            if value
        ]
        return " ".join(parts + (["curve"] if self.curve else [])) or "as it is"


@lru_cache(maxsize=64)
def _table(tone: ToneRecipe) -> NDArray[np.uint8]:
    """Output level of each of the 256 input levels."""
    level = np.arange(256) / 255
    level = ((level - 0.5) * (1 + tone.contrast / 50) + 0.5 + tone.brightness / 100).clip(0, 1) * 255
    if len(tone.curve) > 1:
        dark, light = np.array(tone.curve, float).T
        # A third of a second at the start of every process, for what few pictures need.
        from scipy.interpolate import PchipInterpolator

        level = PchipInterpolator(dark, light)(level.clip(dark[0], dark[-1]))
    return level.round().clip(0, 255).astype(np.uint8)


def toned(rgba: NDArray[np.uint8], tone: ToneRecipe) -> NDArray[np.uint8]:
    """An (h, w, 4) picture with saturation changed about its lightness, then each level by the table."""
    if tone.is_nothing:
        return rgba
    rgb = np.ascontiguousarray(rgba[..., :3])
    if tone.saturation:
        share = 1 + tone.saturation / 100
        matrix = share * np.eye(3) + (1 - share) * np.tile(LUMA, (3, 1))
        rgb = np.asarray(cv2.transform(rgb, matrix), np.uint8)
    return np.dstack([np.asarray(cv2.LUT(rgb, _table(tone)), np.uint8), rgba[..., 3]])


def read_profile(data: bytes) -> str:
    """Name of the printer an ICC profile describes.

    Raises:
        ArtworkError: not a profile that a proof can be made with.
    """
    try:
        profile = ImageCms.ImageCmsProfile(io.BytesIO(data))
        _proof_of(data)
        return (ImageCms.getProfileDescription(profile) or "").strip() or "Unnamed profile"
    except (ImageCms.PyCMSError, OSError, TypeError, ValueError) as error:
        raise ArtworkError(
            "This is not a colour profile of a printer.", "Choose the ICC file that came with the stock."
        ) from error


@lru_cache(maxsize=16)
def _proof_of(
    profile: bytes, paper: ImageCms.Intent = ImageCms.Intent.ABSOLUTE_COLORIMETRIC
) -> ImageCms.ImageCmsTransform:
    screen = ImageCms.createProfile("sRGB")
    return ImageCms.buildProofTransform(
        screen,
        screen,
        ImageCms.ImageCmsProfile(io.BytesIO(profile)),
        "RGB",
        "RGB",
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        proofRenderingIntent=paper,
        flags=ImageCms.Flags.SOFTPROOFING,
    )


def proofed(rgba: NDArray[np.uint8], profile: bytes) -> NDArray[np.uint8]:
    """An (h, w, 4) picture as the printer with this ICC profile would show it, for the screen."""
    shown = ImageCms.applyTransform(Image.fromarray(np.ascontiguousarray(rgba[..., :3])), _proof_of(profile))
    return np.dstack([np.asarray(shown), rgba[..., 3]])


BEYOND_DE = 5.0
"""Colours that are farther than this from what is printed of them (CIE 1976) are seen to be others, side by side."""
HATCH_PX, HATCH_RGB = 6, (214, 0, 143)


def beyond(rgba: NDArray[np.uint8], profile: bytes) -> NDArray[np.bool_]:
    """(h, w) where an (h, w, 4) picture has colours that the printer with this ICC profile cannot print, by what it
    makes of them with the paper taken for white."""
    rgb = np.ascontiguousarray(rgba[..., :3])
    there = ImageCms.applyTransform(
        Image.fromarray(rgb), _proof_of(profile, ImageCms.Intent.RELATIVE_COLORIMETRIC)
    )
    apart = np.linalg.norm(lab_of(rgb) - lab_of(np.asarray(there)), axis=-1)
    return np.asarray((apart > BEYOND_DE) & (rgba[..., 3] > 0))


def hatched(rgba: NDArray[np.uint8], where: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """The picture with (h, w) places struck through."""
    rows, columns = np.indices(where.shape, np.int32)
    stroke = where & ((rows + columns) % HATCH_PX < 2)
    shown = rgba.copy()
    shown[stroke, :3] = HATCH_RGB
    return shown
