"""Questions the rules ask of the facts, each by a name a practitioner would use.

Missing facts are answered on the safe side.
"""

from __future__ import annotations

from neatpatch.core.common.decisions import Decision
from neatpatch.core.common.facts import DoneStep, Facts, KitItem
from neatpatch.core.plans.drying import warming
from neatpatch.core.plans.swab import matched, too_wide

FULL_BATTERY_PERCENT = 100.0
"""Field practice: a mirror is held up on a full battery alone. Lower: it may drop on the tool."""
COLDEST_FOR_FLUID_C = 18.0
"""As the drying plan's good room. Lower: fluid dries to marks. Higher: bars rooms that do."""
WARMEST_FOR_FLUID_C = 28.0
"""Above, a swab dries before its stroke ends; lower would bar ordinary summer rooms."""
DAMPEST_FOR_FLUID_PERCENT = 60.0
"""As the drying plan's. Higher: marks stay. Lower: bars ordinary rooms without need."""
OIL_EVERYWHERE = 20
"""So many droplets are thrown by a shutter, not dropped once. Lower sends single smears away."""
MOST_WET_SWABS = 3
"""Field practice. More wets the filters' edges for little; fewer gives up on common stains."""
MOST_AIR_TURNS = 2
"""Field practice: what two good turns leave sticks. More only keeps the camera open longer."""
MOST_STIRS = 4
"""Turns of air without a good one. More only stirs; fewer sends loose dust to contact."""
YEARLY_MONTHS = 12.0
"""The method of a yearly service, by its name."""
_WORKED_STEPS = ("brush", "lift", "dry_swab", "wet_swab", "dry_followup", "corner_swab", "teardown")


