"""`perisect look`: what is behind the art of pictures, and the pictures without it."""

import io
import os
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, PngImagePlugin

from perisect.core.artwork import ArtworkError, Judged, MendRecipe, Verdict, judge
from perisect.core.artwork.mend import page_art
from perisect.core.job import DesignRecipe, trace_artwork
from perisect.core.job.artwork_check import artwork_findings, background_finding
from perisect.core.job.traced import Seen
from perisect.offline.read import ReadError, read_picture, title_of
from perisect.offline.whole import write_whole

MADE_BY = "Perisect look"


class LookError(Exception):
    """Nothing is looked at; the text says why."""


@dataclass
class Looked:
    """What was seen of each picture, and what went wrong with those that could not be read."""

    seen: list[dict[str, Any]] = field(default_factory=list)
    errors: list[str] = field(default_factory=list)


def look(art: Sequence[Path], clean: Path | None, force: bool) -> Looked:
    """Judge pictures; with `clean`, write each as it would be after the removal that is offered.

    Args:
        force: replace files that were not written here.

    Raises:
        LookError: the folder cannot be written or holds foreign files of these names.
    """
    names = _names(art)
    if clean is not None:
        _claim(clean, names, art, force)
    looked = Looked()
    for path, name in zip(art, names, strict=True):
        try:
            seen, rgba = _look_at(path, name)
            if clean is not None:
                _write(clean / f"{name}.png", rgba)
        except ReadError as error:
            looked.errors.append(str(error))
            seen = {"name": name, "error": str(error)}
        except OSError as error:
            raise LookError(f"{clean} cannot be written: {error.strerror}.") from error
        looked.seen.append(seen)
    return looked


def _names(art: Sequence[Path]) -> list[str]:
    """A name for each picture: its file's without the ending, numbered where two share one."""
    names: list[str] = []
    for path in art:
        name, number = path.stem, 1
        while name in names:
            number += 1
            name = f"{path.stem}-{number}"
        names.append(name)
    return names


def _claim(folder: Path, names: Sequence[str], art: Sequence[Path], force: bool) -> None:
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise LookError(f"{folder} cannot be written: {error.strerror}.") from error
    if not os.access(folder, os.W_OK):
        raise LookError(f"{folder} cannot be written.")
    originals = {path.resolve() for path in art}
    for name in names:
        target = folder / f"{name}.png"
        if target.resolve() in originals:
            raise LookError(f"{target} is one of the pictures themselves: take another folder.")
        if os.path.lexists(target) and not force and not _is_ours(target):
            raise LookError(f"{target} was not written here: take another folder, or --force to replace it.")


def _is_ours(path: Path) -> bool:
    try:
        with Image.open(path) as picture:
            return picture.info.get("Software") == MADE_BY
    except (OSError, ValueError, Image.DecompressionBombError):
        return False


def _write(path: Path, rgba: NDArray[np.uint8]) -> None:
    told = PngImagePlugin.PngInfo()
    told.add_text("Software", MADE_BY)
    file = io.BytesIO()
    Image.fromarray(rgba).save(file, "PNG", pnginfo=told, compress_level=2)
    write_whole(path, file.getvalue())


def _look_at(path: Path, name: str) -> tuple[dict[str, Any], NDArray[np.uint8]]:
    """What is seen of a picture, and its (h, w, 4) pixels after the removal that is offered."""
    _, decoded = read_picture(path)
    height, width = decoded.rgba.shape[:2]
    judged = judge(decoded.rgba)
    recipe = _offered(judged)
    as_it_is = DesignRecipe(id="d", name=title_of(path), artwork="0" * 64)
    cleaned = as_it_is.model_copy(update={"mend": recipe})
    page = page_art(decoded.rgba, judged, recipe)
    try:
        traced, _ = trace_artwork(decoded, recipe, seen=Seen(judged, page))
        offered = None if recipe.is_nothing else background_finding(as_it_is, traced)
        findings = [*([offered] if offered else []), *artwork_findings(cleaned, traced)]
        told = [found.model_dump(exclude={"design", "remedy", "sheet"}) for found in findings]
    except ArtworkError as error:
        told = [{"code": "nothing_to_cut", "severity": "stop", "text": f"{error.title} {error.detail}"}]
    told += [{"code": "note", "severity": "good", "text": note} for note in decoded.notes]
    verdict = Verdict.CLEAR if judged.verdict is Verdict.FEATHERED else judged.verdict
    return {
        "name": name,
        "width_px": width,
        "height_px": height,
        "verdict": verdict.value,
        "confidence": round(judged.confidence, 3),
        "findings": told,
    }, page.rgba


def _offered(judged: Judged) -> MendRecipe:
    if judged.verdict is Verdict.PLAIN or judged.verdict is Verdict.CHECKERBOARD:
        return MendRecipe.model_validate({"background": judged.verdict.value})
    return MendRecipe()
