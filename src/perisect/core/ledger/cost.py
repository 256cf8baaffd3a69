"""What sheets cost in stock and ink."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from perisect.core.sheet.equipment import PrinterRecipe, StockRecipe

MM2_PER_M2 = 1e6


@dataclass(frozen=True)
class Cost:
    """Prices in the shop's own money."""

    stock: float
    ink: float
    stickers: int

    @property
    def total(self) -> float:
        """Stock and ink."""
        return self.stock + self.ink

    @property
    def each(self) -> float:
        """Of one sticker; 0 when there is none."""
        return self.total / self.stickers if self.stickers else 0.0


def full_ink_px(rgba: NDArray[np.uint8]) -> float:
    """How many pixels of full ink on all channels an (h, w, 4) picture takes: a pixel takes as much as its
    coverage lets it and as it is darker than paper, mean over red, green and blue."""
    coverage = rgba[..., 3].astype(np.float32) / 255
    ink = 1 - rgba[..., :3].astype(np.float32).mean(axis=2) / 255
    return float((coverage * ink).sum())


def cost_of(
    stock: StockRecipe,
    printer: PrinterRecipe,
    sheets: int,
    panel_mm: float,
    ink_mm2: float,
    stickers: int,
) -> Cost:
    """Cost of sheets (or of panels `panel_mm` long of a roll, at its price a metre) with `ink_mm2` of full ink."""
    metres = sheets * panel_mm / 1000
    paid = stock.price * (metres if stock.kind == "roll" else sheets)
    return Cost(paid, ink_mm2 / MM2_PER_M2 * printer.ink_ml_m2 * printer.ink_price, stickers)
