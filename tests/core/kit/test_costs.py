"""Costs against sums done by hand."""

from __future__ import annotations

from datetime import date

import pytest

from neatpatch.core.kit.costs import Prices, own_or_service, school_costs
from neatpatch.core.visit.body import Body
from tests.core.kit.test_stock import own

TODAY = date(2026, 11, 25)
BODY = Body(name="Study", sensor_mm=(36, 24))
KIT = [
    (1, own("gel_stick", fresh_patches=9, pack_size=60, pack_price=30)),
    (2, own("dry_swab", width_mm=24, quantity=0, pack_size=10, pack_price=20)),
    (3, own("wet_swab", width_mm=24, quantity=4, pack_size=10, pack_price=25)),
    (4, own("fluid", kind="mild", quantity=10, pack_size=15, pack_price=15)),
    (5, own("bulb_blower", pack_price=14)),
    (6, own("loupe", pack_price=46)),
]


def test_one_clean_by_each_school() -> None:
    costs = {c.school: c.cost for c in school_costs(KIT, 1, BODY, TODAY, presses=6)}
    assert costs == {
        "lift": 3.0,
        "dry_swab": 2.0,
        "wet_swab": pytest.approx(2.6),
        "dry_wet_dry": 6.6,
    }


def test_a_maker_s_own_number_of_drops_is_paid_for() -> None:
    kit = [
        (1, own("wet_swab", width_mm=24, quantity=4, pack_size=10, pack_price=25, drops=6)),
        (2, own("fluid", kind="mild", quantity=10, pack_size=15, pack_price=15)),
    ]
    wet = next(c for c in school_costs(kit, 1, BODY, TODAY) if c.school == "wet_swab")
    assert wet.cost == pytest.approx(2.8)


def test_narrow_swabs_cost_a_swab_for_each_lane() -> None:
    kit = [(1, own("dry_swab", width_mm=13, quantity=9, pack_size=10, pack_price=10))]
    dry = next(c for c in school_costs(kit, 1, BODY, TODAY) if c.school == "dry_swab")
    assert (dry.cost, dry.pieces) == (2.0, ("2 × dry swab, 13 mm",))


def test_a_missing_price_is_named_and_nothing_made_up() -> None:
    kit = [(1, own("wet_swab", width_mm=24, quantity=2))]
    wet = next(c for c in school_costs(kit, 1, BODY, TODAY) if c.school == "wet_swab")
    assert (wet.cost, wet.missing) == (None, ("wet swab, 24 mm", "fluid"))
    lift = next(c for c in school_costs([], 1, BODY, TODAY) if c.school == "lift")
    assert lift.missing == ("gel stick",)


def test_a_tool_without_a_price_is_not_free() -> None:
    prices = Prices(service_fee=50)
    found = own_or_service([own("bulb_blower"), own("loupe", pack_price=30)], 2.0, prices)
    assert found.lasting is None
    assert found.beats_service_from is None
    assert all(row.own is None for row in found.rows)
    assert len(found.unpriced) == 1
    assert found.unpriced[0] in found.words


def test_fluid_that_is_not_in_the_kit_is_missing_and_not_free() -> None:
    kit = [(1, own("wet_swab", width_mm=24, quantity=10, pack_size=10, pack_price=20))]
    wet = next(c for c in school_costs(kit, 1, BODY, TODAY) if c.school == "wet_swab")
    assert (wet.cost, wet.missing) == (None, ("fluid",))


def test_break_even_as_found_by_trying() -> None:
    prices = Prices(service_fee=40, postage=10, membership_fee=90, membership_cleans=2)
    found = own_or_service([o for _, o in KIT], 4.0, prices)
    assert found.lasting == 60
    own_cost = [60 + 4 * n for n in range(1, 30)]
    fee = [50 * n for n in range(1, 30)]
    club = [90 + 10 * min(n, 2) + 50 * max(0, n - 2) for n in range(1, 30)]
    assert found.beats_service_from == 1 + next(i for i in range(29) if own_cost[i] < fee[i]) == 2
    assert found.beats_membership_from == 1 + next(i for i in range(29) if own_cost[i] < club[i])
    row = next(r for r in found.rows if r.cleans == 4)
    assert (row.own, row.service, row.membership) == (76, 200, 210)
    assert "pays from 2 cleans a year against the service" in found.words


def test_a_service_that_stays_cheaper_and_prices_that_are_missing() -> None:
    cheap = own_or_service([o for _, o in KIT], 30.0, Prices(service_fee=20, membership_fee=10))
    assert cheap.beats_service_from is None
    assert "pays never against the service" in cheap.words
    assert "Enter what your service charges" in own_or_service([], 3.0, Prices()).words
    nothing = own_or_service([], None, Prices(service_fee=20))
    assert "Enter what a pack costs" in nothing.words
    assert nothing.rows[0].own is None