class Situation:
    """The facts, and what follows from them."""

    def __init__(self, facts: Facts) -> None:
        self.facts = facts
        self.camera = facts.camera
        self.frame = facts.frame
        self.room = facts.room
        self.schools = facts.schools
        self.done = facts.done

    # the frame

    @property
    def frame_fit(self) -> bool:
        return self.frame is not None and self.frame.fit is True

    @property
    def total(self) -> int:
        if self.frame is None:
            return 0
        spots = self.frame.spots
        if spots.total is not None:
            return spots.total
        return spots.relevant or sum(spots.by_kind.values())

    @property
    def relevant(self) -> int:
        """Spots that matter by the chosen school; unknown relevance counts as all of them."""
        if self.frame is None:
            return 0
        if self.schools.act_on == "visible" or self.frame.spots.relevant is None:
            return self.total
        return self.frame.spots.relevant

    @property
    def site(self) -> str:
        return (self.frame.site if self.frame else None) or "sensor"

    @property
    def at_edges(self) -> bool:
        return self.frame is not None and self.frame.where == "edges"

    @property
    def stain(self) -> str:
        """What the wet rung would have to dissolve: oil, marks, or nothing but dust."""
        kinds = self.frame.spots.by_kind if self.frame else {}
        droplets, marks = kinds.get("droplet", 0), kinds.get("residue", 0)
        dust = kinds.get("speck", 0) + kinds.get("fibre", 0) + kinds.get("soft", 0)
        if droplets + marks == 0 or droplets + marks < dust:
            return "dust"
        return "oil" if droplets >= marks else "marks"

    @property
    def oil_everywhere(self) -> bool:
        return self.frame is not None and (
            self.frame.spots.by_kind.get("droplet", 0) >= OIL_EVERYWHERE
        )

    # the steps done

    @property
    def last(self) -> DoneStep | None:
        return self.done[-1] if self.done else None

    @property
    def untested(self) -> bool:
        """The last step changed something that no frame has looked at yet."""
        return self.last is not None and self.last.tested is not True

    @property
    def not_comparable(self) -> bool:
        return bool(self.done) and self.frame is not None and self.frame.comparable is False

    def times(self, step: str) -> int:
        return sum(1 for d in self.done if d.step == step)

    def failed(self, step: str) -> bool:
        """A rung that was tried, tested, and did not help, so that a higher one may follow."""
        tried = [d for d in self.done if d.step == step]
        return bool(tried) and tried[-1].result in ("no_change", "unknown", None, "cleared")

    @property
    def good_air_turns(self) -> int:
        """Turns of air with the opening down that did not merely stir."""
        return sum(
            1
            for d in self.done
            if d.step == "air" and d.opening != "up" and d.result != "stirred" and d.tested is True
        )

    @property
    def stirred(self) -> bool:
        """The last turn of air only moved the dust about."""
        airs = [d for d in self.done if d.step == "air"]
        return bool(airs) and (airs[-1].result == "stirred" or airs[-1].opening == "up")

    @property
    def air_done(self) -> bool:
        return self.good_air_turns > 0 and not self.stirred

    @property
    def bad_turns(self) -> int:
        """How many of the last turns in a row left it worse or streaked."""
        count = 0
        for step in reversed(self.done):
            if step.result not in ("worse", "streaks"):
                break
            count += 1
        return count

    @property
    def worse_twice(self) -> bool:
        return sum(1 for d in self.done if d.result == "worse") >= 2

    @property
    def contact_made(self) -> bool:
        return any(d.step in _WORKED_STEPS for d in self.done)

    @property
    def pushed_to_edges(self) -> bool:
        last = self.last
        return last is not None and last.step in ("wet_swab", "dry_swab") and self.at_edges

    @property
    def streaked(self) -> bool:
        last = self.last
        return last is not None and last.result == "streaks" and last.step != "dry_followup"

    # the camera

    @property
    def full_power(self) -> bool:
        battery = self.camera.battery_percent
        return self.camera.mains is True or (
            battery is not None and battery >= FULL_BATTERY_PERCENT
        )

    @property
    def moving_mirror(self) -> bool:
        """A mirror that power holds up; an unknown body may have one."""
        return self.camera.access in ("mirror", None)

    @property
    def mirror_down(self) -> bool:
        """A mirror that may be raised now and is not."""
        if self.camera.mirror_up is not False:
            return False
        return self.camera.access == "fixed_mirror" or (
            self.camera.access == "mirror" and self.full_power
        )

    @property
    def may_be_stabilised(self) -> bool:
        return self.camera.stabilised is not False and self.camera.access != "digital_back"

    @property
    def hold_unknown(self) -> bool:
        return self.may_be_stabilised and self.camera.hold_rule is None

    @property
    def not_held(self) -> bool:
        """The power switch stands otherwise than the handbook wants, or may run out."""
        if not self.may_be_stabilised or self.camera.hold_rule is None:
            return False
        if self.camera.power != self.camera.hold_rule:
            return True
        return self.camera.hold_rule == "on" and not self.full_power

    # the room

    @property
    def room_unfit(self) -> bool:
        """Dust would come in faster than it goes."""
        room = self.room
        return room.moving_air is True or room.surface == "fabric" or room.clean is False

    @property
    def dries_badly(self) -> bool:
        t, h = self.room.temperature_c, self.room.humidity_percent
        cold = t is not None and not COLDEST_FOR_FLUID_C <= t <= WARMEST_FOR_FLUID_C
        return cold or (h is not None and h > DAMPEST_FOR_FLUID_PERCENT)

    @property
    def dewy(self) -> bool:
        """A camera so cold that this room's damp settles on it; unknown temperatures say no."""
        cold, t, h = self.camera.temperature_c, self.room.temperature_c, self.room.humidity_percent
        return cold is not None and t is not None and h is not None and warming(t, h, cold).dew

    # the people

    @property
    def novice(self) -> bool:
        return self.facts.operator.experience in ("novice", None)

    @property
    def sends_out(self) -> bool:
        """Contact is for somebody else: by choice, or by default for a novice."""
        chosen = self.schools.contact_by
        return chosen == "send_out" or (chosen is None and self.novice)

    @property
    def service_too_slow(self) -> bool:
        days, turn = self.facts.job_in_days, self.facts.service.turnaround_days
        return days is not None and turn is not None and days < turn

    @property
    def job_at_hand(self) -> bool:
        """Too close before a job to risk a touch: a day, or for experts a few hours."""
        days = self.facts.job_in_days
        expert = self.facts.operator.experience == "expert"
        return days is not None and (days < 1 if expert else days <= 1)

    def saw(self, *what: str) -> bool:
        return any(w in self.facts.observed for w in what)

    @property
    def gritty(self) -> bool:
        return self.saw("grit", "metal_crumbs")

    # the kit

    def owned(self, *items: str) -> list[KitItem]:
        """Things of these names that are there and may still be used."""
        return [k for k in self.facts.kit if k.item in items and _usable(k)]

    def has_named(self, item: str) -> bool:
        return any(k.item == item for k in self.facts.kit)

    @property
    def gas_can_allowed(self) -> bool:
        return self.schools.gas_can == "allowed" and any(
            k.inverted is not True for k in self.owned("gas_can")
        )

    @property
    def blower(self) -> bool:
        good = [k for k in self.owned("bulb_blower", "electric_blower") if k.filtered is not False]
        return bool(good) or self.gas_can_allowed

    @property
    def strong_blower(self) -> bool:
        return any(k.filtered is not False for k in self.owned("electric_blower"))

    @property
    def brush(self) -> bool:
        if self.schools.brush == "never":
            return False
        if self.schools.brush == "clean_lens_brush" and any(
            k.clean is True for k in self.owned("lens_brush")
        ):
            return True
        return any(k.clean is not False for k in self.owned("charged_brush"))

    @property
    def lift_tool(self) -> bool:
        sticks = [k for k in self.owned("gel_stick") if k.matched_coating is True]
        return bool(sticks or self.owned("silicone_pad"))

    @property
    def short_side_mm(self) -> float | None:
        return min(self.camera.sensor_mm) if self.camera.sensor_mm else None

    def swabs(self, item: str) -> list[KitItem]:
        """Swabs whose width suits this sensor by the chosen school."""
        return [k for k in self.owned(item) if self._width_suits(k)]

    def _width_suits(self, k: KitItem) -> bool:
        if k.width_mm is None or self.short_side_mm is None:
            return False
        if too_wide(k.width_mm, self.short_side_mm):
            return False
        narrower_ok = self.schools.swab_width == "narrower_ok"
        return narrower_ok or matched(k.width_mm, self.short_side_mm)

    def wrong_width(self, item: str) -> bool:
        return bool(self.owned(item)) and not self.swabs(item)

    @property
    def fluids(self) -> list[KitItem]:
        """Fluids that suit the stain and the chosen school, the best first."""
        fit = [k for k in self.owned("fluid") if self.fluid_rank(k) > 0]
        return sorted(fit, key=lambda k: -self.fluid_rank(k))

    def fluid_rank(self, k: KitItem) -> int:
        """0: not for this job; 1: will do; 2: made for it."""
        if k.for_sensor is False or k.suits_body is False:
            return 0
        if self.schools.fluid == "kit_only" and k.kit_own is not True:
            return 0
        if self.schools.fluid == "alcohol_free":
            return 2 if k.kind in ("alcohol_free", "pure_water", "water") else 0
        kind = "pure_water" if k.kind == "water" else k.kind
        return FLUID_RANKS[self.stain].get(kind or "", 0)

    def equipped(self, step: Decision) -> bool:
        """Whether all that a rung needs lies in the kit."""
        if step == "air":
            return self.blower
        if step == "brush":
            return self.brush
        if step == "lift":
            return self.lift_tool
        if step in ("dry_swab", "dry_followup"):
            return bool(self.swabs("dry_swab"))
        if step == "corner_swab":
            return bool(self.owned("corner_swab"))
        if step == "wet_swab":
            if self.camera.access == "digital_back" and self.owned("moist_wipe"):
                return True
            return bool(self.swabs("wet_swab")) and bool(self.fluids)
        return True


FLUID_RANKS: dict[str, dict[str, int]] = {
    "oil": {"oil_dissolving": 2, "fast_drying": 1},
    "marks": {"mild": 2, "alcohol_free": 2, "pure_water": 2, "fast_drying": 1},
    "dust": {
        "mild": 2,
        "fast_drying": 2,
        "alcohol_free": 1,
        "pure_water": 1,
        "oil_dissolving": 1,
    },
}
"""How well each kind of fluid suits each stain; kinds not named are barred for it."""


def _usable(k: KitItem) -> bool:
    if k.used is True or k.expired is True:
        return False
    if k.for_sensor is False and k.item != "fluid":
        return False
    if k.fresh_patches is not None and k.fresh_patches < 1:
        return False
    return k.quantity is None or k.quantity >= 1
