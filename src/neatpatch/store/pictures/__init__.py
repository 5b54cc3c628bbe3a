"""Rows of folders of ordinary pictures."""
