"""A print file in the inks of a press: its pictures and colours through the ICC profile of printer and stock, which is
the file's output intent (ISO 32000-2, 14.11.5). Black that is black stays black ink alone, so that marks, codes and
small text print in one plate."""

import io
import zlib
from functools import lru_cache
from typing import Any

import numpy as np
import pikepdf
from PIL import Image, ImageCms

from perisect.core.artwork.errors import ArtworkError
from perisect.core.prepress.page import VERSION

FILLS = {"g", "rg"}
STROKES = {"G", "RG"}
BLACK, WHITE = (0.0, 0.0, 0.0, 1.0), (0.0, 0.0, 0.0, 0.0)


class NotCmyk(ArtworkError):
    """The profile is not one of a press with four inks."""

    def __init__(self) -> None:
        super().__init__(
            "This colour profile is not one of four inks (CMYK).",
            "Ask the print shop for the ICC profile of its press and paper.",
        )


def is_cmyk(profile: bytes) -> bool:
    """Whether an ICC profile is one of four inks, by its header (ICC.1:2022, 7.2)."""
    return profile[16:20] == b"CMYK"


def in_cmyk(pdf: bytes, profile: bytes) -> bytes:
    """The pages of a print file, every colour in the four inks of a profile; the same for the same file and profile.

    Raises:
        NotCmyk.
    """
    if not is_cmyk(profile):
        raise NotCmyk
    with pikepdf.open(io.BytesIO(pdf)) as file:
        for each in [some for some in file.objects if isinstance(some, pikepdf.Stream)]:
            kind = each.get("/Subtype")
            if kind == pikepdf.Name.Image and each.get("/ColorSpace") == pikepdf.Name.DeviceRGB:
                _picture(each, profile)
            elif kind == pikepdf.Name.Form:
                each.write(_content(each, profile))
        for page in file.pages:
            page.contents_coalesce()
            page.obj.Contents.write(_content(page, profile))
        file.Root.OutputIntents = pikepdf.Array([file.make_indirect(_intent(file, profile))])
        out = io.BytesIO()
        file.save(out, deterministic_id=True, min_version=VERSION)
        return out.getvalue()


@lru_cache(maxsize=4)
def _to_inks(profile: bytes) -> ImageCms.ImageCmsTransform:
    return ImageCms.buildTransform(
        ImageCms.createProfile("sRGB"),
        ImageCms.ImageCmsProfile(io.BytesIO(profile)),
        "RGB",
        "CMYK",
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )


@lru_cache(maxsize=4096)
def inks_of(rgb: tuple[float, float, float], profile: bytes) -> tuple[float, ...]:
    """Cyan, magenta, yellow, black, 0 to 1, of a colour whose levels are 0 to 1."""
    if max(rgb) == 0:
        return BLACK
    if min(rgb) == 1:
        return WHITE
    one = Image.new("RGB", (1, 1), tuple(round(level * 255) for level in rgb))
    shown = ImageCms.applyTransform(one, _to_inks(profile))
    assert shown is not None
    return tuple(round(int(ink) / 255, 4) for ink in np.asarray(shown).reshape(4))


def _picture(image: Any, profile: bytes) -> None:
    width, height = int(image.Width), int(image.Height)
    rgb = Image.frombytes("RGB", (width, height), image.read_bytes())
    inks = ImageCms.applyTransform(rgb, _to_inks(profile))
    assert inks is not None
    image.write(zlib.compress(inks.tobytes(), 6), filter=pikepdf.Name.FlateDecode)
    image.ColorSpace = pikepdf.Name.DeviceCMYK


def _content(stream: Any, profile: bytes) -> bytes:
    """A content stream with its colours in inks."""
    changed: list[Any] = []
    for instruction in pikepdf.parse_content_stream(stream):
        operator = str(instruction.operator)
        if operator in FILLS | STROKES:
            levels = [float(each) for each in instruction.operands]
            red, green, blue = levels * 3 if len(levels) == 1 else levels
            inks = [
                pikepdf.Object.parse(f"{ink:.4f}".encode()) for ink in inks_of((red, green, blue), profile)
            ]
            instruction = pikepdf.ContentStreamInstruction(
                inks, pikepdf.Operator("k" if operator in FILLS else "K")
            )
        changed.append(instruction)
    return pikepdf.unparse_content_stream(changed)


def _intent(file: pikepdf.Pdf, profile: bytes) -> pikepdf.Dictionary:
    read = ImageCms.ImageCmsProfile(io.BytesIO(profile))
    name = (ImageCms.getProfileDescription(read) or "").strip() or "Press"
    return pikepdf.Dictionary(
        Type=pikepdf.Name.OutputIntent,
        S=pikepdf.Name("/GTS_PDFX"),
        OutputConditionIdentifier=name,
        Info=name,
        DestOutputProfile=file.make_stream(profile, N=4),
    )
