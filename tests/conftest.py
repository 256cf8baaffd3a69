"""Drawn test art whose true shapes are known."""
