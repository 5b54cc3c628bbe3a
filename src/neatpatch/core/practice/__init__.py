"""Exercises: what is asked, what is right, what to repeat."""
