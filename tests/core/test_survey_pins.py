"""What pins are by their readings: a table of patterns, with noise, missing states and contradictions."""

from itertools import pairwise

import pytest
from builders import Bench
from readings import STATES, plan_with, take

from loadstar.core.analysis import analyse
from loadstar.core.edits import apply
from loadstar.core.edits.survey import TakeReadings
from loadstar.core.figures.registry import working
from loadstar.core.figures.working import evaluate
from loadstar.core.survey.pins import classify, next_probe, run_on_ask, supply_volts
from loadstar.core.survey.shows import ASKS, PRIOR, SHOWS, TO_FRAME, state_words

# Pattern, kind, least sure (and, after a bar, most sure), whether something must be pointed out as contradicting.
PATTERNS = [line.split(";") for line in """
o0 k0 i0 b1 l0;ground;.97|1;no
o0.02 k0.03 i0.05 b1;ground;.90|1;no
o0 b1;ground;.65|.90;no
o0 k0 i0 z0.4;ground;.90|1;no
o0 k0.1 i0.2 l0.1 z1.2;ground;.95|1;no
b1;ground;.70|.90;no
o0 k0 b1;ground;.75|.95;no
o-0.1 k0 i0 l0 b1;ground;.97|1;no
o12.6 k12.3 i14.1;constant;.99|1;no
o12.5 k12.1 i13.6 b0;constant;.99|1;no
o12.6;constant;.85|1;no
o12.4 k12.0;constant;.97|1;no
o12.7 k12.2 i14.2 r14.3 l12.0;constant;.99|1;no
o12.6 z100000;constant;.95|1;no
o11.9 k11.6 i13.2;constant;.99|1;no
o12.6 k12.2 i14.0 c10.1;constant;.99|1;no
o12.6 k12.2 i14.0 c8;constant;.99|1;no
o0 k12.2 i14.1 l12.0;key;.95|1;no
o0 k12.2 i14.1;key;.90|1;no
o0 k12.0 l11.9;key;.90|1;no
o0.3 k11.8 i13.4 z45;key;.90|1;no
o0 k12.2;key;.70|.97;no
k12.2 i14;key;.40|.80;no
o0 k12.2 i14.1 s8;key;.93|1;no
o0 k12.1 i13.9 s30 b0;key;.93|1;no
o0 k12.2 i14.1 c0;key;.90|1;no
o0 k12.2 i14.1 c9.8 l11.8;key;.95|1;no
o0.8 k12.2 i14.1;key;.90|1;no
o0 k11.0 i12.9 l10.9;key;.95|1;no
o0 k12.2 r14.2 b0;key;.90|1;no
o0 k0 i14.1 l0;engine;.95|1;no
o0 k0 i13.9 r14.2 l0.1;engine;.95|1;no
o0 k0.1 i14;engine;.90|1;no
o0 k0 i13.9;engine;.90|1;no
k5.0;signal;.90|1;no
o0 k0 i14.1 s12 l0;engine;.97|1;no
o0 k0 i14.1 l0 b0;engine;.95|1;no
o0 k0 r14.2 l0;engine;.90|1;no
o0 k0 i14.1 c0 l0;engine;.95|1;no
o0 k0 l12.0;lamp;.90|1;no
o0 k0 i0 l11.9;lamp;.95|1;no
o0 k0 i14 l12;lamp;.75|.9;no
o0 k0 l11.5 z1.8;lamp;.95|1;no
o0 k0 l12 b1;lamp;.90|1;no
o0 k0.2 i0.1 l11.8 z2.5;lamp;.95|1;no
o0 k0 i0 l12 b0;lamp;.95|1;no
o0 k5.0 i5.0;signal;.95|1;no
o0 k2.5;signal;.70|1;no
o0 k3.3 i4.1 r4.6;signal;.97|1;no
o0 k5 i5 l5 b0;signal;.97|1;no
o0 k5.1;signal;.70|1;no
o0 k0 i2.4 r3.1;signal;.90|1;no
o0 k6 i7;signal;.95|1;no
o0 k1.9 i2.2 z900;signal;.95|1;no
o0 k9 i5 r2;signal;.95|1;no
o0 k0 i0 l0 b0;dead;.60|1;no
o0 k0 i0 l0 z1000000;dead;.75|1;no
o0 k0 i0 l0 z5000000 r0;dead;.75|1;no
o0 k0 i0 l0;ground;.40|.80;no
o0;key;.15|.45;no
o0 k0;ground;.30|.60;no
k0;ground;.20|.50;no
i14.1;key;.30|.60;no
l12;key;.30|.60;no
k12.2;key;.40|.70;no
i0 b1;ground;.80|1;no
z0.1;ground;.70|.90;no
z150;key;.35|.70;no
z50000;constant;.15|.40;no
o12.6 k12.3 i14 b1;constant;.30|.50;yes
o12.6 k12.3 i14 z0.5;constant;.30|.50;yes
o12.6 k0 i14;constant;0|.50;yes
o12.6 k12.2 i0;constant;.2|.50;yes
o12.5 k0 i0;ground;0|.50;yes
o0 k12.2 i0 l0;ground;0|.50;yes
o0 k12.2 i14 l0;key;.2|.50;yes
o12.6 k12.2 i14 l0;constant;.2|.50;yes
o0 k0 i0 b1 l12 r14;lamp;0|1;no
o12.6 s20 k12;constant;.2|.50;yes
o0 k0 i14.1 l12 b0;lamp;.70|.9;no
o12.6 k5 i5;signal;0|.50;yes
o12.6 b1;constant;0|.50;yes
o0 k12.2 i14.1 l12 z0.3;key;.90|1;no
o5 k5 i5;signal;.9|1;no
o0 c0 k0 i14.1 l0 r14.2;engine;.95|1;no
o0.2 k11.4 i13.1 r13.3 l11.2 b0;key;.95|1;no
o0 k12.2 i2.5;key;.3|.50;yes
""".strip().splitlines()]


