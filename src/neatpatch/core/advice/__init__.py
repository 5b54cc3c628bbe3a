"""The judgement: from the facts of a visit to the least risky next move, as readable tables."""

from neatpatch.core.advice.advise import advise
from neatpatch.core.advice.facts import Facts
from neatpatch.core.advice.records import Advice, Barred, Caution, Decision

__all__ = ["Advice", "Barred", "Caution", "Decision", "Facts", "advise"]
