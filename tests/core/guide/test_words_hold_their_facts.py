"""Every text of every guide and caution may only name what this camera and this tool have."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, get_args

import pytest

from neatpatch.core.advice import Facts, advise
from neatpatch.core.common.decisions import CONTACT, Decision
from neatpatch.core.common.facts import Access, KitItem
from neatpatch.core.guide.guidance import Length, guidance, preparation
from neatpatch.core.guide.instruction import Setting
from neatpatch.core.plans.power import plan_power
from neatpatch.core.visit.body import Body
from tests.core.advice.situations import BULB, CAMERA, FAST, facts
from tests.core.guide.test_sequence import STEPS, TOOLS, planned


@dataclass(frozen=True)
class Told:
    """Where a text stands."""

    step: Decision
    body: Body
    item: str | None


Holds = Callable[[Told], bool]


def access(*kinds: Access) -> Holds:
    return lambda t: t.body.access in kinds


def tool(*items: str) -> Holds:
    return lambda t: t.item is None or t.item in items


def floats(t: Told) -> bool:
    return t.body.stabilised is not False and t.body.access != "digital_back"


HAS_MOUNT = access("mirrorless", "mirror", "fixed_mirror")
SWAB_TOOLS = tool("dry_swab", "wet_swab", "corner_swab", "cloth_wand", "moist_wipe")
MAY_STAND_WHERE: dict[str, Holds] = {
    r"\bmirrors?\b": lambda t: HAS_MOUNT(t) and t.body.access != "mirrorless",
    r"lock-up": access("mirror"),
    r"latch": access("fixed_mirror"),
    r"\b(body )?cap\b": HAS_MOUNT,
    r"\bopening\b": HAS_MOUNT,
    r"mount ring": HAS_MOUNT,
    r"[Ll]ens (off|on)\b": lambda t: (
        HAS_MOUNT(t) or (t.step, t.body.access) == ("clean_lens", "digital_back")
    ),
    r"closes over": lambda t: t.body.closes_when_off is True,
    r"\bfloats?|floating": floats,
    r"holds this sensor": floats,
    r"pouch|charge it": tool("charged_brush"),
    r"lens brush": lambda t: t.step == "clean_lens" or t.item == "lens_brush",
    r"\bbrush": lambda t: t.step in ("brush", "clean_lens"),
    r"[Cc]an upright": tool("gas_can"),
    r"the swab sealed": tool("dry_swab", "wet_swab", "corner_swab"),
    r"pad sealed": tool("sterile_pad"),
    r"\bpad\b": lambda t: t.item in (None, "sterile_pad", "silicone_pad"),
    r"\bwand\b": lambda t: t.item in ("cloth_wand", "moist_wipe"),
    r"\bdrops?\b": lambda t: t.step in ("wet_swab", "corner_swab") and t.item != "moist_wipe",
    r"fluid": lambda t: t.step in ("wet_swab", "corner_swab"),
    r"sticky patch": lambda t: t.step == "lift",
    r"[Bb]ristle|hair": lambda t: t.step == "brush",
    r"swab'?s?\b": lambda t: t.step in CONTACT and SWAB_TOOLS(t),
    r"just like the frame before": lambda t: False,
}
"""Words, and where their fact holds."""


def bodies() -> Iterator[Body]:
    for kind in get_args(Access):
        for floating, rule in ((False, None), (True, "on"), (True, "off")):
            for closes in (False, True, None):
                yield Body(
                    name="B",
                    sensor_mm=(36, 24),
                    access=kind,
                    stabilised=floating,
                    hold_rule=rule,
                    closes_when_off=closes,
                )


def texts(told: Told, tool: KitItem | None) -> Iterator[str]:
    setting = planned(told.step, told.body, tool)
    power = plan_power(30, 100) if told.body.access == "mirror" else None
    setting = Setting(**{**vars(setting), "power": power})
    for length in get_args(Length):
        for i in guidance(told.step, setting, length):
            yield i.text
            yield i.heed
    yield from preparation(told.step, setting)


@pytest.mark.parametrize("step", STEPS)
def test_every_text_of_a_guide_holds_its_facts(step: Decision) -> None:
    wrong = set()
    for body in bodies():
        for item in TOOLS.get(step, [None]):
            told = Told(step, body, item.item if item else None)
            for text in texts(told, item):
                wrong |= {
                    (words, body.access, told.item, text)
                    for words, holds in MAY_STAND_WHERE.items()
                    if re.search(words, text) and not holds(told)
                }
    assert wrong == set()


WIPE = {"item": "moist_wipe", "quantity": 3, "sealed": True}
WAND = {"item": "cloth_wand", "width_mm": 24, "quantity": 2}
WET_FIRST = {"contact_order": ["wet_swab"], "pad_on_finger": True}
PAD = {"item": "sterile_pad", "quantity": 5, "sealed": True}


def words_of(**changes: Any) -> str:
    found = advise(Facts.model_validate(facts(**changes)))
    assert found.decision == "wet_swab", found.rule
    return " ".join(c.text for c in found.cautions)


CAUTION_WORDS: list[tuple[dict[str, Any], set[str], set[str]]] = [
    ({"camera": {**CAMERA, "stabilised": False}}, {"bend"}, {"float", "mirror"}),
    ({"camera": {**CAMERA, "stabilised": None, "hold_rule": "off"}}, {"float"}, {"mirror"}),
    ({"kit": [BULB, WIPE, WAND]}, {"wipe"}, {"A drop too many", "swab"}),
    ({"kit": [BULB, PAD, FAST]}, {"pad"}, {"swab", "bend"}),
]


@pytest.mark.parametrize(("changes", "said", "unsaid"), CAUTION_WORDS)
def test_cautions_of_a_wet_swab_fit_camera_and_tool(
    changes: dict[str, Any], said: set[str], unsaid: set[str]
) -> None:
    text = words_of(schools=WET_FIRST, **changes)
    assert all(word in text for word in said), text
    assert not any(word in text for word in unsaid), text


def test_a_dry_follow_up_is_not_told_how_many_drops() -> None:
    streaked = {"step": "wet_swab", "tested": True, "result": "streaks"}
    done = [*facts()["done"], streaked]
    frame = {"spots": {"total": 2, "relevant": 2, "by_kind": {"residue": 2}}}
    kit = [BULB, {"item": "dry_swab", "width_mm": 24, "quantity": 4}]
    found = advise(Facts.model_validate(facts(done=done, frame=frame, kit=kit)))
    assert found.decision == "dry_followup"
    excess = next(c.text for c in found.cautions if c.code == "fluid_excess")
    assert "drop" not in excess
