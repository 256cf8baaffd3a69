"""Files that are there whole or not at all."""

import secrets
from pathlib import Path


def write_whole(path: Path, data: bytes) -> None:
    """Write a file beside its place under a name that nothing has, then move it there; a link there is replaced.

    Raises:
        OSError: it cannot be written; nothing is left behind.
    """
    aside = path.with_name(f".{secrets.token_hex(8)}.part")
    try:
        with aside.open("xb") as file:
            file.write(data)
        aside.replace(path)
    except BaseException:
        aside.unlink(missing_ok=True)
        raise
