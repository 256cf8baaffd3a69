"""A printer that takes a PDF and gives back the printed sheet as a picture, `wire://host:port`."""

from collections.abc import Sequence

from perisect.core.cutting.causes import CauseName
from perisect.devices import wire
from perisect.devices.address import connect, parse, time_limit
from perisect.devices.errors import DeviceError
from perisect.devices.protocols import PrintedSheet

SCHEME = "wire"
TIMEOUT_S = 120.0
"""Longest silence of a printer, s."""
MAX_PRINT_S = 300.0
"""Time for a sheet from its first byte to the picture of it, s. Chosen: a simulated printer takes seconds."""
MAX_PICTURE_BYTES = 100 << 20
"""Largest picture of a printed sheet. Chosen: 330 x 490 mm at 24 px/mm are 280 MB of pixels, some 60 MB as PNG."""
MAX_PX_PER_MM = 200.0
SILENT = "The printer stopped answering, so whether the sheet came out is not known. Look at the printer."
TROUBLES: dict[str, tuple[str, CauseName]] = {
    "jam": (
        "The paper jammed half way, and the sheet is lost. Switch the printer off, draw the sheet out the way it went "
        "in, and print it again; thick stock goes by the straight path.",
        "paper jam",
    ),
    "out of paper": (
        "The printer is out of paper. Lay stock in, sticker face as the card says, and print again.",
        "out of paper",
    ),
}
"""What a printer says, what it means for the sheet and what to do."""


class WirePrinter:
    """One connection a page."""

    def __init__(self, address: str, allowed: Sequence[str]) -> None:
        self._url, self._allowed = parse(address, (SCHEME,)), allowed

    def print(self, pdf: bytes) -> PrintedSheet:
        """Print one page.

        Raises:
            DeviceError: the printer is off or cannot read the file.
        """
        try:
            peer = connect(self._url, self._url.port or 0, self._allowed, TIMEOUT_S)
        except OSError as error:
            raise DeviceError(
                "The printer does not answer. Switch it on and print again.", "printer offline"
            ) from error
        try:
            with peer, time_limit(peer, MAX_PRINT_S):
                wire.send(peer, {"ask": "print"}, pdf)
                head, png = wire.receive(peer, MAX_PICTURE_BYTES)
        except OSError as error:
            raise DeviceError(SILENT, "printer offline", began=True) from error
        if "trouble" in head:
            text, cause = TROUBLES.get(str(head["trouble"]), (f"The printer says: {head['trouble']}.", None))
            raise DeviceError(text, cause)
        if "error" in head:
            raise DeviceError(f"The printer refused the sheet: {head['error']}.")
        try:
            px_per_mm = float(head["px_per_mm"])
        except (KeyError, TypeError, ValueError) as error:
            raise DeviceError(SILENT, began=True) from error
        if not 0 < px_per_mm < MAX_PX_PER_MM:
            raise DeviceError(SILENT, began=True)
        return PrintedSheet(png, px_per_mm)
