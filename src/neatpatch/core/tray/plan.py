"""How one model comes apart: stages with their screws, ribbons and clips, in the order out.

Places are millimetres in the outline of the camera as it lies on its mat, from its upper left
corner, x right and y down. The plan of a model is kept and serves its next body.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from neatpatch.core.common.records import Given, Number, Record, Whole

Side = Literal["left", "right", "top", "bottom", "front", "back", "inside"]
Latch = Literal["flip_up", "slide_out", "push_on"]
LATCH_OPENS: dict[Latch, str] = {
    "flip_up": "flip its bar up with a fingernail, then draw the ribbon out level",
    "slide_out": "slide its bar out by a millimetre on both sides, then draw the ribbon out level",
    "push_on": "lift its plug straight up",
}
LATCH_SHUTS: dict[Latch, str] = {
    "flip_up": "push the ribbon home, square, then press its bar down flat",
    "slide_out": "push the ribbon home, square, then slide its bar in on both sides",
    "push_on": "press its plug straight down until it clicks",
}
_MOST_SCREWS = 40


class TrayPoint(Given):
    """A place in the outline."""

    x_mm: Number = Field(ge=0, le=300)
    y_mm: Number = Field(ge=0, le=300)


class ScrewGroup(Given):
    """Screws of one length and thread that come out together; each group has a field of its own.

    ``places``: where they sit, as far as it was noted; more or fewer than ``count`` is an error.
    """

    name: str = Field(min_length=1, max_length=60)
    side: Side
    count: Whole = Field(ge=1, le=_MOST_SCREWS)
    thread: str = Field(default="", max_length=30)
    driver: str = Field(default="", max_length=30)
    places: tuple[TrayPoint, ...] = Field(default=(), max_length=_MOST_SCREWS)

    @model_validator(mode="after")
    def _places_are_all(self) -> ScrewGroup:
        if self.places and len(self.places) != self.count:
            raise ValueError(
                f"{self.name}: {len(self.places)} places are noted for {self.count} screws"
            )
        return self


class Ribbon(Given):
    """A flat cable and how its socket holds it."""

    name: str = Field(min_length=1, max_length=60)
    latch: Latch = "flip_up"


class Stage(Given):
    """What comes off in one go: unscrewed, unlatched, unclipped, lifted."""

    name: str = Field(min_length=1, max_length=60)
    screws: tuple[ScrewGroup, ...] = Field(default=(), max_length=8)
    ribbons: tuple[Ribbon, ...] = Field(default=(), max_length=8)
    clips: Whole = Field(default=0, ge=0, le=20)
    note: str = Field(default="", max_length=400)

    @model_validator(mode="after")
    def _something_holds_it(self) -> Stage:
        if not (self.screws or self.ribbons or self.clips):
            raise ValueError(f"{self.name}: say what holds it: screws, ribbons or clips")
        return self


class TrayPlan(Given):
    """One model's way apart. ``outline``: width and height of the camera on its mat."""

    model: str = Field(min_length=1, max_length=80)
    outline: TrayPoint
    stages: tuple[Stage, ...] = Field(min_length=1, max_length=12)

    @model_validator(mode="after")
    def _can_be_told_apart(self) -> TrayPlan:
        names = [s.name for s in self.stages]
        if len(set(names)) != len(names):
            raise ValueError("two stages have the same name")
        groups = [g.name for s in self.stages for g in s.screws]
        if len(set(groups)) != len(groups):
            raise ValueError("two groups of screws have the same name; each has its own field")
        if min(self.outline.x_mm, self.outline.y_mm) < 30:
            raise ValueError("the outline of the camera must be 30 to 300 mm on each side")
        for group in (g for s in self.stages for g in s.screws):
            if any(p.x_mm > self.outline.x_mm or p.y_mm > self.outline.y_mm for p in group.places):
                raise ValueError(f"{group.name}: a place lies outside the outline")
        return self

    @property
    def groups(self) -> tuple[ScrewGroup, ...]:
        """All groups of screws, in the order out."""
        return tuple(g for s in self.stages for g in s.screws)


class MatField(Record):
    """A group's field on the mat: its letter, and the group."""

    letter: str
    group: ScrewGroup


def fields_of(plan: TrayPlan) -> tuple[MatField, ...]:
    """Fields in the order out, lettered from A; after Z comes AA."""
    return tuple(MatField(letter=_letter(n), group=g) for n, g in enumerate(plan.groups))


def _letter(n: int) -> str:
    return chr(65 + n) if n < 26 else chr(64 + n // 26) + chr(65 + n % 26)


def spread(group: ScrewGroup, outline: TrayPoint) -> tuple[TrayPoint, ...]:
    """Where the screws of a group are drawn: their noted places, else evenly along their side."""
    if group.places:
        return group.places
    w, h = outline.x_mm, outline.y_mm
    shares = [(i + 1) / (group.count + 1) for i in range(group.count)]
    along: dict[Side, tuple[float, float, float, float]] = {
        "left": (0.04, 0.0, 0.0, 1.0),
        "right": (0.96, 0.0, 0.0, 1.0),
        "top": (0.0, 0.06, 1.0, 0.0),
        "bottom": (0.0, 0.94, 1.0, 0.0),
        "front": (0.0, 0.3, 1.0, 0.0),
        "back": (0.0, 0.7, 1.0, 0.0),
        "inside": (0.0, 0.5, 1.0, 0.0),
    }
    x0, y0, dx, dy = along[group.side]
    return tuple(TrayPoint(x_mm=w * (x0 + dx * s), y_mm=h * (y0 + dy * s)) for s in shares)
