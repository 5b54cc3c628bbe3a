"""The judgement: from the facts of a visit to the least risky next move, as readable tables."""

from neatpatch.core.advice.advise import advise
from neatpatch.core.common.decisions import Advice, Barred, Caution, Decision
from neatpatch.core.common.facts import Facts

__all__ = ["Advice", "Barred", "Caution", "Decision", "Facts", "advise"]
