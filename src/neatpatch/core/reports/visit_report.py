"""What a visit's report says, block by block; how it is set on paper is not known here.

Figures come with what is not sure about them. A count of visible spots is told with the counts that
a limit of visibility a third of a stop earlier or later would give.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from neatpatch.core.common.decisions import SWABS
from neatpatch.core.common.records import Given, Record, Spot, SpotMap
from neatpatch.core.common.words import counted
from neatpatch.core.compare.comparison import ComparedSpot, Comparison, Status
from neatpatch.core.reports.map_drawing import drawing_words, map_drawing
from neatpatch.core.reports.step_words import STEP_WORDS, counts_words, result_words, use_words
from neatpatch.core.visit.outcomes import StepOutcome
from neatpatch.core.visit.trail import TrailStep, relevant_spots

Paper = Literal["a4", "letter"]
_THIRD_OF_A_STOP = 2 ** (1 / 6)
_SURE_SNR, _SIZE_SURE, _SIZE_FAINT = 25.0, 0.05, 0.2
"""Sizes are known to the second, below the first to the third (docs/benchmarks.md)."""
_WORST = 4
_SITES = ("sensor", "unsure")
_FATES: dict[Status, str] = {
    "gone": "removed",
    "stayed": "still there",
    "moved": "moved",
    "new": "new",
    "fainter": "fainter",
    "unseen": "not told",
}


class Letterhead(Given):
    """Whose report it is; ``paper``: the size it is printed on."""

    name: str = Field(default="", max_length=120)
    address: str = Field(default="", max_length=400)
    paper: Paper = "a4"


class FrameShown(Record):
    """A frame of the report: words about it and its drawing (SVG), with what that shows."""

    title: str
    words: tuple[str, ...]
    drawing: str
    drawing_words: str


class Figure(Record):
    """One figure before and after, with what is not sure about it."""

    name: str
    before: str
    after: str
    sure: str


class StepLine(Record):
    """One step as done."""

    when: str
    step: str
    did: str
    counts: str
    used: str


class Closeup(Record):
    """A spot enlarged before and after; pictures are named by ``before`` and ``after``."""

    words: str
    before: str | None
    after: str | None


class Report(Record):
    """All of a visit's report, in the order it is read."""

    title: str
    letterhead: Letterhead
    made: str
    summary: str
    facts: tuple[tuple[str, str], ...]
    frames: tuple[FrameShown, ...]
    same_sensor: str
    figures: tuple[Figure, ...]
    closeups: tuple[Closeup, ...]
    steps: tuple[StepLine, ...]
    remarks: str
    next_look: str
    cautions: tuple[str, ...]
    limits: tuple[str, ...]


class Counted(Record):
    """A frame's map as it counts: ``wall`` are ids of the target's own marks."""

    spot_map: SpotMap
    wall: frozenset[str] = frozenset()

    @property
    def spots(self) -> list[Spot]:
        """Spots that lie on the sensor, or may."""
        return [s for s in self.spot_map.spots if s.site in _SITES and s.id not in self.wall]

    @property
    def aperture_known(self) -> bool:
        """Whether what is visible at other apertures can be worked out from the frame."""
        return self.spot_map.frames[0].f_number is not None

    def visible(self, works_at: float) -> list[Spot]:
        """Those visible at an aperture; none where the frame's own is not known."""
        return [s for s in relevant_spots(self.spot_map, works_at) if s.id not in self.wall]


def visible_words(frame: Counted, works_at: float) -> str:
    """A count with its doubt, as ``14 (12 to 15)``."""
    if not frame.aperture_known:
        return "unknown: no aperture recorded"
    low, mid, high = (
        len(frame.visible(works_at * by)) for by in (1 / _THIRD_OF_A_STOP, 1.0, _THIRD_OF_A_STOP)
    )
    return f"{mid or 'none'} ({low} to {high})" if low != high else str(mid or "none")


