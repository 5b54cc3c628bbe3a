"""Rows of what was practised; nothing of it touches the record."""
