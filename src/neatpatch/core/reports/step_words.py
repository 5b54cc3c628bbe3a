"""Steps, what they used and what they did, in the words of a report."""

from __future__ import annotations

from neatpatch.core.common.facts import Result, Step
from neatpatch.core.common.records import Kind
from neatpatch.core.common.words import counted, duration, temperatures
from neatpatch.core.compare.comparison import ComparisonSummary
from neatpatch.core.stats.odds import KindOdds
from neatpatch.core.visit.trail import StepUse, Verdict

STEP_WORDS: dict[Step, str] = {
    "auto_clean": "Built-in shake",
    "air": "Air",
    "brush": "Sensor brush",
    "lift": "Lift",
    "dry_swab": "Dry swab",
    "dry_followup": "Dry follow-up",
    "wet_swab": "Wet swab",
    "corner_swab": "Corner swab",
    "clean_lens": "Lens cleaned",
    "service": "Service",
    "teardown": "Opened by a repairer",
}
RESULT_WORDS: dict[Result, str] = {
    "no_change": "changed nothing",
    "fewer": "helped",
    "cleared": "cleared it",
    "stirred": "only stirred it",
    "streaks": "left streaks",
    "worse": "made it worse",
    "unknown": "cannot be judged",
}
VERDICT_WORDS: dict[Verdict, str] = {
    "finished": "finished",
    "deferred": "postponed",
    "sent": "sent to a service",
    "given_up": "stopped",
}
_COUNTED = (
    ("runs", "run"),
    ("puffs", "puff"),
    ("dabs", "press", "presses"),
    ("strokes", "stroke"),
    ("swabs", "swab"),
    ("drops", "drop"),
)


def result_words(result: Result | None, tested: bool) -> str:
    """What a step did, said after its name."""
    return RESULT_WORDS[result or "unknown"] if tested else "not retested"


def counts_words(counts: ComparisonSummary | None) -> str:
    """Spots before and after a step, as ``9 of 12 spots removed, 3 stayed``; empty for none."""
    if counts is None:
        return ""
    if counts.before == 0 and counts.after == 0:
        return "neither frame shows a spot"
    parts = [
        f"{counts.gone} of {counted(counts.told, 'spot')} removed",
        f"{counts.stayed} stayed",
        f"{counts.fainter} fainter" if counts.fainter else "",
        f"{counts.moved} moved" if counts.moved else "",
        f"{counts.new} new" if counts.new else "",
        f"{counts.unseen} not told" if counts.unseen else "",
    ]
    return ", ".join(p for p in parts if p)


def use_words(use: StepUse) -> str:
    """How a step was done, as far as it was counted; empty where nothing was."""
    parts = ["assumed"] if use.assumed else []
    if use.opening:
        parts.append(f"opening {use.opening}")
    for name, *nouns in _COUNTED:
        number = getattr(use, name)
        if number:
            whole = int(number)
            parts.append(counted(whole, *nouns) if number == whole else f"{number:g} {nouns[0]}s")
    if use.fluid:
        parts.append(f"{use.fluid.replace('_', '-')} fluid")
    if use.waited_s:
        parts.append(f"waited {duration(use.waited_s)}")
    if use.tip_bent:
        parts.append("the tip bent")
    if use.open_s:
        parts.append(f"open {duration(use.open_s)}")
    if use.temperature_c is not None:
        parts.append(temperatures(use.temperature_c))
    if use.humidity_percent is not None:
        parts.append(f"{use.humidity_percent:g} % humidity")
    return ", ".join(parts)


_AMOUNTS = {"patch": "{} of {}", "ml": "{} ml of {}"}


def amount_words(amount: float, thing: str, unit: str | None) -> str:
    """How much of a thing, as ``6 patches of gel stick``; what has no unit is counted by pieces."""
    figure = f"{round(amount, 3):g}"
    if unit == "patch":
        figure = counted(round(amount), "patch", "patches")
    return _AMOUNTS.get(unit or "", "{} × {}").format(figure, thing)


KIND_WORDS: dict[Kind, tuple[str, str]] = {
    "speck": ("speck", "specks"),
    "fibre": ("fibre", "fibres"),
    "droplet": ("droplet", "droplets"),
    "residue": ("smear", "smears"),
    "soft": ("soft spot", "soft spots"),
}


def rung_words(step: Step, odds: KindOdds, percent: str, own: bool) -> str:
    """As ``Air has removed 31 of 40 specks on this camera; 62 to 88 %``."""
    share = odds.removed
    where = "on this camera" if own else "on your cameras"
    return (
        f"{STEP_WORDS[step]} has removed {share.count} of "
        f"{counted(share.cases, *KIND_WORDS[odds.kind])} {where}; {percent}"
    )
