"""Rows of paired devices."""
