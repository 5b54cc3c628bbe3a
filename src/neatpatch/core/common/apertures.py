"""Apertures where nobody said another."""

DEFAULT_WORKS_AT = 16.0
"""The smallest aperture worked at, as an f-number, where nobody said another."""
