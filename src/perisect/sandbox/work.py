"""Kinds of work that readers do, named where one takes too long or too much memory."""

from dataclasses import dataclass

from perisect.core.artwork import ArtworkError
from perisect.core.catalogue import words
from perisect.core.message import says


@dataclass(frozen=True)
class Work:
    """A kind of work.

    Attributes:
        doing: code of what it does, as the subject of a sentence.
        advice: code of what to do when it takes too much.
    """

    doing: str
    advice: str

    def took_too_long(self, seconds: float) -> ArtworkError:
        """Return the refusal of work that was ended after `seconds`."""
        return self._refusal("took_too_long", seconds=round(seconds))

    def too_much_memory(self) -> ArtworkError:
        """Return the refusal of work that needed more memory than a reader has."""
        return self._refusal("too_much_memory")

    def _refusal(self, code: str, **params: int) -> ArtworkError:
        return ArtworkError(words(says(code, work=says(self.doing), **params)), words(says(self.advice)))


PICTURE = Work("work.picture", "remedy.smaller_picture")
PRINTING = Work("work.printing", "remedy.smaller_picture")
NEST = Work("work.nest", "remedy.shorter_nest")
SCAN = Work("work.scan", "remedy.smaller_scan")
LIST = Work("work.list", "remedy.shorter_list")
FONT = Work("work.font", "remedy.other_file")
PROFILE = Work("work.profile", "remedy.other_file")
COLOURS = Work("work.colours", "remedy.other_file")
FILE = Work("work.file", "remedy.other_file")
