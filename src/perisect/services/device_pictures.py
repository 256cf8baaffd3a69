"""Pictures that devices send, as strange as any that is dropped: opened whole in the sandbox first."""

import io

import structlog
from PIL import Image

from perisect import sandbox
from perisect.core.artwork import ArtworkError
from perisect.devices.open import print_pdf
from perisect.devices.protocols import PlotterDriver, PrintedSheet
from perisect.services.devices import PrinterAt, allowed

log = structlog.get_logger()

MAX_PIXELS = 120_000_000
"""Most pixels of a device's picture. Chosen: a sheet of 330 x 490 mm at 600 ppi has 90 million."""


def print_at(printer: PrinterAt, pdf: bytes) -> PrintedSheet | None:
    """Print one page at a printer of the shop.

    Returns:
        The sheet as it came out; None where the printer does not show it, or shows what is no picture of a sheet.

    Raises:
        DeviceError: no such printer, or it refuses.
    """
    printed = print_pdf(printer.address, pdf, allowed())
    return printed if printed is not None and _is_sound(printed.png) else None


def photo_by(driver: PlotterDriver) -> bytes | None:
    """Return the plotter's picture (PNG) of the sheet as it lies there; None where it has none that can be opened.

    Raises:
        DeviceError: the plotter is gone.
    """
    photo = driver.photo()
    return photo if photo is not None and _is_sound(photo) else None


def _is_sound(png: bytes) -> bool:
    try:
        sandbox.call(_open, png)
    except (ArtworkError, sandbox.TooBusy, sandbox.WorkFailed) as error:
        log.warning("a device's picture is not used", bytes=len(png), reason=str(error)[:200])
        return False
    return True


def _open(png: bytes) -> None:
    """Decode a picture to its end. Runs in the sandbox.

    Raises:
        ArtworkError: it is none, or larger than any sheet.
    """
    # The limit for artwork is lower; this process reads the size first.
    Image.MAX_IMAGE_PIXELS = None
    try:
        with Image.open(io.BytesIO(png), formats=["PNG"]) as image:
            if image.width * image.height > MAX_PIXELS:
                raise ArtworkError(
                    "The device's picture is larger than any sheet.", "Look at the sheet itself."
                )
            image.load()
    except (OSError, SyntaxError, ValueError) as error:
        raise ArtworkError("The device's picture cannot be opened.", "Look at the sheet itself.") from error
