"""All that a worker needs, loaded once in the process that workers are forked from.

Never imported elsewhere: a polite kill goes to the whole process group, and that process, like its
workers, leaves the end to the server.
"""

from __future__ import annotations

import signal

import scipy.fft
import scipy.optimize
import scipy.special  # noqa: F401

import neatpatch.core.measure.mapping
import neatpatch.images.raw
import neatpatch.images.read
import neatpatch.images.tiles
import neatpatch.jobs.picture_worker
import neatpatch.jobs.worker  # noqa: F401

signal.signal(signal.SIGTERM, signal.SIG_IGN)
