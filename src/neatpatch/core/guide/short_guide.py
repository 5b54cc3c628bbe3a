"""The guide for the practised: the same instructions in the same order, several on one screen."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from neatpatch.core.guide.instruction import Instruction


def short_guide(instructions: Iterable[Instruction]) -> tuple[Instruction, ...]:
    """Instructions that join the next stand on its screen, in their brief words.

    Every act of the full guide is there, in its order; empty for none.
    """
    screens: list[Instruction] = []
    group: list[Instruction] = []
    for instruction in instructions:
        group.append(instruction)
        if not instruction.joins:
            screens.append(_one(group))
            group = []
    return (*screens, _one(group)) if group else tuple(screens)


def _one(group: Sequence[Instruction]) -> Instruction:
    """One screen of several: counted, drawn and warned of as what matters most, the last first."""
    main = max(reversed(group), key=lambda i: (i.shows_plan, i.count is not None, bool(i.heed)))
    timer = next((i.timer_s for i in reversed(group) if i.timer_s), None)
    return main.model_copy(
        update={
            "text": " ".join(text for i in group if (text := i.brief or i.text)),
            "timer_s": timer,
            "acts": tuple(act for i in group for act in i.acts),
            "mirror": any(i.mirror for i in group),
            "brief": "",
            "joins": False,
        }
    )
