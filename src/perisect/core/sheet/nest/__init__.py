"""True-shape nesting: pieces turned into each other's hollows.

To read: `question` (what is asked, and the answer), `search` (sheet after sheet, two searches each), `one_sheet` (adds
one copy after another and presses them together), `overlaps` on a `board` (the raster; `tables` and `moves` for few
designs, `transforms` for many, over `pairs` and `laid`), `settle` (exact places), `pockets` (fills what is left over).
"""

from perisect.core.sheet.nest.question import Nest, NestQuestion
from perisect.core.sheet.nest.search import PATIENCE, USUAL_SHARE, SearchDied, in_threads, nest

__all__ = ["PATIENCE", "USUAL_SHARE", "Nest", "NestQuestion", "SearchDied", "in_threads", "nest"]
