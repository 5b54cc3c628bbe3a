"""All that a worker needs, loaded once in the process that workers are forked from.

Never imported elsewhere: a polite kill goes to the whole process group, and that process, like its
workers, leaves the end to the server.
"""

from __future__ import annotations

import gc
import signal

gc.disable()

import scipy.fft  # noqa: E402 - loaded for the workers, as all of these
import scipy.optimize  # noqa: E402
import scipy.special  # noqa: E402, F401

import neatpatch.core.measure.map_building  # noqa: E402
import neatpatch.images.raw  # noqa: E402
import neatpatch.images.read  # noqa: E402
import neatpatch.images.tiles  # noqa: E402
import neatpatch.jobs.picture_worker  # noqa: E402
import neatpatch.jobs.worker  # noqa: E402, F401

gc.enable()
gc.freeze()  # what was loaded is never looked through again, so that all go on sharing it
signal.signal(signal.SIGTERM, signal.SIG_IGN)
