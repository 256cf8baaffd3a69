"""What goes wrong with a device."""

from perisect.core.cutting.causes import CauseName


class DeviceError(Exception):
    """A device does not answer or refuses; the text says which and what to do, `cause` names it where it is known."""

    def __init__(self, text: str, cause: CauseName | None = None) -> None:
        super().__init__(text)
        self.cause = cause


class DeviceBusy(DeviceError):
    """Another run holds the device."""


class BadAddress(ValueError):
    """An address that no driver knows, or that this shop does not allow; the text says what to do."""
