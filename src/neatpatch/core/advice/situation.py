"""Questions the rules ask of the facts, each by a name a practitioner would use.

Missing facts are answered on the safe side. What was done is asked of `turns`, what is owned of
`tools`.
"""

from __future__ import annotations

from functools import cached_property

from neatpatch.core.advice.tools import TEARDOWN, Tools
from neatpatch.core.advice.turns import Turns, by_counts
from neatpatch.core.common.decisions import CONTACT
from neatpatch.core.common.facts import Facts
from neatpatch.core.plans.drying import (
    COLDEST_C,
    GOOD_PERCENT,
    WARMEST_C,
    DryPlan,
    plan_drying,
    warming,
)
from neatpatch.core.plans.power import FULL_BATTERY_PERCENT

OIL_EVERYWHERE = 20
"""So many droplets are thrown by a shutter, not dropped once. Lower sends single smears away."""
MOST_LENS_TURNS = 3
"""Air, a soft brush, a wipe, each with its retest; what they leave is not on the lens."""
YEARLY_MONTHS = 12.0
"""The method of a yearly service, by its name."""
MANY = 4
"""Marks that vanish, and as many that appear: a target that moved, until two frames say no."""
ALIKE = 0.7
"""The smaller count over the larger, from which they are as many."""
LEAST_F = 16.0
"""Field guide: the widest aperture at which a clean frame says anything."""
MOST_F = 22.0
"""Field guide's test aperture; work at smaller ones does not ask for a smaller test frame."""
_ABOUT = 0.97
"""Nominal apertures are rounded by up to 3 %."""


