"""Half the size is found out, twice the size is not cried at: on plans that tests can afford; all by tools/sweep.py."""

import pytest
from judgement.benches import GRIPS, LAMP, bench, of
from judgement.bite import changes, cried, missed
from judgement.paths import starts

PLANS = {"a block with two loads": lambda: of(bench(), LAMP, GRIPS), "a starter": starts}


@pytest.mark.parametrize("name", PLANS)
def test_half_the_size_is_found_out(name):
    plan = PLANS[name]()
    assert sum(1 for _ in changes(plan, 0.5)) > 3
    assert missed(plan) == []


@pytest.mark.parametrize("name", PLANS)
def test_twice_the_size_is_not_cried_at(name):
    assert cried(PLANS[name]()) == []