def test_there_are_enough_patterns():
    assert len(PATTERNS) >= 80
    assert sum(p[3] == "yes" for p in PATTERNS) >= 9


@pytest.mark.parametrize(("pattern", "kind", "sure", "contradicts"), PATTERNS, ids=[p[0] for p in PATTERNS])
def test_a_pattern(pattern, kind, sure, contradicts):
    plan = plan_with()
    pin = plan.pins("AP1")[0]
    plan = take(plan, pin, pattern)
    verdict = classify(plan, plan.part(pin.id))
    low, high = (float(x) for x in sure.split("|"))
    assert (bool(verdict.conflicts), verdict.kind) == (contradicts == "yes", kind), (verdict.shares, verdict.conflicts)
    assert low <= verdict.sure_frac <= high + 1e-9, verdict.shares
    assert sum(share for _, share in verdict.shares) == pytest.approx(1)
    assert not (verdict.conflicts and verdict.is_sure)
    # The figure opens into a working that gives it again.
    shown = working(analyse(plan), f"pin_sure/{pin.id}")
    assert evaluate(shown.formula, shown.inputs) == pytest.approx(shown.value) == pytest.approx(verdict.sure_frac)


def test_estimates_are_shares():
    assert sum(PRIOR.values()) == pytest.approx(1)
    for columns in (*SHOWS.values(), TO_FRAME):
        for shares in columns.values():
            assert sum(shares) == pytest.approx(1)


def test_what_settles_a_pin_settles_it():
    """Whatever a pin really is, taking the reading asked for each time ends with the right answer."""
    truths = {"ground": "o0 k0 i0 l0 b1", "constant": "o12.6 k12.2 i14 l12 b0", "key": "o0 k12.2 i14 l12 b0",
              "engine": "o0 k0 i14 l0 b0", "lamp": "o0 k0 i14 l12 b1", "signal": "o0 k5 i5 l5 b0"}
    for kind, truth in truths.items():
        plan = plan_with()
        pin, shown = plan.pins("AP1")[0], {w[0]: w for w in truth.split()}
        asked = []
        while (settle := classify(plan, plan.part(pin.id)).settle) is not None:
            asked.append(settle)
            letter = "b" if settle[0] == "beep" else next(k for k, v in STATES.items() if v == settle[1])
            plan = take(plan, pin, shown[letter])
            assert len(asked) <= len(ASKS)
        verdict = classify(plan, plan.part(pin.id))
        assert verdict.kind == kind and verdict.sure_frac > 0.9, (kind, asked, verdict.shares)


def test_six_volt_machines_are_read_at_six_volts():
    plan = plan_with()
    plan = plan.model_copy(update={"machine": plan.machine.model_copy(update={"system_v": 6})})
    pin = plan.pins("AP1")[0]
    assert classify(take(plan, pin, "o0 k6.1 i6.9 l6"), pin).kind == "key"


def test_the_posts_own_reading_is_the_measure():
    """11 V on a pin is nearly all of a flat battery's 11.4 V, and clearly less than the 14.8 V that a charger holds."""
    plan = plan_with()
    pin, battery = plan.pins("AP1")[0], plan.battery

    def shares(posts):
        rested = apply(plan,
            TakeReadings(readings=({"element": battery.id, "quantity": "V", "state": "key_off", "value": posts},)))
        return dict(classify(take(rested, pin, "o11"), pin).shares)
    assert shares(11.4)["constant"] > 0.8 > 0.4 > shares(14.8)["constant"]


@pytest.mark.parametrize(("pattern", "changes", "trigger", "feed"), [
    ("o0 k12.2 i14 l12", {}, "", ""),
    ("o0 k12.2 i14 l12", {"rated_a": 0.1}, "only 0.1 A to spare", "only 0.1 A to spare"),
    ("o0 k12.2 i14 l12", {"rated_a": 3, "others_a": 2.5}, "", "only 0.5 A to spare"),
    ("o12.6 k12.2 i14", {}, "never let go", ""),
    ("o0 k0 i0 b1 l0", {}, "it is ground", "it is ground"),
    ("o0 k5 i5", {}, "a signal", "a signal"),
    ("o0 k0 l12", {}, "follows its lamp", "follows its lamp"),
    ("o0", {}, "not sure enough", "not sure enough"),
    ("o12.6 b1", {}, "contradict", "contradict"),
    ("o0 k12.2 i14 l12", {"never": "airbag"}, "airbag system: never tapped", "never tapped"),
    ("", {}, "not probed yet", "not probed yet"),
])
def test_what_a_pin_suits(pattern, changes, trigger, feed):
    plan = plan_with(({"way": 1, "function": "unknown", "rated_a": 5, **changes},))
    pin = plan.pins("AP1")[0]
    verdict = classify(take(plan, pin, pattern), pin)
    assert (trigger in verdict.trigger if trigger else verdict.trigger == ""), verdict.trigger
    assert (feed in verdict.feed if feed else verdict.feed == ""), verdict.feed


