"""The decision, as a list of rules: the first whose condition holds decides.

Each rule has a name, a condition in the words of `Situation`, and says why. A practitioner should
be able to read the list from top to bottom and agree; docs/judgement.md is written from it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.gates import FLUID_STEPS, closed_gates
from neatpatch.core.advice.ladder import next_rung, shake_left
from neatpatch.core.advice.situation import MOST_LENS_TURNS, YEARLY_MONTHS, Situation
from neatpatch.core.advice.turns import MOST_BAD_TURNS, MOST_WET_SWABS
from neatpatch.core.common.decisions import CONTACT, Decision
from neatpatch.core.common.words import counted

_TOLD_GATES = 2
"""Why it is not yet: two reasons are read; what opens each gate is listed beside them."""


@dataclass(frozen=True)
class Rule:
    """``when`` decides, ``why`` gives the reason; ``decision`` may itself depend on the facts."""

    name: str
    when: Callable[[Situation], bool]
    decision: Decision | Callable[[Situation], Decision]
    why: Callable[[Situation], str] | str
    reads: str = ""

    def decide(self, s: Situation) -> Decision:
        return self.decision(s) if callable(self.decision) else self.decision

    def reason(self, s: Situation) -> str:
        return self.why(s) if callable(self.why) else self.why


def rung(s: Situation) -> Decision:
    """The next rung where there is one; service when all have been tried."""
    return next_rung(s) or "service"


def _contact_next(s: Situation) -> bool:
    return rung(s) in CONTACT


def _away(s: Situation) -> Decision:
    """Send it away; but not when it would not be back for the job."""
    return "defer" if s.service_too_slow else "service"


def _why_away(reason: str) -> Callable[[Situation], str]:
    def why(s: Situation) -> str:
        if not s.service_too_slow:
            return reason
        return (
            f"{reason} A service takes {s.facts.service.turnaround_days:g} days and the next job "
            f"is in {s.facts.job_in_days:g}: shoot at wide apertures until then, then send it."
        )

    return why


def _why_unfit(s: Situation) -> str:
    if s.frame is None:
        return "There is no test frame yet, and nothing is touched without evidence."
    n = s.frame.f_number
    if n is not None and n < 16:
        return f"f/{n:g} hides small dust, so this frame cannot tell what is there."
    return "The newest frame is not fit to judge by."


def _why_wide(s: Situation) -> str:
    n = s.frame.f_number if s.frame else None
    if n is None:
        return (
            "The file has no aperture recorded, so what it could have shown is unknown. Enter "
            f"it, or shoot one at f/{s.retest_f:g}."
        )
    return (
        f"It shows nothing, but f/{n:g} could not have shown all that f/{s.needed_f:g} does. "
        f"Shoot it at f/{s.retest_f:g}, or enter the apertures that are really worked at."
    )


def inside_words(count: int) -> str:
    """What is told of spots between the filter's layers."""
    lie = "lies" if count == 1 else "lie"
    return (
        f"{counted(count, 'spot')} {lie} inside the filter, under its outer glass: nothing at home "
        "reaches there, and wiping would only risk the glass."
    )


def _why_lens(s: Situation) -> str:
    marks = counted(s.lens_marks, "soft shadow comes", "soft shadows come")
    turns = ("blow it off", "a soft lens brush", "a lens wipe, lightly")
    now = turns[min(s.turns.times("clean_lens"), MOST_LENS_TURNS - 1)]
    return f"{marks} from the lens glass, which is easier and safer to clean. This time: {now}."


def _why_rung(s: Situation) -> str:
    show = "is" if s.relevant == 1 else "are"
    sensor = " on the sensor" if s.lens_marks else ""
    seen = f"{s.relevant} of {counted(s.total, 'spot')} {show} visible in the work{sensor}."
    step = rung(s)
    if step == "air":
        return f"{seen} {_why_air(s)}"
    if step == "brush" and s.tools.brush and s.tools.brush.item == "lens_brush":
        return f"{seen} Air did not help; your method takes a clean lens brush next."
    return f"{seen} {RUNG_REASONS[step]}"


