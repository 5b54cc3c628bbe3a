"""Folders that are watched: followed, and what appears in them taken in."""