def figures_of(before: Counted | None, after: Counted | None, works_at: float) -> list[Figure]:
    """Figures of one or two frames."""
    rows: list[tuple[str, Callable[[Counted], str], str]] = [
        (
            f"Visible at f/{works_at:g}",
            lambda c: visible_words(c, works_at),
            "in brackets: with the limit of visibility a third of a stop earlier or later",
        ),
        (
            "All spots on the sensor",
            lambda c: str(len(c.spots) or "none"),
            "the palest may be missed, and come and go between frames",
        ),
        (
            "Of them inside the filter",
            lambda c: str(sum(s.inside_filter for s in c.spots) or "none"),
            "too sharp for the outer glass; only a service reaches them",
        ),
        ("Largest shadow", _largest, "of the mark that takes most light"),
        (
            "Light taken in all",
            lambda c: f"{c.spot_map.summary.covered_ppm:.0f} ppm",
            "share of the frame's light that the spots take",
        ),
        ("Filter stack height", _height, "where the dust lies above the photosites"),
    ]
    return [
        Figure(
            name=name,
            before=tell(before) if before else "",
            after=tell(after) if after else "",
            sure=sure,
        )
        for name, tell, sure in rows
    ]


def _largest(frame: Counted) -> str:
    worst = worst_first(frame.spots)
    if not worst or worst[0].outer_um is None:
        return "none" if not worst else "size unknown"
    spot = worst[0]
    sure = _SIZE_SURE if spot.snr >= _SURE_SNR else _SIZE_FAINT
    return f"{spot.outer_um:.0f} ± {max(1.0, sure * (spot.outer_um or 0)):.0f} µm"


def _height(frame: Counted) -> str:
    optics = frame.spot_map.optics
    known = {"fitted": "measured", "given": "as entered", "assumed": "assumed"}
    if optics.height_mm is None:
        return "unknown"
    return f"{optics.height_mm:.2f} mm, {known.get(optics.height_source, optics.height_source)}"


def worst_first(spots: Collection[Spot]) -> list[Spot]:
    """Spots sorted by light taken, descending."""
    return sorted(spots, key=lambda s: -s.depth * s.outer_px)


@dataclass(frozen=True)
class WorstSpots:
    """One of the worst spots of two frames, and where to look for it in each, in pixels.

    ``there``: in the first frame, None where it is new. ``here``: in the last.
    """

    words: str
    there: tuple[float, float] | None
    here: tuple[float, float]
    outer_px: float


def worst_spots_of(
    before: Counted, after: Counted, comparison: Comparison, works_at: float
) -> list[WorstSpots]:
    """The few spots that take most light in either frame, those visible in the work first."""
    old, new = ({s.id: s for s in c.spots} for c in (before, after))
    seen = {id(s) for c in (before, after) for s in c.visible(works_at)}

    def spots_of(c: ComparedSpot) -> list[Spot]:
        both = old.get(c.before or ""), new.get(c.after or "")
        return [s for s in both if s is not None]

    def weight(c: ComparedSpot) -> tuple[bool, float]:
        return max((id(s) in seen, s.depth * s.outer_px) for s in spots_of(c))

    fates = [c for c in comparison.spots if spots_of(c)]
    return [
        _worst(c, old.get(c.before or ""), new.get(c.after or ""))
        for c in sorted(fates, key=weight, reverse=True)[:_WORST]
    ]


def _worst(fate: ComparedSpot, was: Spot | None, now: Spot | None) -> WorstSpots:
    spot = was or now
    assert spot is not None
    size = f", shadow {spot.outer_um:.0f} µm wide" if spot.outer_um is not None else ""
    return WorstSpots(
        words=f"{spot.kind.capitalize()}, {spot.zone}{size}: {_FATES[fate.status]}",
        there=(was.x_px, was.y_px) if was else None,
        here=(now.x_px, now.y_px) if now else (fate.x_px, fate.y_px),
        outer_px=spot.outer_px,
    )


def same_sensor_words(comparison: Comparison | None) -> str:
    """Whether before and after are the same sensor; empty for one frame."""
    if comparison is None:
        return ""
    said = comparison.fingerprint
    if comparison.same_sensor is True:
        return (
            "Before and after are the same sensor: the pattern of its photosites agrees in both "
            f"frames ({said.strength:.0f}; chance stays below {said.limit:.0f})."
        )
    if comparison.same_sensor is False:
        return (
            "The two frames' own patterns do not agree: before and after may not be the same "
            "sensor. The figures below prove nothing until that is settled."
        )
    return (
        "Whether before and after are the same sensor cannot be told from its pattern, which is "
        "too weak in these files; they were taken for the same by their records."
    )


