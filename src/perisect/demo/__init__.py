"""The shipped shop: the gift kiosk of an invented river ferry."""
