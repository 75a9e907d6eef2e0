"""Joints of any resistance: drawn between those that are solved, and named whatever their ohms."""

import math
import random
from statistics import mean

import pytest
from sweeps import seeds

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.prove.bench import volts
from loadstar.core.prove.diagnose import Diagnosis
from loadstar.core.prove.fault import ADDED_OHM, Fault
from loadstar.core.prove.readings import Taken, meter_sigma
from loadstar.core.prove.trainer import at_load


def exactly(d, fault, probe):
    """What a fault shows there, solved by itself."""
    bench = d._bench
    if probe.quantity == "ohm":
        return float(bench.ohms([fault], [(bench.node(probe.red), bench.node(probe.black))])[0, 0])
    return float(volts(bench.solve(d.rows[probe.row], [fault]), bench.node(probe.red), bench.node(probe.black))[0])


@pytest.mark.parametrize("block", seeds(1))
def test_a_joint_of_any_ohms_is_named_and_not_surely_another(block):
    """Twenty-five joints a block of 0.05 to 30 ohm, none of them among those that are solved (LOADSTAR_SWEEP=8 for two
    hundred). Measured over 450 of demonstrations and random plans: 99.6 % named, 1.3 % surely another, 4.4 readings.
    Six fixed values gave 15 of 120 to another cause, surely."""
    dice, named, wrong = random.Random(f"amounts/{block}"), [], 0
    plans = [analyse(make()[0]) for make in (demo.fit_out, demo.mud_hopper, demo.tide_hauler, demo.lights_and_horn)]
    while len(named) < 25:
        a = dice.choice(plans)
        d = Diagnosis(a, dice.choice([p.id for p in a.plan.loads if a.path(p.id).complete]))
        about = dice.choice([c for c in d.classes if c.startswith("high ")])
        fault = Fault("one", about, "", 1.0, adds={about[5:]: math.exp(dice.uniform(math.log(0.05), math.log(30)))})

        def taken_at(probe, d=d, fault=fault):
            value = exactly(d, fault, probe)
            off = dice.gauss(0, 0.7) * float(meter_sigma(value, probe.quantity)) if math.isfinite(value) else 0.0
            return Taken(probe, value + off)
        sound = float(d.shown(at_load(d, d.usual))[0])
        if abs(exactly(d, fault, at_load(d, d.usual)) - sound) < 5 * meter_sigma(sound, "V"):
            continue
        taken = [taken_at(at_load(d, d.usual))]
        while len(taken) < 20 and (advice := d.next(taken)):
            taken.append(taken_at(advice.probe))
        beliefs = d.beliefs(taken)
        named.append(about in [b.about for b in beliefs if b.share >= 0.05])
        wrong += beliefs[0].share > 0.5 and beliefs[0].about != about
    assert mean(named) >= 0.95 and wrong <= 1


def test_what_lies_between_two_amounts_is_drawn_as_it_is_solved():
    """Of every joint of a circuit, halfway between two solved amounts on the scale of octaves: most within a
    meter's uncertainty of the exact solution, but near a collapse of constant powers, and where a relay drops between
    the two."""
    off = []
    for make in (demo.fit_out, demo.mud_hopper, demo.tide_hauler):
        a = analyse(make()[0])
        d = Diagnosis(a, next(p.id for p in a.plan.loads if a.path(p.id).complete))
        probe = at_load(d, d.usual)
        shown = d.shown(probe)
        for n, (series, row, k) in d._amounts.of.items():
            if d.faults[n].adds and len(series.grid) == len(ADDED_OHM) and k < len(ADDED_OHM) - 1:
                ohm = math.sqrt(ADDED_OHM[k] * ADDED_OHM[k + 1])
                (element,) = d.faults[n].adds
                exact = exactly(d, Fault("one", "one", "", 1.0, adds={element: ohm}), probe)
                off.append(abs(series.between(row, math.log(ohm), shown) - exact) / meter_sigma(exact, "V"))
    assert len(off) > 150 and mean(float(x < 1) for x in off) > 0.8 and mean(float(x < 6) for x in off) > 0.95


def test_a_probe_s_worth_is_said_as_what_it_tells_apart():
    d = Diagnosis(analyse(demo.winter()[0]), "L1")
    advice = d.next([Taken(at_load(d, d.usual), 9.1)])
    words = {f.words for f in d.faults}
    assert len(advice.parts) == 2 and set(advice.parts) <= words and advice.parts[0] != advice.parts[1]
