"""Rows of the record: retests, arrivals, exposures."""
