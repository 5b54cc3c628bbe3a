"""Compare rows with truth: found, false, fragments, and the errors of every figure."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from neatpatch.core.common.records import SpotMap

Truth = dict[str, Any]


@dataclass(frozen=True)
class Row:
    """A detection, of ours or of another detector: place, and what else is known."""

    x_px: float
    y_px: float
    outer_px: float
    kind: str = "speck"
    site: str = "sensor"
    depth: float = 0.0
    particle_um: float | None = None


_LISTS = (
    "missed",
    "kind_right",
    "site_right",
    "position",
    "position_bound",
    "outer",
    "size",
)


@dataclass
class Score:
    """Counts and errors, to be added up over frames."""

    wanted: int = 0
    found: int = 0
    missed_apart: int = 0
    false: int = 0
    fragments: int = 0
    rows: int = 0
    frames: int = 0
    missed: list[str] = field(default_factory=list)
    by_kind: dict[str, list[int]] = field(default_factory=dict)
    kind_right: list[bool] = field(default_factory=list)
    site_right: list[bool] = field(default_factory=list)
    position: list[float] = field(default_factory=list)
    position_bound: list[float] = field(default_factory=list)
    outer: list[float] = field(default_factory=list)
    size: list[float] = field(default_factory=list)

    def __iadd__(self, other: Score) -> Score:
        for name in ("wanted", "found", "missed_apart", "false", "fragments", "rows", "frames"):
            setattr(self, name, getattr(self, name) + getattr(other, name))
        for name in _LISTS:
            getattr(self, name).extend(getattr(other, name))
        for kind, (found, wanted) in other.by_kind.items():
            mine = self.by_kind.setdefault(kind, [0, 0])
            mine[0] += found
            mine[1] += wanted
        return self


LEAST_SNR = 12.0


def reach_px(truth: Truth) -> float:
    """How far a row may lie from the truth and still mean the same thing."""
    return max(4.0, 0.5 * float(truth["outer_px"]))


def pair_up(truths: Sequence[Truth], rows: Sequence[Row]) -> list[tuple[int, int]]:
    """One row for each truth, the closest in units of its size first; same kinds preferred."""
    options = []
    for i, truth in enumerate(truths):
        for j, row in enumerate(rows):
            distance = float(np.hypot(row.x_px - truth["x_px"], row.y_px - truth["y_px"]))
            if distance <= reach_px(truth):
                other_kind = 0.0 if row.kind == own_kind(truth) else 0.2
                options.append((distance / max(8.0, truth["outer_px"]) + other_kind, i, j))
    pairs: list[tuple[int, int]] = []
    used_truths: set[int] = set()
    used_rows: set[int] = set()
    for _, i, j in sorted(options):
        if i not in used_truths and j not in used_rows:
            used_truths.add(i)
            used_rows.add(j)
            pairs.append((i, j))
    return pairs


def rows_of(spot_map: SpotMap) -> list[Row]:
    return [
        Row(s.x_px, s.y_px, s.outer_px, s.kind, s.site, s.depth, s.particle_um)
        for s in spot_map.spots
        if s.site != "scene"
    ]


def own_kind(truth: Truth) -> str:
    """Our word for a truth's kind."""
    return "soft" if truth["kind"] == "lens" else str(truth["kind"])


def score(truths: Sequence[Truth], rows: Sequence[Row], name: str = "") -> Score:
    """Score one frame's rows. A row inside a found thing's outline is a fragment, else false."""
    pairs = pair_up(truths, rows)
    matched = {i for i, _ in pairs}
    result = Score(frames=1, rows=len(rows))
    for i, truth in enumerate(truths):
        if truth["snr"] < LEAST_SNR:
            continue
        tally = result.by_kind.setdefault(own_kind(truth), [0, 0])
        tally[1] += 1
        result.wanted += 1
        if i in matched:
            tally[0] += 1
            result.found += 1
        else:
            apart = stands_apart(truth, truths)
            result.missed_apart += apart
            result.missed.append(
                f"{name}:{truth['id']} {truth['kind']} snr {truth['snr']:.0f}"
                + ("" if apart else ", touching another")
            )
    paired_rows = {j for _, j in pairs}
    for j, row in enumerate(rows):
        if j not in paired_rows:
            inside = any(_inside(row, t) for t in truths)
            result.fragments += inside
            result.false += not inside
    for i, j in pairs:
        _errors(result, truths[i], rows[j])
    return result


def stands_apart(truth: Truth, truths: Sequence[Truth]) -> bool:
    """Further from every other thing than half the sum of their outer widths."""
    return all(
        other is truth
        or np.hypot(other["x_px"] - truth["x_px"], other["y_px"] - truth["y_px"])
        > (other["outer_px"] + truth["outer_px"]) / 2
        for other in truths
    )


def _inside(row: Row, truth: Truth) -> bool:
    distance = np.hypot(row.x_px - truth["x_px"], row.y_px - truth["y_px"])
    return bool(distance < 0.6 * truth["outer_px"])


def _errors(result: Score, truth: Truth, row: Row) -> None:
    if truth["snr"] >= 30:
        result.kind_right.append(row.kind == own_kind(truth))
        result.site_right.append(row.site == ("lens" if truth["kind"] == "lens" else "sensor"))
    if truth["kind"] != "speck":
        return
    if truth["snr"] >= 30:
        result.position_bound.append(0.42 * truth["outer_px"] / truth["snr"])
        result.position.append(float(np.hypot(row.x_px - truth["x_px"], row.y_px - truth["y_px"])))
    if truth["snr"] >= 50:
        result.outer.append(abs(row.outer_px / truth["outer_px"] - 1))
        if row.particle_um is not None:
            result.size.append(abs(row.particle_um / truth["size_um"] - 1))
