"""The job itself: arrays and plain records in, records out. No files, database, web or clock."""

DEFAULT_WORKS_AT = 16.0
"""The smallest aperture worked at, as an f-number, where nobody said another."""
