"""Station 6: what was measured."""

from perisect.core.ledger.slip import SlipReport, StickerSlip, WantedSticker, measure_slip
from perisect.core.ledger.wanted import wanted_stickers

__all__ = ["SlipReport", "StickerSlip", "WantedSticker", "measure_slip", "wanted_stickers"]
