"""Exercises drawn, answered and kept."""
