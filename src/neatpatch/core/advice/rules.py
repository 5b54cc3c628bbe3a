"""The decision, as a list of rules: the first whose condition holds decides.

Each rule has a name, a condition in the words of `Situation`, and says why. A practitioner should
be able to read the list from top to bottom and agree; docs/judgement.md is written from it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.gates import FLUID_STEPS, WANTS, shut_gates
from neatpatch.core.advice.ladder import next_rung
from neatpatch.core.advice.situation import MOST_STIRS, MOST_WET_SWABS, YEARLY_MONTHS, Situation
from neatpatch.core.common.decisions import CONTACT, Decision
from neatpatch.core.common.words import counted


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
            f"is in {s.facts.job_in_days:g}: shoot at wide apertures, then send it."
        )

    return why


def _why_unfit(s: Situation) -> str:
    if s.frame is None:
        return "There is no test frame yet, and nothing is touched without evidence."
    n = s.frame.f_number
    if n is not None and n < 16:
        return f"f/{n:g} hides small dust, so this frame cannot tell what is there."
    return "The newest frame is not fit to judge by."


def _why_rung(s: Situation) -> str:
    show = "shows" if s.relevant == 1 else "show"
    seen = f"{s.relevant} of {counted(s.total, 'spot')} {show} at the apertures worked at."
    if s.stirred and rung(s) == "air":
        return f"{seen} The last turn of air only moved them: it was not blown upward from below."
    return f"{seen} {RUNG_REASONS[rung(s)]}"


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
        "service",
        "A line that nothing moves may be a scratch. Wiping on would make it worse.",
        "a scratch is suspected",
    ),
    Rule(
        "retest first",
        lambda s: s.untested,
        "reshoot",
        "The last step has not been checked by a frame, so nobody knows what it did.",
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
        "yearly service",
        lambda s: (
            s.schools.check == "calendar_service"
            and (s.facts.service.months_since_service or 0) >= YEARLY_MONTHS
        ),
        _away,
        _why_away("You have it serviced by the calendar, and a year has passed."),
        "the school is calendar service and 12 months have passed",
    ),
    Rule(
        "clean",
        lambda s: s.relevant == 0 and (s.total == 0 or bool(s.done)),
        "stop_done",
        lambda s: (
            "Nothing that shows at the apertures worked at is left."
            if s.total
            else "The frame shows no dust at all."
        ),
        "no spot is left, or none that matters after a step was done",
    ),
    Rule(
        "does not show in the work",
        lambda s: s.relevant == 0,
        "defer",
        lambda s: f"{counted(s.total, 'spot')} found, but none shows at the apertures worked at.",
        "spots exist, none matters, nothing has been done yet",
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
        "sealed camera, skilled hands",
        lambda s: (
            s.camera.access == "fixed_lens"
            and s.facts.operator.asks_for == "teardown"
            and _may_take_apart(s)
        ),
        "teardown",
        "The lens does not come off; with repair skill the camera can be opened.",
        "fixed lens, an expert asks for it, tools are there, no guarantee",
    ),
    Rule(
        "sealed camera",
        lambda s: s.camera.access == "fixed_lens" and not _shake_left(s),
        _away,
        _why_away("The lens does not come off, so the sensor is reached only by taking it apart."),
        "fixed lens and the shake has been tried",
    ),
    Rule(
        "lens did not help",
        lambda s: s.site in ("rear_lens", "front_lens") and s.times("clean_lens") >= 2,
        "reshoot",
        "The lens was cleaned twice and the spots stay: shoot with another lens to be sure.",
        "the lens was cleaned twice",
    ),
    Rule(
        "lens first",
        lambda s: s.site in ("rear_lens", "front_lens"),
        "clean_lens",
        "Large, vague shadows come from the lens glass, which is easier and safer to clean.",
        "the site is the lens",
    ),
    Rule(
        "pictures first",
        lambda s: (
            s.schools.files_first is True
            and (s.facts.photos_waiting or 0) > 0
            and (s.facts.job_in_days is None or s.facts.job_in_days > 1)
        ),
        "retouch",
        lambda s: (
            f"{s.facts.photos_waiting} pictures wait to be delivered, and you patch those "
            "first; one map serves them all."
        ),
        "the school is files first, pictures wait, the next job is more than a day off",
    ),
    Rule(
        "spit",
        lambda s: s.saw("saliva"),
        "service",
        "Spit dries to a film that home cleaning smears.",
        "saliva was seen",
    ),
    Rule(
        "oil everywhere",
        lambda s: s.oil_everywhere,
        "service",
        "Oil over the whole sensor comes from inside the camera and comes back.",
        "twenty droplets or more",
    ),
    Rule(
        "two bad turns",
        lambda s: s.bad_turns >= 2 or s.worse_twice,
        "service",
        "Two turns made it worse. Stop before a third does harm.",
        "the last two turns, or any two, made it worse or streaked",
    ),
    Rule(
        "air only stirs",
        lambda s: not s.air_done and s.times("air") >= MOST_STIRS,
        _away,
        _why_away("Four turns of air have only moved the dust about."),
        "four turns of air and none that worked",
    ),
    Rule(
        "too many wet swabs",
        lambda s: (
            s.times("wet_swab") >= MOST_WET_SWABS
            or (s.times("wet_swab") >= 2 and rung(s) in ("wet_swab", "service"))
        ),
        "service",
        "Two wet swabs should have been enough; a third seldom helps.",
        "two wet swabs were used and a third would be next",
    ),
    Rule(
        "asked to send it away",
        lambda s: s.facts.operator.asks_for == "service",
        _away,
        _why_away("You would rather have it done, which is always a safe choice."),
        "the user asks for service",
    ),
    Rule(
        "asked to wait",
        lambda s: s.facts.operator.asks_for == "defer",
        "defer",
        "You would rather wait, which is always a safe choice.",
        "the user asks to wait",
    ),
    Rule(
        "under guarantee",
        lambda s: s.camera.under_guarantee is True and _contact_next(s),
        _away,
        _why_away("The next step would touch the sensor, and the body is under guarantee."),
        "contact is next and the body is under guarantee",
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
        "nothing left to try",
        lambda s: next_rung(s) is None and not s.gritty,
        "service",
        "Every rung that makes sense at home has been tried.",
        "no rung is left",
    ),
    Rule(
        "grit and no way to lift it",
        lambda s: next_rung(s) is None,
        "prepare",
        "Grit is still there and must not be wiped: it needs stronger air, or lifting.",
        "grit is left and only sliding tools remain",
    ),
    Rule(
        "a gate is shut",
        lambda s: bool(shut_gates(s, rung(s))),
        "prepare",
        lambda s: " ".join(gate.why for gate in shut_gates(s, rung(s))),
        "a gate bars the next rung",
    ),
    Rule(
        "kit included in the membership",
        lambda s: (
            not s.equipped(rung(s))
            and rung(s) in CONTACT
            and s.facts.service.membership_includes_clean is True
            and not s.service_too_slow
        ),
        "service",
        lambda s: f"{WANTS[rung(s)].missing} Your membership includes a clean.",
        "the kit lacks the next rung and a clean is already paid for",
    ),
    Rule(
        "kit incomplete",
        lambda s: not s.equipped(rung(s)),
        "prepare",
        lambda s: WANTS[rung(s)].missing,
        "the kit lacks what the next rung needs",
    ),
    Rule("next rung", lambda s: True, rung, _why_rung, "otherwise"),
)


def _shake_left(s: Situation) -> bool:
    return s.camera.self_clean is True and not s.times("auto_clean")


def _may_take_apart(s: Situation) -> bool:
    return (
        s.facts.operator.experience == "expert"
        and s.camera.under_guarantee is not True
        and s.schools.contact_by != "send_out"
        and bool(s.owned("cross_driver_0"))
        and bool(s.owned("screw_tray"))
    )
