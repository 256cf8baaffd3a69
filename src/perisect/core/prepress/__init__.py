"""Station 4: the print file."""

from perisect.core.prepress.print_file import (
    EncodedPicture,
    PrintDesign,
    PrintedCard,
    PrintedShape,
    encode_curves,
    encode_picture,
    write_print_pdf,
)

__all__ = [
    "EncodedPicture",
    "PrintDesign",
    "PrintedCard",
    "PrintedShape",
    "encode_curves",
    "encode_picture",
    "write_print_pdf",
]
