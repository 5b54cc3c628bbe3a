"""Plain-text views of the core's records."""

from __future__ import annotations

from typing import TYPE_CHECKING

from neatpatch.core.common.words import counted

if TYPE_CHECKING:
    from neatpatch.core.advice import Advice
    from neatpatch.core.common.records import Spot, SpotMap
    from neatpatch.core.compare.comparison import Comparison
    from neatpatch.core.maps.prediction import Prediction


def map_text(spot_map: SpotMap) -> str:
    """A spot map for reading in a terminal."""
    lines = [_frame_line(spot_map), *_check_lines(spot_map), _optics_line(spot_map), ""]
    summary = spot_map.summary
    kinds = ", ".join(f"{n} {kind}" for kind, n in sorted(summary.by_kind.items()))
    visible = (
        "what is visible cannot be worked out: no aperture recorded"
        if summary.relevant is None
        else f"{summary.relevant} relevant"
    )
    lines.append(f"{counted(summary.count, 'spot')}, {visible}{': ' + kinds if kinds else ''}")
    if spot_map.spots:
        lines.append(
            f"{'id':>5} {'kind':8} {'site':7} {'x px':>8} {'y px':>8} {'depth %':>8} "
            f"{'width µm':>9} {'size µm':>8} {'shows':>6}"
        )
    lines += [_spot_line(s) for s in spot_map.spots]
    return "\n".join(lines)


def _frame_line(spot_map: SpotMap) -> str:
    f = spot_map.frames[0]
    aperture = f"f/{f.f_number:g}" if f.f_number else "aperture unknown"
    more = f" and {len(spot_map.frames) - 1} more" if len(spot_map.frames) > 1 else ""
    return f"{f.path}{more}: {f.width_px} x {f.height_px} {f.format}, {aperture}"


def _check_lines(spot_map: SpotMap) -> list[str]:
    lines = [
        f"{c.level}: {c.message} {c.remedy}".rstrip() for c in spot_map.checks if c.level != "ok"
    ]
    if len(spot_map.frames) > 1 and spot_map.moved is not True:
        movement = "was not moved" if spot_map.moved is False else "cannot be told to have moved"
        lines.append(
            f"note: The camera {movement} between these frames, so they do not prove the place. "
            "Shoot again from elsewhere."
        )
    return lines


def _optics_line(spot_map: SpotMap) -> str:
    o = spot_map.optics
    if o.height_mm is None:
        return "stack height unknown"
    return f"stack height {o.height_mm:.2f} mm ({o.height_source}), blur {o.blur_um or 0:.0f} µm"


def _spot_line(s: Spot) -> str:
    def number(value: float | None, width: int) -> str:
        return f"{value:{width}.0f}" if value is not None else " " * (width - 1) + "-"

    shows = f"f/{s.shows_from_f:g}" if s.shows_from_f else "-"
    place = "inside" if s.inside_filter else s.site
    return (
        f"{s.id:>5} {s.kind:8} {place:7} {s.x_px:8.1f} {s.y_px:8.1f} {100 * s.depth:8.2f} "
        f"{number(s.outer_um, 9)} {number(s.particle_um, 8)} {shows:>6}"
    )


def prediction_text(prediction: Prediction) -> str:
    """A prediction for reading in a terminal."""
    noticed = sum(s.noticed for s in prediction.spots)
    lines = [f"at f/{prediction.f_number:g}: {noticed} of {len(prediction.spots)} visible"]
    lines += [
        f"{s.id:>5} depth {100 * s.depth:7.3f} %  width {s.outer_px:7.1f} px"
        f"{'  noticed' if s.noticed else ''}"
        for s in prediction.spots
    ]
    return "\n".join(lines)


def comparison_text(comparison: Comparison) -> str:
    """A comparison for reading in a terminal."""
    s = comparison.summary
    lines = [f"not comparable: {reason}" for reason in comparison.why_not]
    lines.append(
        f"{s.before} before, {s.after} after: {s.gone} gone, {s.stayed} stayed, "
        f"{s.fainter} fainter, {s.moved} moved, {s.new} new ({s.removed_percent:g} % removed)"
    )
    if s.unseen:
        lines.append(f"{s.unseen} not told: neither frame decides")
    lines += [
        f"{c.status:7} {c.before or '-':>5} -> {c.after or '-':>5} {c.x_px:8.1f} {c.y_px:8.1f}"
        for c in comparison.spots
    ]
    return "\n".join(lines)


def advice_text(advice: Advice) -> str:
    """Advice for reading in a terminal."""
    lines = [f"{advice.title} ({advice.decision})", *(f"  {reason}" for reason in advice.why)]
    for heading, rows in (
        ("You need", advice.needs),
        ("Careful", [c.text for c in advice.cautions]),
        ("Not now", [f"{b.action.replace('_', ' ')}: {b.text}" for b in advice.barred]),
        ("Other ways", [f"{a.decision.replace('_', ' ')}: {a.why}" for a in advice.alternatives]),
    ):
        if rows:
            lines += ["", f"{heading}:", *(f"  - {row}" for row in rows)]
    return "\n".join(lines)
