"""What goes wrong with a device."""

from perisect.core.cutting.causes import CauseName


class DeviceError(Exception):
    """A device does not answer or refuses.

    Args:
        text: which device, and what to do.
        cause: name of the cause, where it is known.
        began: whether the device had begun, so that a sheet may have come out.
    """

    def __init__(self, text: str, cause: CauseName | None = None, began: bool = False) -> None:
        super().__init__(text)
        self.cause, self.began = cause, began


class DeviceBusy(DeviceError):
    """Another run holds the device."""


class BadAddress(ValueError):
    """An address that no driver knows, or that this shop does not allow; the text says what to do."""
