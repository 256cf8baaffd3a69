"""Pictures of sheets that are sent in."""

from fastapi import UploadFile

from perisect.api.problems import Problem

MOST = 60 << 20


def picture_in(file: UploadFile, remedy: str = "Scan the sheet at 300 ppi.") -> bytes:
    """The bytes of a scan or a photo, refused with 413 where they are too many."""
    data = file.file.read(MOST + 1)
    if len(data) > MOST:
        raise Problem(413, f"The picture is larger than {MOST >> 20} MB.", remedy)
    return data
