"""What leaves the search for arrivals: the command line and the web API return these."""

from __future__ import annotations

from typing import Literal

from pydantic import ConfigDict, Field

from neatpatch.core.common.records import Record
from neatpatch.core.pictures.skipped import SkippedPicture


class ShownIn(Record):
    """A picture that shows a mark, or that could have and does not. Pixels of that picture."""

    path: str
    taken_at: str | None
    x_px: float
    y_px: float
    shows: bool


class ArrivedSpot(Record):
    """A mark that kept its place on the sensor, and when. Pixels of the largest picture.

    ``depth``, ``outer_px``: at the smallest aperture of all pictures. ``could_see``: pictures whose
    aperture and content would have shown it. ``confidence``: 0 to 1, that it is there at all;
    ``dates_confidence``: that both its ends are told by the right pictures. Dates are capture
    times. ``shown_in``: some pictures that show it, and those just
    before and after that do not.
    """

    id: str
    x_px: float
    y_px: float
    depth: float
    outer_px: float
    seen_in: int
    could_see: int
    confidence: float
    dates_confidence: float
    last_without: str | None
    first_with: str | None
    last_with: str | None
    first_without_again: str | None
    shown_in: tuple[ShownIn, ...] = ()


class Arrivals(Record):
    """Marks that keep their place in ordinary pictures of one body.

    ``width_px``, ``height_px``: of the pictures that the places are told in, not turned.
    ``f_number``: the smallest aperture among them, which depths and widths are told for.
    """

    schema_: Literal["neatpatch.arrivals/1"] = Field("neatpatch.arrivals/1", alias="schema")
    spots: tuple[ArrivedSpot, ...]
    frames_used: int
    frames_skipped: tuple[SkippedPicture, ...]
    width_px: int = 0
    height_px: int = 0
    camera: str | None = None
    sensor_mm: tuple[float, float] | None = None
    f_number: float | None = None

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )
