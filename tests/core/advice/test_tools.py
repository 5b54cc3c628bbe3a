"""What may blow: a filtered, clean blower, and a gas can only where the owner's method allows it."""

from __future__ import annotations

from typing import Any

import pytest

from neatpatch.core.advice.situation import Situation
from neatpatch.core.advice.tools import Tools
from neatpatch.core.common.facts import Facts
from tests.core.advice.situations import facts

CAN = {"item": "gas_can"}
BULB = {"item": "bulb_blower"}


def tools(*kit: dict[str, Any], **schools: Any) -> Tools:
    given = {**facts(), "kit": list(kit), "schools": schools}
    return Situation(Facts.model_validate(given)).tools


def test_a_can_counts_as_a_blower_only_where_it_is_allowed_and_there() -> None:
    assert tools(CAN, gas_can="allowed").blower
    assert not tools(CAN).blower
    assert not tools(CAN, gas_can="never").blower
    assert not tools(gas_can="allowed").blower


@pytest.mark.parametrize("flaw", [{"filtered": False}, {"clean": False}])
def test_a_blower_that_would_blow_dust_in_is_none(flaw: dict[str, bool]) -> None:
    assert tools(BULB).blower
    assert not tools({**BULB, **flaw}).blower


def test_liquid_in_a_cans_nozzle_matters_only_where_the_can_is_all_there_is() -> None:
    upside_down = {**CAN, "inverted": True}
    assert tools(upside_down, gas_can="allowed").can_to_purge
    assert not tools(upside_down, CAN, gas_can="allowed").can_to_purge
    assert not tools(upside_down, BULB, gas_can="allowed").can_to_purge
    assert not tools(upside_down).can_to_purge


def test_only_an_electric_blower_is_strong() -> None:
    assert tools({"item": "electric_blower"}).strong_blower
    assert not tools(BULB).strong_blower
    assert not tools(CAN, gas_can="allowed").strong_blower
