"""Frames taken in, measured, matched to their camera, exported."""
