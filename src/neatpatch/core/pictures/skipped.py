"""A picture of many that was passed over."""

from __future__ import annotations

from neatpatch.core.common.records import Record


class SkippedPicture(Record):
    """A picture that could not be used, and why."""

    path: str
    why: str
