"""Perisect: from artwork to cut stickers and labels."""

__version__ = "0.1.0"