class Situation:
    """The facts, and what follows from them."""

    def __init__(self, facts: Facts) -> None:
        self.facts = facts
        self.camera = facts.camera
        self.frame = facts.frame
        self.room = facts.room
        self.schools = facts.schools
        change = facts.frame.change if facts.frame else None
        self.turns = Turns(by_counts(facts.done, change))
        self.tools = Tools(facts, self.stain, self.dry_spots, self.turns)

    # the frame

    @cached_property
    def frame_fit(self) -> bool:
        return self.frame is not None and self.frame.fit is True

    @cached_property
    def total(self) -> int:
        """All spots counted, those of the lens included."""
        if self.frame is None:
            return 0
        spots = self.frame.spots
        if spots.total is not None:
            return spots.total
        return spots.relevant or sum(spots.by_kind.values())

    @cached_property
    def lens_marks(self) -> int:
        """Soft shadows of the lens among the spots."""
        marks = (self.frame.lens_marks if self.frame else None) or 0
        return self.total if self.lens_only else min(marks, self.total)

    @cached_property
    def inside_filter(self) -> int:
        """Visible spots between the filter's layers, which nothing at home reaches."""
        return (self.frame.inside_filter if self.frame else None) or 0

    @cached_property
    def lens_only(self) -> bool:
        return self.site in ("rear_lens", "front_lens")

    @cached_property
    def relevant(self) -> int:
        """Spots on the sensor that count by the chosen school; unknown relevance counts as all."""
        if self.frame is None:
            return 0
        total = self.total if self.lens_only else self.total - self.lens_marks
        if self.schools.act_on == "visible" or self.frame.spots.relevant is None:
            return total
        return (
            min(self.frame.spots.relevant, total)
            if self.lens_marks
            else (self.frame.spots.relevant)
        )

    @cached_property
    def nothing_visible(self) -> bool:
        """Nothing counts, neither on the sensor nor beside it on the lens or inside the filter."""
        beside = self.inside_filter or (self.lens_marks and not self.lens_only)
        return self.relevant == 0 and not beside

    @cached_property
    def site(self) -> str:
        return (self.frame.site if self.frame else None) or "sensor"

    @cached_property
    def unexplained(self) -> bool:
        """Two frames in a row have nothing in common, and the user has not said why."""
        return self.frame is not None and self.frame.unexplained is True

    @cached_property
    def place_proved(self) -> bool:
        """Two moved frames agree; a place that is given and not doubted counts as proved."""
        if self.frame is None or self.frame.site != "sensor":
            return False
        proved = self.frame.site_proved
        return proved is True or (proved is None and not self.swapped)

    @cached_property
    def swapped(self) -> bool:
        """Many marks vanished and as many appeared, and nothing touched the sensor in between."""
        change = self.frame.change if self.frame else None
        if change is None or self.turns.last_was_contact:
            return False
        fewer, more = sorted((change.gone, change.new))
        return fewer >= MANY and fewer >= ALIKE * more and 2 * change.stayed <= fewer

    @cached_property
    def shows_enough(self) -> bool:
        """Whether the frame could have shown what shows at the smallest aperture worked at."""
        n = self.frame.f_number if self.frame else None
        return n is not None and n >= self.needed_f * _ABOUT

    @cached_property
    def needed_f(self) -> float:
        """The aperture a clean frame must have been shot at to be an all-clear."""
        worked = self.facts.work.apertures
        return min(max(worked), MOST_F) if worked else LEAST_F

    @cached_property
    def retest_f(self) -> float:
        """The aperture to shoot at: the newest frame's, so that both compare, if it shows enough;
        else the field guide's. Never wider than f/16.
        """
        n = self.frame.f_number if self.frame else None
        least = max(self.needed_f, LEAST_F) * _ABOUT
        return n if n is not None and n >= least else MOST_F

    @cached_property
    def at_edges(self) -> bool:
        return self.frame is not None and self.frame.where == "edges"

    def kind(self, *names: str) -> int:
        kinds = self.frame.spots.by_kind if self.frame else {}
        return sum(kinds.get(name, 0) for name in names)  # type: ignore[call-overload]

    @cached_property
    def dry_spots(self) -> int:
        """Specks and fibres: what gel lifts. Where kinds are not known, all of them."""
        known = bool(self.frame and any(self.frame.spots.by_kind.values()))
        return self.kind("speck", "fibre") if known else self.relevant

    @cached_property
    def stain(self) -> str:
        """What the wet rung would have to dissolve: oil, marks, or nothing but dust."""
        droplets, marks = self.kind("droplet"), self.kind("residue")
        dust = self.kind("speck", "fibre", "soft")
        if droplets + marks == 0 or droplets + marks < dust:
            return "dust"
        return "oil" if droplets >= marks else "marks"

    @cached_property
    def would_smear(self) -> bool:
        """Any droplet or mark of fluid: a dry tool led over it smears it over the glass."""
        return self.kind("droplet", "residue") > 0

    @cached_property
    def oil_everywhere(self) -> bool:
        return self.kind("droplet") >= OIL_EVERYWHERE

    # the steps done

    @cached_property
    def not_comparable(self) -> bool:
        return bool(self.turns.done) and self.frame is not None and self.frame.comparable is False

    @cached_property
    def pushed_to_edges(self) -> bool:
        last = self.turns.last
        wiped = last is not None and last.step in ("wet_swab", "dry_swab", "dry_followup")
        return wiped and self.at_edges

    @cached_property
    def service_left_a_mark(self) -> bool:
        """What a service could not take, or left itself, and nothing at home was tried since."""
        served = [i for i, d in enumerate(self.turns.done) if d.step == "service"]
        if not served or any(d.step in CONTACT for d in self.turns.done[served[-1] :]):
            return False
        told = self.turns.done[served[-1]].result in ("no_change", "streaks", "worse")
        return self.relevant > 0 and (told or self.kind("residue", "droplet") > 0)

    @cached_property
    def shed(self) -> bool:
        """The last step touched the sensor and left something loose behind: hairs, fibres, dust."""
        last = self.turns.last
        if last is None or not self.turns.last_was_contact or self.stain != "dust":
            return False
        new = self.frame.change.new if self.frame and self.frame.change else 0
        return last.result == "worse" or (new > 0 and self.kind("fibre") > 0)

    # the camera

    @cached_property
    def full_power(self) -> bool:
        battery = self.camera.battery_percent
        return self.camera.mains is True or (
            battery is not None and battery >= FULL_BATTERY_PERCENT
        )

    @cached_property
    def moving_mirror(self) -> bool:
        """A mirror that power holds up; an unknown body may have one."""
        return self.camera.access in ("mirror", None)

    @cached_property
    def mirror_down(self) -> bool:
        """A mirror that may be raised now and is not."""
        if self.camera.mirror_up is not False:
            return False
        return self.camera.access == "fixed_mirror" or (
            self.camera.access == "mirror" and self.full_power
        )

    @cached_property
    def sensor_covered(self) -> bool:
        """A shutter or screen lies over the sensor, or may fall before the work is done."""
        return self.camera.closes_when_off is True and not (
            self.camera.power == "on" and self.full_power
        )

    @cached_property
    def may_be_stabilised(self) -> bool:
        return self.camera.stabilised is not False and self.camera.access != "digital_back"

    @cached_property
    def hold_unknown(self) -> bool:
        return self.may_be_stabilised and self.camera.hold_rule is None

    @cached_property
    def hold_collides(self) -> bool:
        """Power off holds the sensor, and power off closes the body or lowers its mirror."""
        closes = self.camera.closes_when_off is True or self.camera.access == "mirror"
        return self.may_be_stabilised and closes and self.camera.hold_rule in ("off", "battery_out")

    @cached_property
    def not_held(self) -> bool:
        """The power switch stands otherwise than the handbook wants, or may run out."""
        if not self.may_be_stabilised or self.camera.hold_rule is None:
            return False
        if self.camera.power != self.camera.hold_rule:
            return True
        return self.camera.hold_rule == "on" and not self.full_power

    @cached_property
    def modifier_not_asked(self) -> bool:
        allowed = self.camera.contact_allowed_by_modifier
        return self.camera.filter_removed is True and allowed is None

    @cached_property
    def modifier_forbids(self) -> bool:
        allowed = self.camera.contact_allowed_by_modifier
        return self.camera.filter_removed is True and allowed is False

    # the room

    @cached_property
    def room_unfit(self) -> bool:
        """Dust would come in faster than it goes."""
        room = self.room
        return room.moving_air is True or room.surface == "fabric" or room.clean is False

    @cached_property
    def room_unknown(self) -> bool:
        room = self.room
        return room.moving_air is None or room.surface is None or room.clean is None

    @cached_property
    def drying(self) -> DryPlan | None:
        """How the fluid used next dries here, as the drying plan says; None where not known."""
        t, h = self.room.temperature_c, self.room.humidity_percent
        if t is None or h is None or not COLDEST_C <= t <= WARMEST_C:
            return None
        return plan_drying(t, h, self.tools.fluid or "mild")

    @cached_property
    def drying_unknown(self) -> bool:
        return self.room.temperature_c is None or self.room.humidity_percent is None

    @cached_property
    def dries_badly(self) -> bool:
        """The drying plan's verdict; what is not known counts as bad."""
        return self.drying is None or self.drying.verdict != "good"

    @cached_property
    def damp(self) -> bool:
        h = self.room.humidity_percent
        return h is not None and h > GOOD_PERCENT

    @cached_property
    def dewy(self) -> bool:
        """A camera so cold that this room's damp settles on it; unknown temperatures say no."""
        cold, t, h = self.camera.temperature_c, self.room.temperature_c, self.room.humidity_percent
        return cold is not None and t is not None and h is not None and warming(t, h, cold).dew

    # the people

    @cached_property
    def novice(self) -> bool:
        return self.facts.operator.experience in ("novice", None)

    @cached_property
    def sends_out(self) -> bool:
        """Contact is for somebody else: by choice, or by default for a novice."""
        chosen = self.schools.contact_by
        return chosen == "send_out" or (chosen is None and self.novice)

    @cached_property
    def may_take_apart(self) -> bool:
        """Repair skill, no warranty to lose, and nobody else asked to do it."""
        return (
            self.facts.operator.experience == "expert"
            and self.camera.under_guarantee is False
            and self.schools.contact_by != "send_out"
        )

    @cached_property
    def can_take_apart(self) -> bool:
        return all(self.tools.owned(item) for item in TEARDOWN)

    def asks_for(self, wish: str) -> bool:
        return self.facts.operator.asks_for == wish

    @cached_property
    def pictures_wait(self) -> bool:
        return self.facts.photos_waiting != 0 and (
            self.asks_for("retouch") or bool(self.facts.photos_waiting)
        )

    @cached_property
    def service_too_slow(self) -> bool:
        days, turn = self.facts.job_in_days, self.facts.service.turnaround_days
        return days is not None and turn is not None and days < turn

    @cached_property
    def job_at_hand(self) -> bool:
        """Too close before a job to risk a touch: a day, or for experts a few hours."""
        days = self.facts.job_in_days
        expert = self.facts.operator.experience == "expert"
        return days is not None and (days < 1 if expert else days <= 1)

    def saw(self, *what: str) -> bool:
        return any(w in self.facts.observed for w in what)

    @cached_property
    def gritty(self) -> bool:
        return self.saw("grit", "metal_crumbs")
