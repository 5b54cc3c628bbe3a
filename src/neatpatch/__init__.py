"""Neat Patch: measured dust maps from stopped-down test frames."""

__version__ = "0.1.0"
