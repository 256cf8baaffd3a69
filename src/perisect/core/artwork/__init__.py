"""Station 1: pictures, their pixels and their background."""

from perisect.core.artwork.decode import ArtworkError, Header, decode_rgba, read_header
from perisect.core.artwork.picture import Background, PictureFacts, describe

__all__ = ["ArtworkError", "Background", "Header", "PictureFacts", "decode_rgba", "describe", "read_header"]