def test_continuity_is_asked_only_of_a_pin_seen_dead_with_the_key_off():
    """On a live pin it may cost the meter's fuse."""
    for pattern in ("", "k0 i0 l0", "o12.6", "o5", "k0 i0", "z3"):
        plan = plan_with()
        pin = plan.pins("AP1")[0]
        settle = classify(take(plan, pin, pattern), pin).settle
        assert settle is None or settle[0] != "beep", pattern
    assert classify(take(plan_with(), pin, "o0 k0 i0 l0"), pin).settle == ("beep", "key_off")


def test_run_on_is_asked_of_what_is_live_with_key_or_engine():
    for pattern, asked in (("o0 k12.2 i14 l12", ("s", "key_on")), ("o0 k0 i14 l0", ("s", "idle")),
                           ("o12.6 k12.2 i14", None),
                           ("o0 k0 l12", None), ("o0 k12.2 i14 l12 s8", None)):
        plan = plan_with()
        pin = plan.pins("AP1")[0]
        plan = take(plan, pin, pattern)
        assert run_on_ask(plan, pin) == asked, pattern
    assert classify(plan, pin).off_delay_s == 8


def test_the_probe_stays_in_one_state_as_long_as_it_can():
    """Turning the key costs time: every pin that wants a state is read before the next state is asked for."""
    plan = plan_with(tuple({"way": n, "function": "unknown", "rated_a": 3} for n in (1, 2, 3)))
    order = []
    for _ in range(20):
        found = next_probe(plan)
        if found is None:
            break
        pin, (quantity, state) = found
        order.append((quantity, state))
        shown = {"key_off": 0, "key_on": 12.2, "idle": 14, "lamp_on": 12}[state] if quantity == "V" else 0
        plan = apply(plan,
            TakeReadings(readings=({"element": pin.id, "quantity": quantity, "state": state, "value": shown},)))
    assert found is None
    changes = sum(a != b for a, b in pairwise(order))
    assert changes == len(set(order)) - 1
    # Connectors that are never tapped, and pins that are settled by hand, are not asked for.
    assert next_probe(plan_with(never="CAN")) is None
    assert next_probe(plan_with(({"way": 1, "function": "ground"},))) is None


@pytest.mark.parametrize(("seconds", "delay_s"), [(0.0, 0.0), (1.4, 0.0), (1.6, 1.6), (12, 12)])
def test_what_goes_out_at_once_has_no_delay(seconds, delay_s):
    plan = plan_with()
    pin = plan.pins("AP1")[0]
    assert classify(take(plan, pin, f"o0 k12.2 i14.1 s{seconds:g}"), pin).off_delay_s == delay_s


@pytest.mark.parametrize(("system_v", "read_v", "taken_v"), [
    (12, 4.7, 12.6), (12, 4.9, 4.9), (24, 9.5, 25.2), (24, 10, 10)])
def test_a_supply_is_what_was_read_at_its_posts_unless_that_is_no_supply(system_v, read_v, taken_v):
    b = Bench()
    b.machine(system_v=system_v)
    plan = apply(b.plan, TakeReadings(readings=({"element": b.battery, "quantity": "V", "state": "key_off",
                                                 "value": read_v},)))
    assert supply_volts(plan)["key_off"] == pytest.approx(taken_v)
    assert supply_volts(plan)["idle"] == pytest.approx(13.6 * system_v / 12)


@pytest.mark.parametrize("kind", ["battery", "pack", "lighting coil only"])
def test_states_are_those_of_the_machine(kind):
    plan = Bench().plan
    plan = plan.model_copy(update={"machine": plan.machine.model_copy(update={"system": kind})})
    assert ("assist" in state_words(plan), "cranking" in state_words(plan)) == (kind == "pack", kind != "pack")


@pytest.mark.parametrize(("volts", "is_lamp"), [
    (5.3, False), (5.4, True), (7.2, True), (7.3, False), (10.9, False), (11.0, True), (14.0, True), (14.1, False)])
def test_what_a_drive_unit_feeds_lamps_with_is_between_two_figures(volts, is_lamp):
    plan = plan_with()
    machine = plan.machine.model_copy(update={"system": "pack", "system_v": 36})
    plan = plan.model_copy(update={"machine": machine})
    pin = plan.pins("AP1")[0]
    verdict = classify(take(plan, pin, f"l{volts:g}"), pin)
    assert (verdict.kind == "lamp" and verdict.sure_frac > 0.8) is is_lamp
