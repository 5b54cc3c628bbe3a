"""Visits opened, loaded, changed and shown."""
