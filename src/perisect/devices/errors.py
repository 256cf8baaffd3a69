"""What goes wrong with a device."""


class DeviceError(Exception):
    """A device does not answer or refuses; the text says which and what to do."""


class DeviceBusy(DeviceError):
    """Another run holds the device."""


class BadAddress(ValueError):
    """An address that no driver knows, or that this shop does not allow; the text says what to do."""