def summary_words(
    before: Counted | None, after: Counted | None, comparison: Comparison | None, works_at: float
) -> str:
    """The result in one sentence."""
    if before is None:
        return "No frame that is fit to judge by was shot on this visit."
    seen = _seen_words(before, works_at)
    if after is None:
        return f"One frame was judged: {seen} visible at f/{works_at:g}."
    last = len(after.visible(works_at)) or "none"
    last = last if after.aperture_known else "an unknown number"
    words = f"{seen[0].upper()}{seen[1:]} visible at f/{works_at:g} before, {last} after."
    if comparison is None or not comparison.comparable:
        return f"{words} The two frames cannot be compared spot by spot."
    counts = counts_words(comparison.summary)
    return f"{words} {counts[0].upper()}{counts[1:]}."


def _seen_words(frame: Counted, works_at: float) -> str:
    if not frame.aperture_known:
        return "an unknown number of spots"
    n = len(frame.visible(works_at))
    return counted(n, "spot") if n else "no spots"


def step_lines(
    steps: Sequence[tuple[TrailStep, str, str]], outcomes: Mapping[int, StepOutcome]
) -> tuple[StepLine, ...]:
    """Steps with the time each was logged and what it took of the kit."""
    lines = []
    for step, when, took in steps:
        outcome = outcomes.get(step.id, StepOutcome(tested=False, result=None, comparison=None))
        used = "; ".join(p for p in (use_words(step.use), took) if p)
        counts = outcome.comparison.summary if outcome.comparison else None
        lines.append(
            StepLine(
                when=when,
                step=STEP_WORDS[step.step],
                did=result_words(outcome.result, outcome.tested),
                counts=counts_words(counts),
                used=used,
            )
        )
    return tuple(lines)


def cautions_for(steps: Collection[TrailStep]) -> tuple[str, ...]:
    """What whoever uses the camera next should know."""
    words = [
        "Work on a sensor is at the owner's risk; the camera's handbook, its maker's terms and "
        "local rules come first.",
        "Change lenses with the opening down, the power off, away from wind and dust.",
    ]
    if any(s.step in SWABS or s.step == "lift" for s in steps):
        words.append(
            "The filter on the sensor was touched in this visit. If streaks or scratches show "
            "later, go to a licensed repairer; do not wipe on."
        )
    return tuple(words)


def limits_of(frames: Collection[SpotMap]) -> tuple[str, ...]:
    """What the method cannot tell."""
    words = [
        "Only what casts a shadow at the apertures of the frames is seen; scratches of the filter "
        "and faults of the photosites are not judged.",
        "Sizes are those of shadows turned into particles by the stack's height; fluids on the "
        "glass are told by how light bends at their rim and may be missed.",
        "Counts of two frames differ by a few pale spots even where nothing was done.",
    ]
    if any(m.optics.height_source == "assumed" for m in frames):
        words.append("The height of the filter stack was assumed; sizes scale with it.")
    wrong = [c.message for m in frames for c in m.checks if c.level == "note"]
    return tuple(words + sorted(set(wrong)))


def frame_shown(title: str, frame: Counted, taken: str, works_at: float) -> FrameShown:
    """A frame with its drawing; ``taken``: when, in words."""
    record = frame.spot_map.frames[0]
    visible = {s.id for s in frame.visible(works_at)}
    shot = [
        f"f/{record.f_number:g}" if record.f_number else "aperture unknown",
        f"ISO {record.iso}" if record.iso else "",
    ]
    return FrameShown(
        title=title,
        words=(
            f"{_seen_words(frame, works_at)} visible at f/{works_at:g}",
            f"{taken}, {', '.join(p for p in shot if p)}",
        ),
        drawing=map_drawing(frame.spot_map, visible, frame.wall),
        drawing_words=drawing_words(frame.spot_map, visible, frame.wall),
    )
