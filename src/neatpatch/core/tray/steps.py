"""The way through: out by the plan, the cleaning, and back in the order made from the order out.

What is done is a list; everything else follows from it. Counts must match before the next step.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import Field

from neatpatch.core.common.records import Given, Record, Whole
from neatpatch.core.common.words import counted
from neatpatch.core.tray.plan import (
    LATCH_OPENS,
    LATCH_SHUTS,
    MatField,
    Stage,
    TrayPlan,
    fields_of,
)

StepKind = Literal[
    "warned", "photo", "screws_out", "unlatch", "unclip", "lift", "clean", "seat", "latch",
    "clip", "screws_in", "check",
]  # fmt: skip
Phase = Literal["before", "out", "clean", "back", "after"]
AGAINST: tuple[tuple[str, str], ...] = (
    (
        "flash",
        "The flash capacitor keeps a dangerous charge, for days. Battery out, wait half an hour, "
        "and never touch the flash board or its wires, with finger or tool. Whoever cannot tell "
        "that board for certain hands the camera to a licensed repairer.",
    ),
    ("warranty", "Opening the case ends the maker's warranty and any sealing against weather."),
    (
        "lens",
        "The front of the focus lens cannot be reached this way. Only the filter, both sides of "
        "its block, and the rear of the focus element can.",
    ),
    (
        "alone",
        "If anything does not come off by itself, stop: something still holds it. The camera's "
        "handbook and local rules come before this list.",
    ),
)
"""What speaks against it, said before the first screw."""
_CLEAN: tuple[tuple[str, str], ...] = (
    ("filter", "Wipe the filter gently: one fresh swab, barely damp, one stroke, no pressure."),
    ("block", "Blow and wipe both sides of the sensor block's window."),
    ("element", "Wipe the rear of the focus element, from its middle outward. Its front stays."),
    ("gasket", "Lay the gasket back with its soft side up, flat all around, no hair under it."),
)
_SAFE: tuple[tuple[str, str], ...] = (
    ("battery", "Take battery and card out. Press the release twice, then wait half an hour."),
    ("bench", "Lay the mat out under a good light, a magnet away from the camera, drivers ready."),
)


class TrayStep(Record):
    """One thing to do. ``count``: screws to count, in field ``field`` of the mat."""

    id: str
    phase: Phase
    kind: StepKind
    words: str
    stage: str = ""
    count: int | None = None
    field: str = ""


class Done(Given):
    """A step that was done. ``count``: what was counted; ``lost``: why one is missing for good."""

    step_id: str = Field(min_length=1, max_length=120)
    count: Whole | None = Field(default=None, ge=0, le=200)
    lost: str = Field(default="", max_length=200)


class GroupCount(Record):
    """How a group stands: how many there are, came out, went back; where they belong."""

    field: str
    name: str
    belongs: str
    count: int
    out: int | None
    back: int | None


class TrayNow(Record):
    """Where the work stands. ``step``: the next one; None when all is done. ``left``: what is left
    over or missing, in sentences.
    """

    plan: TrayPlan
    steps: tuple[TrayStep, ...]
    done: tuple[Done, ...]
    step: TrayStep | None
    groups: tuple[GroupCount, ...]
    left: tuple[str, ...]


def all_steps(plan: TrayPlan, out_of: Mapping[str, int] | None = None) -> tuple[TrayStep, ...]:
    """Every step, from the warnings to the last check.

    ``out_of``: screws that came out, by field; so many go back, all of the plan's where unknown.
    """
    counts = {f.letter: f.group.count for f in fields_of(plan)} | dict(out_of or {})
    fields = {f.group.name: f for f in fields_of(plan)}
    numbered = list(enumerate(plan.stages))
    out = [s for n, stage in numbered for s in _out(n, stage, fields)]
    back = [s for n, stage in reversed(numbered) for s in _back(n, stage, fields, counts)]
    return (
        *(_plain(f"warned-{k}", "before", "warned", w) for k, w in AGAINST),
        *(_plain(f"safe-{k}", "before", "check", w) for k, w in _SAFE),
        *out,
        *(_plain(f"clean-{k}", "clean", "clean", w) for k, w in _CLEAN),
        *back,
        _plain(
            "after-empty",
            "after",
            "check",
            "Look over the mat: every field is empty, nothing is left over. Battery in, camera on, "
            "zoom out and in once. Then shoot the test frame.",
        ),
    )


def _plain(step_id: str, phase: Phase, kind: StepKind, words: str, stage: str = "") -> TrayStep:
    return TrayStep(id=step_id, phase=phase, kind=kind, words=words, stage=stage)


def _out(n: int, stage: Stage, fields: dict[str, MatField]) -> list[TrayStep]:
    found = [
        _plain(f"{n}-photo", "out", "photo", f"Photograph it as it is: {stage.name}.", stage.name)
    ]
    for g in stage.screws:
        field = fields[g.name]
        tool = f" with {g.driver}" if g.driver else ""
        thread = f" ({g.thread})" if g.thread else ""
        found.append(
            TrayStep(
                id=f"{n}-out-{field.letter}",
                phase="out",
                kind="screws_out",
                stage=stage.name,
                count=g.count,
                field=field.letter,
                words=f"Take out {counted(g.count, 'screw')}{thread}{tool}: {g.name}. Into field "
                f"{field.letter}, each as it sat.",
            )
        )
    found += [
        _plain(
            f"{n}-unlatch-{i}",
            "out",
            "unlatch",
            f"Ribbon {r.name}: {LATCH_OPENS[r.latch]}. Before anything is lifted.",
            stage.name,
        )
        for i, r in enumerate(stage.ribbons)
    ]
    if stage.clips:
        found.append(
            _plain(
                f"{n}-unclip",
                "out",
                "unclip",
                f"Ease {counted(stage.clips, 'clip')} with a plastic pick, the last one by hand.",
                stage.name,
            )
        )
    note = f" {stage.note}" if stage.note else ""
    found.append(_plain(f"{n}-lift", "out", "lift", f"Lift off: {stage.name}.{note}", stage.name))
    return found


def _back(
    n: int, stage: Stage, fields: dict[str, MatField], counts: Mapping[str, int]
) -> list[TrayStep]:
    found = [
        _plain(
            f"{n}-seat",
            "back",
            "seat",
            f"Lay back: {stage.name}. Its pegs sit in their holes and it lies flat by itself.",
            stage.name,
        )
    ]
    if stage.clips:
        found.append(
            _plain(
                f"{n}-clip",
                "back",
                "clip",
                f"Close {counted(stage.clips, 'clip')}: press until each is heard.",
                stage.name,
            )
        )
    found += [
        _plain(
            f"{n}-latch-{i}",
            "back",
            "latch",
            f"Ribbon {r.name}: {LATCH_SHUTS[r.latch]}. Tug it lightly: it holds.",
            stage.name,
        )
        for i, r in reversed(list(enumerate(stage.ribbons)))
    ]
    for g in reversed(stage.screws):
        field = fields[g.name]
        found.append(
            TrayStep(
                id=f"{n}-in-{field.letter}",
                phase="back",
                kind="screws_in",
                stage=stage.name,
                count=counts[field.letter],
                field=field.letter,
                words=f"Field {field.letter}: put {counted(counts[field.letter], 'screw')} back "
                f"({g.name}). "
                "First all of them a little, then each in turn until it stops. Never force one.",
            )
        )
    return found


def tray_now(plan: TrayPlan, done: Sequence[Done]) -> TrayNow:
    """Where the work stands after what was done."""
    made = {d.step_id: d for d in done}
    out = {
        s.field: count
        for s in all_steps(plan)
        if s.kind == "screws_out" and s.id in made and (count := made[s.id].count) is not None
    }
    steps = all_steps(plan, out)
    groups = _groups(plan, steps, made)
    return TrayNow(
        plan=plan,
        steps=steps,
        done=tuple(done),
        step=next((s for s in steps if s.id not in made), None),
        groups=tuple(groups),
        left=tuple(_left(groups)),
    )


def objection(plan: TrayPlan, done: Sequence[Done], new: Done) -> str:
    """Why a step cannot be taken for done; empty when it can. One after the other, counts match."""
    now = tray_now(plan, done)
    if now.step is None:
        return "Everything is done already. Shoot the test frame."
    if new.step_id != now.step.id:
        return "Another step comes first. Was this page left open? Load it anew."
    if now.step.count is None:
        return ""
    if new.count is None:
        return "Count the screws, and say how many there are."
    missing = now.step.count - new.count
    if missing == 0 or (new.lost.strip() and missing > 0):
        return ""
    group = next(g for g in now.groups if g.field == now.step.field)
    return _miscount(now.step, group, missing)


def _miscount(step: TrayStep, group: GroupCount, missing: int) -> str:
    home = f"field {group.field}, {group.belongs}"
    if step.kind == "screws_out":
        if missing > 0:
            return (
                f"{counted(missing, 'screw is', 'screws are')} missing for {home}. Look for it "
                "under the camera and on the driver before going on; or the plan is wrong: then "
                "correct its count."
            )
        return (
            f"{counted(-missing, 'screw', 'screws')} too many for {home}. One belongs to another "
            "group, or the plan is wrong: then correct its count."
        )
    if missing > 0:
        return (
            f"{counted(missing, 'screw is', 'screws are')} left over: it belongs to {home}. Put it "
            "in before going on, or say that it is lost."
        )
    return (
        f"{counted(-missing, 'screw', 'screws')} too many went into {home}. Take out what is too "
        "many, and lay it into the field that is short."
    )


def _groups(plan: TrayPlan, steps: Sequence[TrayStep], made: dict[str, Done]) -> list[GroupCount]:
    def counted_in(kind: StepKind, letter: str) -> int | None:
        step = next(s for s in steps if s.kind == kind and s.field == letter)
        return made[step.id].count if step.id in made else None

    return [
        GroupCount(
            field=f.letter,
            name=f.group.name,
            belongs=f"{f.group.name} ({f.group.thread or 'one thread'}, {f.group.side})",
            count=f.group.count,
            out=counted_in("screws_out", f.letter),
            back=counted_in("screws_in", f.letter),
        )
        for f in fields_of(plan)
    ]


def _left(groups: Sequence[GroupCount]) -> list[str]:
    told = []
    for g in groups:
        if g.out is not None and g.out < g.count:
            short = counted(g.count - g.out, "screw", "screws")
            told.append(f"{short} missing from field {g.field}: {g.belongs}.")
        if g.back is not None and g.out is not None and g.back < g.out:
            short = counted(g.out - g.back, "screw", "screws")
            told.append(f"{short} left over, from field {g.field}: {g.belongs}.")
    return told


def corrected(plan: TrayPlan, field: str, count: int) -> TrayPlan:
    """The plan with another number of screws in a field; their places are forgotten with it.

    Unknown fields change nothing.
    """
    name = next((f.group.name for f in fields_of(plan) if f.letter == field), None)
    stages = [
        stage.model_copy(
            update={
                "screws": tuple(
                    g.model_copy(update={"count": count, "places": ()})
                    if g.name == name and g.count != count
                    else g
                    for g in stage.screws
                )
            }
        )
        for stage in plan.stages
    ]
    return TrayPlan.model_validate(plan.model_copy(update={"stages": tuple(stages)}).model_dump())
