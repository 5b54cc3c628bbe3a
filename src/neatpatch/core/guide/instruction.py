"""One instruction for busy hands, and what a step is done with."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from pydantic import Field, computed_field

from neatpatch.core.common.facts import Access, Item, KitItem, Schools
from neatpatch.core.common.records import FrameRecord, Record
from neatpatch.core.guide.hand_plan import HandPlan
from neatpatch.core.maps.mount_view import Aim
from neatpatch.core.plans.drying import DryPlan
from neatpatch.core.plans.power import PowerPlan
from neatpatch.core.plans.swab import StrokeSchool
from neatpatch.core.visit.body import Body

Counter = Literal["runs", "puffs", "dabs", "strokes", "drops"]
Mouth = Literal["lens", "cap", "open"]
Lies = Literal["table", "back", "down", "aimed"]
"""On the table as it comes; on its back; held with its opening down; aimed at the target."""
Act = Literal[
    "wash",
    "gather",
    "power_on",
    "power_off",
    "battery_out",
    "menu_open",
    "latch_up",
    "latch_down",
    "lens_to_cap",
    "lay_back",
    "turn_down",
    "clear",
    "charge",
    "ready_tip",
    "unwrap",
    "fold",
    "open",
    "look",
    "wet",
    "even",
    "air",
    "touch",
    "sheen",
    "close",
    "lens_look",
    "lens_air",
    "lens_brush",
    "lens_wipe",
    "lens_on",
    "shake",
    "retest",
]
"""What an instruction does to the camera, for `sequence`: ``menu_open`` is cleaning by hand, which
raises a mirror and opens what covers the sensor; ``lens_to_cap`` leaves the body capped; ``look``
makes sure that the glass lies bare; ``clear`` and ``charge`` blow a blower or a brush out;
``sheen`` looks whether fluid has dried.
"""


class Scene(Record):
    """What the drawing of an instruction shows, from the state of the camera after it.

    ``act``: what is being done. ``was``: what closed the mount before. ``covered``: a shutter or
    screen is known to lie over the sensor. ``mirror``: None where the body has none. ``fluid``: on
    the tool. ``count``: drops, puffs or presses. ``words``: the same for those who hear it.
    """

    act: Act
    access: Access
    lies: Lies
    was: Mouth
    mouth: Mouth
    mirror: Literal["up", "down"] | None = None
    covered: bool = False
    power: Literal["on", "off", "out"] = "off"
    tool: Item | None = None
    fluid: Literal["none", "drops", "even"] = "none"
    count: int | None = None
    stroke: StrokeSchool | None = None
    words: str = ""


class Instruction(Record):
    """One thing to do now.

    ``acts``: what it does to the camera. ``opens`` and ``closes`` start and stop the open-camera
    clock, ``raises`` and ``lowers`` that of the mirror lock-up, which runs from the next
    instruction on. ``count`` names what is counted, ``target`` how many are usual. ``timer_s`` is a
    time to wait. ``shows_plan``: draw the map in mount view, from stroke ``first`` on. ``heed`` is
    the one caution that matters most here. ``scene``: what its drawing shows. ``brief``: the same
    for the practised, and ``joins``: whether that stands on one screen with the next one.
    """

    text: str
    heed: str = ""
    count: Counter | None = None
    target: int | None = None
    timer_s: int | None = None
    shows_plan: bool = False
    first: int = 0
    acts: tuple[Act, ...] = ()
    mirror: bool = False
    scene: Scene | None = None
    brief: str = Field("", exclude=True)
    joins: bool = Field(False, exclude=True)

    @computed_field  # type: ignore[prop-decorator]
    @property
    def opens(self) -> bool:
        """The camera lies open from here."""
        return "open" in self.acts

    @computed_field  # type: ignore[prop-decorator]
    @property
    def closes(self) -> bool:
        """The camera is covered with this."""
        return "close" in self.acts

    @computed_field  # type: ignore[prop-decorator]
    @property
    def raises(self) -> bool:
        """A mirror that power holds goes up."""
        return self.mirror and "menu_open" in self.acts

    @computed_field  # type: ignore[prop-decorator]
    @property
    def lowers(self) -> bool:
        """It comes down."""
        return self.mirror and "power_off" in self.acts


@dataclass(frozen=True)
class Setting:
    """What a step is done with: the body, where to aim, the plan, how long the lock-up lasts, the
    kit for this body, the frame whose recipe the retest repeats, and how fluid dries in this room.

    ``tool``: what the judgement chose for the step. ``fluid``: the kind. ``lens_turns``: how often
    the lens was cleaned before. ``made_ready``: hands and table were made ready within the hour.
    ``strong_air``: firm bursts, by the method or after a soft turn. ``recipe_told``: the retest's
    recipe is that of the visit's last one.
    """

    body: Body
    aims: Sequence[Aim] = ()
    plan: HandPlan = field(default_factory=HandPlan)
    power: PowerPlan | None = None
    kit: Sequence[KitItem] = ()
    recipe: FrameRecord | None = None
    drying: DryPlan | None = None
    tool: KitItem | None = None
    fluid: str | None = None
    lens_turns: int = 0
    made_ready: bool = False
    recipe_told: bool = False
    strong_air: bool = False
    schools: Schools = field(default_factory=Schools)

    @property
    def item(self) -> Item | None:
        """What the tool is; None where none is owned."""
        return self.tool.item if self.tool else None

    @property
    def with_wand(self) -> bool:
        """A wand is owned, over which a wipe is folded."""
        return any(k.item == "cloth_wand" for k in self.kit)

    @property
    def is_back(self) -> bool:
        """A digital back: it has a cover in place of a cap, and no lens of its own."""
        return self.body.access == "digital_back"

    @property
    def lid(self) -> str:
        """What covers the sensor between two moves."""
        return "cover" if self.is_back else "cap"
