"""Fonts of the person's own: read in a process of its own, kept as they were written anew."""

import hashlib

from perisect import sandbox
from perisect.core.fonts.own import FontRefused, OwnFont, read_font
from perisect.store import blobs, fonts
from perisect.store.database import transaction


def take_in(data: bytes) -> str:
    """Take in a font; its key.

    Raises:
        FontRefused: it is none, or none that can be used.
        TooManyFonts, DiskFull.
    """
    blobs.need_room()
    found = sandbox.call(_read, data, kind=sandbox.work.FONT)
    if isinstance(found, str):
        raise FontRefused(found)
    key = hashlib.sha256(data).hexdigest()
    with transaction() as session:
        fonts.save(session, key, found)
    return key


def _read(data: bytes) -> OwnFont | str:
    """A font, or why it is refused: what the sandbox raises is told of pictures. Runs in the sandbox."""
    try:
        return read_font(data)
    except FontRefused as error:
        return str(error)
