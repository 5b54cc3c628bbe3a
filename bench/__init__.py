"""Accuracy and speed against known truth, and against general-purpose detectors."""

import neatpatch as neatpatch  # before numpy, whose threads it settles
