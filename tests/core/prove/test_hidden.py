"""Hidden faults on the plans of jobs and on made-up ones, none of an amount that is tried: found as advised."""

import random
from statistics import mean

import pytest
from reference import hidden
from sweeps import seeds

from loadstar.core.prove.diagnose import ELSEWHERE, Diagnosis
from loadstar.core.prove.readings import meter_sigma

SURE_OF_NOTHING = 0.5


@pytest.mark.parametrize("block", seeds(1))
@pytest.mark.parametrize("which", ["jobs", "seeds"])
def test_single_faults_of_any_amount_are_named_and_sooner_than_by_plain_ways(which, block):
    """Five a block (LOADSTAR_SWEEP=40 for four hundred of both). Measured: 98.8 % named or tied, 0.5 %
    surely another, 4.6 readings (6.9 from the battery outward, 7.2 in any order)."""
    dice, right, wrong, mine, outward, anyhow = random.Random(f"single/{which}/{block}"), [], 0, [], [], []
    for one in hidden.drawn(dice, which, 5, hidden.single(dice)):
        taken = hidden.advised(one)
        right.append(hidden.named(one, taken))
        wrong += hidden.surely_wrong(one, taken)
        mine.append(len(taken))
        outward.append(len(hidden.plainly(one, "outward")))
        anyhow.append(len(hidden.plainly(one, "any")))
    assert mean(right) >= 0.8 and wrong <= 1
    assert mean(mine) < mean(outward) + 0.5 and mean(mine) < mean(anyhow) + 0.5


@pytest.mark.parametrize("block", seeds(1))
def test_of_two_at_once_one_is_named_or_the_pair_is_offered(block):
    """Six a block. Measured: of 100 ninety had one of the two named, five were surely given to another cause."""
    dice, found, wrong = random.Random(f"double/{block}"), [], 0
    for one in hidden.drawn(dice, "jobs", 6, hidden.double(dice)):
        taken = hidden.advised(one)
        unexplained = one.d.unexplained(taken)
        pairs = one.d.pairs(taken)[:3] if unexplained else ()
        told = any(set(one.abouts) & set(p.about.split(" and ")) for p in pairs)
        found.append(told or hidden.named(one, taken))
        wrong += hidden.surely_wrong(one, taken)
    assert mean(found) >= 0.6 and wrong <= 2


@pytest.mark.parametrize("block", seeds(1))
def test_what_comes_and_goes_is_told_when_the_first_point_is_read_again(block):
    """Six a block, there two times of three. Measured: of 100, 85 told; 15 fitted another cause by chance."""
    dice, told = random.Random(f"comes/{block}"), []
    for one in hidden.drawn(dice, "jobs", 6, hidden.intermittent(dice)):
        taken = hidden.advised(one, again=True)
        first, last = taken[0].value, taken[-1].value
        wavers = abs(first - last) > 6 * float(meter_sigma(max(abs(first), abs(last)), "V"))
        told.append(wavers or one.d.unexplained(taken) or hidden.named(one, taken))
    assert mean(told) >= 0.6


@pytest.mark.parametrize("block", seeds(1))
def test_what_is_in_no_list_is_mostly_not_put_down_to_something_that_is(block):
    """Six a block of faults of other circuits (points of copper joined by some ohms are often as good as a leak or an
    accessory that draws too much: not counted). Measured: 53 of 58."""
    dice, honest = random.Random(f"outside/{block}"), []
    for one in hidden.drawn(dice, "jobs", 6, hidden.unheard_of(dice)):
        taken = hidden.advised(one)
        first = one.d.beliefs(taken)[0]
        if one.abouts != ("joined",):
            honest.append(first.about == ELSEWHERE or first.share <= SURE_OF_NOTHING or one.d.unexplained(taken))
    assert len(honest) > 1 and mean(honest) >= 0.6


def test_another_accessory_that_draws_far_more_is_named_as_what_lies_outside():
    """Of the two that are wired to one point, the other draws five times as much: by its own name."""
    a = hidden.plan_of("jobs", "01-sealed-plug")
    load = hidden.circuits(a)[0]
    d = Diagnosis(a, load)
    other = next(p for p in a.plan.loads if p.id not in d.within)
    one = hidden.Hidden(d, (hidden.Fault("draws", "draws", "", 1.0, draws={other.id: 5.0}),), ("draws",),
                        random.Random(3))
    belief = d.beliefs(hidden.advised(one))[0]
    assert one.shows() and belief.about == ELSEWHERE
    assert belief.words == f"outside this circuit: {other.name} draws far more than planned"