def _why_air(s: Situation) -> str:
    turns = s.turns
    if s.shed:
        return "What the last step shed or loosened is not stuck: air takes it."
    if turns.stirred:
        return (
            "The last turn of air only moved them or blew more in: blow upward from below, after "
            "puffs into the room that clear the blower."
        )
    if turns.air_helps:
        return "Air took some off, so it goes on, aimed at what is left."
    if turns.good_air:
        return "Soft air is not the end of air: now the stronger blower, aimed at the places."
    return RUNG_REASONS["air"]


def _why_none_left(s: Situation) -> str:
    left_out = [step for step in ("lift", "dry_swab", "wet_swab") if not s.turns.times(step)]
    if not left_out:
        return RUNG_REASONS["service"]
    if s.gritty:
        return "Grit is still there, and whatever slides would drag it over the glass."
    if s.would_smear:
        return "What dry tools would smear is left, and fluid did not take it."
    return "What was tried has not helped, and no other step at home suits what is left."


RUNG_REASONS: dict[Decision, str] = {
    "auto_clean": "The camera's own shake costs nothing and touches nothing.",
    "air": "Air touches nothing, and loose grit must be gone before anything slides.",
    "brush": "Air did not help; a charged sensor brush is the lightest touch owned.",
    "lift": "Stuck dry specks are lifted straight off, so no grit is dragged.",
    "dry_swab": "Dry dust that air leaves comes off with one light sweep.",
    "wet_swab": "What is left is bonded, greasy or dried on: it needs fluid, once.",
    "dry_followup": "A streak is a drying mark; a fresh dry swab takes it, more fluid makes more.",
    "corner_swab": "The swab pushed the rest to the edges, where only a narrow one reaches.",
    "service": "Every rung that makes sense at home has been tried.",
}

