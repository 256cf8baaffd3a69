"""The craft, computed: no HTTP, no SQL, no files, no clock, no unseeded randomness."""

ENGINE_VERSION = "14"
"""Part of every cache key: raise it when a result changes for the same bytes and recipe."""
