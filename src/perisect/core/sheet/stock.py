"""What can be printed on."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Stock:
    """A sheet, or a panel of a roll, print side up, in mm."""

    id: str
    name: str
    width_mm: float
    height_mm: float

    @property
    def area_mm2(self) -> float:
        """Area of the whole sheet."""
        return self.width_mm * self.height_mm


A4 = Stock("a4", "A4", 210.0, 297.0)
LETTER = Stock("letter", "Letter", 215.9, 279.4)
STOCKS = {stock.id: stock for stock in (A4, LETTER)}
