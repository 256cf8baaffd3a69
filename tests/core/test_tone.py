"""Tone: worked out by hand at a few levels; a proof agrees with the profile's own arithmetic."""

import io

import numpy as np
import pikepdf
import pypdfium2
import pytest
from PIL import ImageCms
from pydantic import ValidationError

from perisect.core.artwork import ArtworkError, ToneRecipe
from perisect.core.artwork.tone import proofed, read_profile, toned
from perisect.core.prepress.tone_strip import strip_pdf, strip_tones
from perisect.core.sheet import STOCKS
from tests.core import pictures

SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def levels(tone: ToneRecipe, *rgb: int) -> list[int]:
    return toned(np.array([[[*rgb, 255]]], np.uint8), tone)[0, 0, :3].tolist()


def test_brightness_and_contrast_by_hand() -> None:
    assert levels(ToneRecipe(brightness=10), 100, 100, 100) == [126] * 3  # a tenth of 255 more
    assert levels(ToneRecipe(contrast=25), 100, 127, 200) == [86, 127, 236]  # half as steep again about 127.5
    assert levels(ToneRecipe(brightness=50), 200, 200, 200) == [255] * 3


def test_no_saturation_leaves_the_lightness() -> None:
    assert (
        levels(ToneRecipe(saturation=-100), 200, 100, 50)
        == [round(0.2126 * 200 + 0.7152 * 100 + 0.0722 * 50)] * 3
    )


def test_a_curve_runs_through_its_points_and_never_falls() -> None:
    tone = ToneRecipe(curve=((0, 0), (64, 40), (128, 140), (255, 255)))
    assert [levels(tone, n, n, n)[0] for n in (0, 64, 128, 255)] == [0, 40, 140, 255]
    ramp = toned(np.dstack([np.arange(256, dtype=np.uint8)[None]] * 4), tone)[0, :, 0].astype(int)
    assert (np.diff(ramp) >= 0).all()
    with pytest.raises(ValidationError):
        ToneRecipe(curve=((64, 40), (64, 50)))


def test_a_proof_with_the_screen_s_own_profile_changes_nothing() -> None:
    photo = pictures.solid(pictures.photo(np.random.default_rng(1), 64))
    assert np.abs(proofed(photo, SRGB)[..., :3].astype(int) - photo[..., :3]).max() <= 2
    assert read_profile(SRGB)
    for broken in (b"", b"not a profile", SRGB[:200]):
        with pytest.raises(ArtworkError, match="colour profile"):
            read_profile(broken)


def test_the_strip_holds_twelve_labelled_variants_and_begins_with_the_tone_itself() -> None:
    about = ToneRecipe(contrast=4)
    tones = strip_tones(about)
    assert (len(tones), tones[0], len(set(tones))) == (12, about, 12)
    pdf = strip_pdf(pictures.solid(pictures.photo(np.random.default_rng(2), 300)[:200]), STOCKS["a4"], about)
    opened = pikepdf.open(io.BytesIO(pdf))
    assert len(opened.pages[0].get_images()) == 12
    text = pypdfium2.PdfDocument(pdf)[0].get_textpage().get_text_range()
    assert all(f"{number} {tone.describe()}" in text for number, tone in enumerate(tones, start=1))