RULES: tuple[Rule, ...] = (
    Rule(
        "scratch suspected",
        lambda s: s.saw("scratch_suspected"),
        _away,
        _why_away("A line that nothing moves may be a scratch. Wiping on would make it worse."),
        "a scratch is suspected",
    ),
    Rule(
        "a service left it",
        lambda s: s.service_left_a_mark,
        _away,
        _why_away(
            "A service left this mark: it may be a scratch in the coating. Ask whoever did it, and "
            "touch nothing until then."
        ),
        "marks are left after a service, and nothing has touched the sensor since",
    ),
    Rule(
        "retest first",
        lambda s: s.turns.untested,
        "reshoot",
        "The last step has not been checked by a frame, so what it did is unknown.",
        "the last step has no retest",
    ),
    Rule(
        "frame unfit",
        lambda s: not s.frame_fit,
        "reshoot",
        _why_unfit,
        "the newest frame is missing or unfit",
    ),
    Rule(
        "not comparable",
        lambda s: s.not_comparable,
        "reshoot",
        "The newest frame was not shot like the one before, so they cannot be compared.",
        "a step was done and the retest differs in aperture or body",
    ),
    Rule(
        "nothing in common",
        lambda s: s.unexplained,
        "reshoot",
        "The last two frames have nothing in common and no step lies between them, so nothing can "
        "be concluded. Say why, or shoot one more frame of this camera, moved.",
        "the newest two frames have no mark in common, no step lies between, no reason is given",
    ),
    Rule(
        "yearly service",
        lambda s: (
            s.schools.check == "calendar_service"
            and (s.facts.service.months_since_service or 0) >= YEARLY_MONTHS
        ),
        _away,
        _why_away("You have it serviced by the calendar, and a year has passed."),
        "the method is calendar service and 12 months have passed",
    ),
    Rule(
        "could not have shown it",
        lambda s: s.relevant == 0 and not s.shows_enough,
        "reshoot",
        _why_wide,
        "nothing is visible, in a frame of a wider aperture than is worked at, or of an unknown "
        "one",
    ),
    Rule(
        "clean",
        lambda s: s.nothing_visible and (s.total == 0 or bool(s.turns.done)),
        "stop_done",
        lambda s: (
            "Nothing that is visible at the apertures worked at is left."
            if s.total
            else "The frame shows no dust at all."
        ),
        "no spot is left, or none that is visible in the work after a step was done",
    ),
    Rule(
        "does not show in the work",
        lambda s: s.nothing_visible,
        "defer",
        lambda s: (
            f"{counted(s.total, 'spot')} found, but none is visible at the apertures worked at."
        ),
        "spots exist, none is visible in the work, nothing has been done yet",
    ),
    Rule(
        "inside the filter",
        lambda s: s.inside_filter > 0 and s.relevant == 0 and not s.lens_marks,
        _away,
        lambda s: _why_away(inside_words(s.inside_filter))(s),
        "what is visible lies inside the filter, nothing on the outer glass or the lens",
    ),
    Rule(
        "marks of the target",
        lambda s: s.site == "scene",
        "stop_done",
        "The marks travel with the target, so they are not in the camera.",
        "the marks belong to the scene",
    ),
    Rule(
        "place not proved",
        lambda s: s.site == "unsure",
        "reshoot",
        "One frame cannot tell dust on the sensor from marks elsewhere. What keeps its place when "
        "the camera moves is on the sensor.",
        "the site is unsure",
    ),
    Rule(
        "asked to patch first",
        lambda s: s.asks_for("retouch") and s.pictures_wait and not s.lens_only,
        "retouch",
        "You would rather patch the waiting pictures first; one map serves them all.",
        "the user asks for it and pictures wait",
    ),
    Rule(
        "sealed camera, skilled hands",
        lambda s: (
            s.camera.access == "fixed_lens"
            and s.asks_for("teardown")
            and s.may_take_apart
            and s.can_take_apart
        ),
        "teardown",
        "The lens does not come off; with repair skill the camera can be opened.",
        "fixed lens, an expert asks for it, tools are there, no warranty",
    ),
    Rule(
        "sealed camera, tools missing",
        lambda s: s.camera.access == "fixed_lens" and s.asks_for("teardown") and s.may_take_apart,
        "prepare",
        lambda s: " ".join(s.tools.missing("teardown")),
        "fixed lens, an expert asks for it, tools are missing, no warranty",
    ),
    Rule(
        "sealed camera",
        lambda s: s.camera.access == "fixed_lens" and not shake_left(s),
        _away,
        _why_away("The lens does not come off, so the sensor is reached only by taking it apart."),
        "fixed lens and the shake has been tried",
    ),
    Rule(
        "lens did not help",
        lambda s: (
            s.lens_marks > 0
            and s.relevant == (s.lens_marks if s.lens_only else 0)
            and s.turns.times("clean_lens") >= MOST_LENS_TURNS
        ),
        _away,
        _why_away(
            "Air, brush and wipe left the soft shadows. Another lens, if there is one, shows "
            "whether they are this lens's; what stays with it is for a lens service."
        ),
        "only marks of the lens are left and it was cleaned three times",
    ),
    Rule(
        "lens first",
        lambda s: (
            s.lens_marks > 0
            and s.camera.access != "fixed_lens"
            and s.turns.times("clean_lens") < MOST_LENS_TURNS
        ),
        "clean_lens",
        _why_lens,
        "soft shadows of the lens are among the spots; air, brush and wipe, a retest after each",
    ),
    Rule(
        "pictures first",
        lambda s: (
            s.schools.files_first is True
            and (s.facts.photos_waiting or 0) > 0
            and (s.facts.job_in_days is None or s.facts.job_in_days >= 1)
        ),
        "retouch",
        lambda s: (
            f"{s.facts.photos_waiting} pictures wait to be delivered, and you patch those "
            "first; one map serves them all."
        ),
        "the method is files first, pictures wait, the next job is not today",
    ),
    Rule(
        "spit",
        lambda s: s.saw("saliva"),
        _away,
        _why_away("Spit dries to a film that home cleaning smears."),
        "saliva was seen",
    ),
    Rule(
        "oil everywhere",
        lambda s: s.oil_everywhere,
        _away,
        _why_away("Oil over the whole sensor comes from inside the camera and comes back."),
        "twenty droplets or more",
    ),
    Rule(
        "two bad turns",
        lambda s: s.turns.bad_turns >= MOST_BAD_TURNS,
        _away,
        _why_away("Two turns made it worse. Stop before a third does harm."),
        "two turns of contact made it worse or streaked, and no good turn came after",
    ),
    Rule(
        "air only stirs",
        lambda s: s.turns.only_stirs and rung(s) == "air",
        _away,
        _why_away("Four turns of air have only moved the dust about."),
        "four turns of air and none that worked",
    ),
    Rule(
        "too many wet swabs",
        lambda s: (
            s.turns.times("wet_swab") >= MOST_WET_SWABS
            or (s.turns.times("wet_swab") >= 2 and rung(s) in ("wet_swab", "service"))
        ),
        _away,
        _why_away("Two wet swabs should have been enough; a third seldom helps."),
        "two wet swabs were used and a third would be next",
    ),
    Rule(
        "asked to send it away",
        lambda s: s.asks_for("service"),
        _away,
        _why_away("You would rather have it done, which is always a safe choice."),
        "the user asks for service",
    ),
    Rule(
        "asked to wait",
        lambda s: s.asks_for("defer"),
        "defer",
        "You would rather wait, which is always a safe choice.",
        "the user asks to wait",
    ),
    Rule(
        "prove the place before touching",
        lambda s: _contact_next(s) and not s.place_proved,
        "reshoot",
        "The next step would touch the sensor, and it is not proved that these marks are on it. "
        "One more frame, the camera moved, tells.",
        "contact is next and no two moved frames agree on the place",
    ),
    Rule(
        "modifier said no",
        lambda s: s.modifier_forbids and _contact_next(s),
        _away,
        _why_away("Whoever took the filter out says that the layer left must not be touched."),
        "contact is next, a filter was removed, and the modifier forbids contact",
    ),
    Rule(
        "under warranty",
        lambda s: s.camera.under_guarantee is True and _contact_next(s),
        _away,
        _why_away("The next step would touch the sensor, and the body is under warranty."),
        "contact is next and the body is under warranty",
    ),
    Rule(
        "sent out",
        lambda s: s.sends_out and _contact_next(s),
        _away,
        _why_away("The next step would touch the sensor, and that is left to a service."),
        "contact is next and the operator is a novice or sends it out",
    ),
    Rule(
        "novice facing fluid",
        lambda s: s.novice and rung(s) in FLUID_STEPS,
        _away,
        _why_away("The next step takes fluid, which is no work for the first times."),
        "fluid is next and the operator is a novice",
    ),
    Rule(
        "eve of a job",
        lambda s: s.job_at_hand and _contact_next(s),
        "defer",
        "The next step would touch the sensor on the eve of a job. Patch the pictures instead, and "
        "clean afterwards.",
        "contact is next and the job is today, or tomorrow for all but experts",
    ),
    Rule(
        "grit and no way to lift it",
        lambda s: (
            next_rung(s) is None
            and s.gritty
            and not s.turns.times("lift")
            and not (s.tools.lift_tool and s.tools.strong_blower)
        ),
        "prepare",
        "Grit is still there and must not be wiped: it needs stronger air, or lifting.",
        "grit is left, only sliding tools remain, and lifting has not been tried",
    ),
    Rule(
        "nothing left to try",
        lambda s: next_rung(s) is None,
        _away,
        lambda s: _why_away(_why_none_left(s))(s),
        "no rung is left",
    ),
    Rule(
        "a gate is shut",
        lambda s: bool(closed_gates(s, rung(s))),
        "prepare",
        lambda s: " ".join(gate.why for gate in closed_gates(s, rung(s))[:_TOLD_GATES]),
        "a gate bars the next rung",
    ),
    Rule(
        "kit included in the membership",
        lambda s: (
            not s.tools.equipped(rung(s))
            and rung(s) in CONTACT
            and s.facts.service.membership_includes_clean is True
            and not s.service_too_slow
        ),
        "service",
        lambda s: f"{' '.join(s.tools.missing(rung(s)))} Your membership includes a clean.",
        "the kit lacks the next rung and a clean is already paid for",
    ),
    Rule(
        "kit incomplete",
        lambda s: not s.tools.equipped(rung(s)),
        "prepare",
        lambda s: " ".join(s.tools.missing(rung(s))),
        "the kit lacks what the next rung needs",
    ),
    Rule("next rung", lambda s: True, rung, _why_rung, "otherwise"),
)
