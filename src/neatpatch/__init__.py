"""Neat Patch: measured dust maps from stopped-down test frames."""

import os

# The equations solved here are small: several threads at one of them only wait for each other, and
# every core has a worker of its own. It must be said before numpy is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
