"""Accuracy and speed against known truth, and against general-purpose detectors."""
