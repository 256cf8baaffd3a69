"""Print files in the inks of a press, and colours that it cannot print."""

import io
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
import pytest
from PIL import Image, ImageCms
from typer.testing import CliRunner

from perisect.cli import app
from perisect.core.artwork.tone import beyond, hatched, proofed, read_profile
from perisect.core.prepress.cmyk import NotCmyk, in_cmyk, inks_of, is_cmyk
from tests.core import drawings
from tests.core.icc import press

PRESS = press()
SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 60">'
    '<rect x="5" y="5" width="90" height="50" fill="#c86432"/>'
    '<circle cx="50" cy="30" r="15" fill="#000"/></svg>'
)


def made(folder: Path, name: str, art: bytes, *options: str) -> tuple[bytes, bytes]:
    """The print file and that in CMYK."""
    (folder / name).write_bytes(art)
    (folder / "press.icc").write_bytes(PRESS)
    words = [
        "make",
        str(folder / name),
        "--out",
        str(folder / "out"),
        "--cmyk",
        str(folder / "press.icc"),
        *options,
    ]
    result = CliRunner().invoke(app, words)
    assert result.exit_code == 0, result.output
    return tuple((folder / f"out/sheet-01.{kind}.pdf").read_bytes() for kind in ("print", "cmyk"))  # type: ignore[return-value]


def by_littlecms(rgb: np.ndarray) -> np.ndarray:
    """(…, 4) inks, as the colour engine takes them by the profile."""
    transform = ImageCms.buildTransform(
        ImageCms.createProfile("sRGB"),
        ImageCms.ImageCmsProfile(io.BytesIO(PRESS)),
        "RGB",
        "CMYK",
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )
    return np.asarray(ImageCms.applyTransform(Image.fromarray(rgb), transform))


def test_a_photograph_is_in_four_inks_and_the_press_is_the_output_intent(tmp_path: Path) -> None:
    rng = np.random.default_rng(1)
    photo = np.dstack([rng.integers(0, 256, (80, 120, 3), np.uint8), np.full((80, 120), 255, np.uint8)])
    file = io.BytesIO()
    Image.fromarray(photo).save(file, "PNG")
    _, data = made(tmp_path, "photo.png", file.getvalue(), "--copies", "2")
    with pikepdf.open(io.BytesIO(data)) as pdf:
        images = [
            each
            for each in pdf.objects
            if isinstance(each, pikepdf.Stream) and each.get("/SMask") is not None
        ]
        (picture,) = images
        assert picture.ColorSpace == pikepdf.Name.DeviceCMYK
        inks = np.frombuffer(picture.read_bytes(), np.uint8).reshape(
            int(picture.Height), int(picture.Width), 4
        )
        assert (inks == by_littlecms(photo[..., :3])).all()
        (intent,) = pdf.Root.OutputIntents
        assert str(intent.OutputConditionIdentifier) == "Ferry press, matt paper"
        assert (intent.DestOutputProfile.read_bytes(), intent.DestOutputProfile.N) == (PRESS, 4)
        page = pdf.pages[0]
        assert [float(n) for n in page.TrimBox] == pytest.approx([0, 0, 595.276, 841.89], abs=0.01)
        for stream in [page, *(each for each in pdf.objects if isinstance(each, pikepdf.Stream))]:
            if isinstance(stream, pikepdf.Page) or stream.get("/Subtype") == pikepdf.Name.Form:
                used = {str(each.operator) for each in pikepdf.parse_content_stream(stream)}
                assert not used & {"rg", "RG", "g", "G"}


def test_curves_are_in_inks_and_black_is_black_ink_alone(tmp_path: Path) -> None:
    rgb, data = made(tmp_path, "boat.svg", SVG.encode(), "--copies", "1")
    assert data == in_cmyk(rgb, PRESS)  # the same for the same file
    with pikepdf.open(io.BytesIO(data)) as pdf:
        fills = {
            tuple(round(float(each), 4) for each in instruction.operands)
            for stream in pdf.objects
            if isinstance(stream, pikepdf.Stream) and stream.get("/Subtype") == pikepdf.Name.Form
            for instruction in pikepdf.parse_content_stream(stream)
            if str(instruction.operator) == "k"
        }
    orange = by_littlecms(np.array([[[200, 100, 50]]], np.uint8)).reshape(4) / 255
    assert (0, 0, 0, 1) in fills
    assert any(np.allclose(fill, orange, atol=0.005) for fill in fills)
    # Rendered by another program it looks alike, marks and all.
    pages = [pypdfium2.PdfDocument(each)[0].render(scale=2).to_numpy().astype(int) for each in (rgb, data)]
    assert (np.abs(pages[0] - pages[1]).max(axis=2) > 90).mean() < 0.002


def test_text_of_labels_and_codes_stay_in_one_plate() -> None:
    assert inks_of((0, 0, 0), PRESS) == (0, 0, 0, 1)
    assert inks_of((1, 1, 1), PRESS) == (0, 0, 0, 0)


def test_what_is_no_press_is_refused(tmp_path: Path) -> None:
    assert is_cmyk(PRESS)
    assert not is_cmyk(SRGB)
    assert read_profile(PRESS) == "Ferry press, matt paper"
    with pytest.raises(NotCmyk, match="four inks"):
        in_cmyk(b"never read", SRGB)
    art = tmp_path / "disc.png"
    art.write_bytes(drawings.png(drawings.coverage(drawings.disc(100))[0]))
    for bad in (SRGB, b"no profile", PRESS[:300], PRESS[:128] + bytes(4000)):
        profile = tmp_path / "bad.icc"
        profile.write_bytes(bad)
        words = ["make", str(art), "--out", str(tmp_path / "out"), "--cmyk", str(profile)]
        result = CliRunner().invoke(app, words)
        assert (result.exit_code, result.output.count("\n")) == (2, 1), result.output


def test_what_a_press_cannot_print_is_told_and_struck_through() -> None:
    """Its green is dull: a screen's green is beyond it, its own paper, brown and greys are not."""
    colours = np.array([[0, 255, 0], [255, 255, 255], [120, 80, 60], [128, 128, 128], [0, 0, 255]], np.uint8)
    rgba = np.dstack([np.tile(colours[None], (40, 1, 1)), np.full((40, 5), 255, np.uint8)]).astype(np.uint8)
    where = beyond(rgba, PRESS)
    assert where.all(axis=0).tolist() == [True, False, False, False, True]
    rgba[..., 3] = 0
    assert not beyond(rgba, PRESS).any()  # nothing is printed there
    shown = hatched(proofed(rgba, PRESS), where)
    changed = (shown[..., :3] != proofed(rgba, PRESS)[..., :3]).any(axis=2)
    assert changed.any(axis=0).tolist() == [True, False, False, False, True]
    assert not beyond(
        np.dstack([rgba[..., :3], np.full((40, 5), 255, np.uint8)]).astype(np.uint8), SRGB
    ).any()
