"""A printer that takes a PDF and gives back the printed sheet as a picture, `wire://host:port`."""

from collections.abc import Sequence

from perisect.core.cutting.causes import CauseName
from perisect.devices import wire
from perisect.devices.address import connect, parse
from perisect.devices.errors import DeviceError
from perisect.devices.protocols import PrintedSheet

SCHEME = "wire"
TIMEOUT_S = 120.0
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
            with connect(self._url, self._url.port or 0, self._allowed, TIMEOUT_S) as peer:
                wire.send(peer, {"ask": "print"}, pdf)
                head, png = wire.receive(peer)
        except OSError as error:
            raise DeviceError(
                "The printer does not answer. Switch it on and print again.", "printer offline"
            ) from error
        if "trouble" in head:
            text, cause = TROUBLES.get(str(head["trouble"]), (f"The printer says: {head['trouble']}.", None))
            raise DeviceError(text, cause)
        if "error" in head:
            raise DeviceError(f"The printer refused the sheet: {head['error']}.")
        return PrintedSheet(png, float(head["px_per_mm"]))
