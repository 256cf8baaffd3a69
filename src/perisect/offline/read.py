"""Pictures from files."""

from pathlib import Path

from perisect.core.artwork import ArtworkError, Decoded, decode

MOST_BYTES = 200_000_000


class ReadError(Exception):
    """A picture cannot be read; the text says which and why, in one line."""


def read_picture(path: Path) -> tuple[bytes, Decoded]:
    """Bytes and pixels of a picture.

    Raises:
        ReadError: it cannot be read.
    """
    try:
        if path.stat().st_size > MOST_BYTES:
            raise ReadError(f"{path}: is larger than {MOST_BYTES // 1_000_000} MB.")
        data = path.read_bytes()
        return data, decode(data)
    except OSError as error:
        raise ReadError(f"{path}: cannot be read ({error.strerror}).") from error
    except ArtworkError as error:
        raise ReadError(f"{path}: {error.title} {error.detail}") from error
    except Exception as error:
        # A hostile file may lead a library to anything, and OpenCV's and Pillow's errors share no base but this.
        raise ReadError(f"{path}: cannot be read; it may be damaged. Save it again and try that.") from error


def title_of(path: Path) -> str:
    """A file's name without its ending, as it can be shown: what is no text in it is a question mark."""
    shown = "".join(letter if letter.isprintable() else "?" for letter in path.stem)[:120]
    return shown or "picture"
