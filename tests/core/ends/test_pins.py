"""Fewest pins against brute force: every partition of a net's leads."""

import math
import random

import pytest

from loadstar.core.ends.joints import HEAVY, POWER, housing, in_order, joints
from loadstar.core.ends.pins import Contact, Lead, consolidate, fits


def partitions(items):
    """Every way to part a list into sets."""
    if not items:
        yield []
        return
    first, *rest = items
    for parts in partitions(rest):
        yield [[first], *parts]
        for n, part in enumerate(parts):
            yield [*parts[:n], [first, *part], *parts[n + 1:]]


def holds(leads: list[Lead], contact: Contact) -> bool:
    """The rules once more, by themselves."""
    if len(leads) == 1:
        return True
    total = sum(lead.amps for lead in leads)
    return (total <= contact.most_a + 1e-9 and not any(lead.apart for lead in leads)
            and all((total - lead.amps) * contact.shared_ohm <= lead.tolerates_v + 1e-9 for lead in leads))


def random_net(seed: int, count: int) -> tuple[list[Lead], Contact]:
    dice = random.Random(seed)
    contact = Contact(dice.choice((7, 10, 13)), 1.0, dice.choice((0, 0.01, 0.035)))
    return [Lead(f"lead {n}", "5 V", amps=round(dice.choice((0.02, 0.5, dice.uniform(0.1, 6))), 2),
                 tolerates_v=dice.choice((math.inf, math.inf, 0.017, 0.06)), apart=dice.random() < 0.1)
            for n in range(count)], contact


@pytest.mark.parametrize("block", range(4))
def test_as_few_as_brute_force_on_two_hundred_random_nets(block):
    for seed in range(block * 50, block * 50 + 50):
        leads, contact = random_net(seed, random.Random(seed).randint(1, 7))
        least = min(len(parts) for parts in partitions(leads) if all(holds(p, contact) for p in parts))
        (net,) = consolidate(leads, contact).nets
        assert len(net.pins) == least, seed
        assert net.bound <= least and net.proven
        assert sorted(lead.name for pin in net.pins for lead in pin.leads) == sorted(lead.name for lead in leads)
        assert all(holds(list(pin.leads), contact) for pin in net.pins)


def test_fourteen_leads_are_exact_and_more_are_said_not_to_be_proven():
    for seed in range(5):
        (net,) = consolidate(*random_net(seed, 14)).nets
        assert net.proven
    leads = [Lead(f"lead {n}", "ground", amps=3.4) for n in range(20)]
    (net,) = consolidate(leads, Contact(10, 1, 0)).nets
    assert (len(net.pins), net.bound, net.proven) == (10, 7, False)
    assert net.why.startswith("Not proven")


def test_a_throttle_s_ground_and_one_with_lamp_and_horn():
    """3.5 A through 35.3 mΩ are 124 mV; the throttle tolerates 17: two pins."""
    leads = [Lead("throttle", "ground", amps=0.02, tolerates_v=0.017), Lead("lamp", "ground", amps=1.5),
             Lead("horn", "ground", amps=2.0)]
    (net,) = consolidate(leads, Contact(10, 2.5, 0.0353)).nets
    assert [sorted(lead.name for lead in pin.leads) for pin in net.pins] == [["horn", "lamp"], ["throttle"]]
    assert "shift throttle by" in net.why or "no two may share" in net.why
    assert not fits(leads, Contact(10, 2.5, 0.0353))
    assert fits(leads, Contact(10, 2.5, 0.0047))  # 16.5 mV


def test_nets_and_regulators_never_share_and_look_alikes_are_named():
    leads = [Lead("throttle feed", "5 V", "controller"), Lead("display feed", "5 V", "display"),
             Lead("sensor feed", "5 V", "controller"), Lead("lamp", "ground")]
    found = consolidate(leads, Contact(10, 1, 0.01))
    assert [(n.net, n.regulator, len(n.pins)) for n in found.nets] == [
        ("5 V", "controller", 1), ("5 V", "display", 1), ("ground", "", 1)]
    (alike,) = found.alike
    assert (alike.one, alike.two) == ("5 V of controller", "5 V of display")
    assert "regulator" in alike.rule


def test_a_lead_kept_apart_shares_with_nothing():
    leads = [Lead("brake", "ground", apart=True), *(Lead(f"l{n}", "ground", amps=0.1) for n in range(3))]
    (net,) = consolidate(leads, Contact(10, 3, 0)).nets
    assert sorted(len(pin.leads) for pin in net.pins) == [1, 3]
    assert "kept apart for safety" in net.why


def test_what_a_barrel_does_not_take_is_spliced_first():
    """7 wires of 0.22 mm² are 1.54 mm²: not into a barrel for 1.0; four are 0.88."""
    wires = [Lead(f"l{n}", "5 V", amps=0.1, area_mm2=0.22) for n in range(7)]
    assert consolidate(wires, Contact(10, 1.0, 0)).pins[0].splice_first
    assert not consolidate(wires[:4], Contact(10, 1.0, 0)).pins[0].splice_first


def test_more_than_a_contact_carries_is_refused_in_a_sentence():
    with pytest.raises(ValueError, match="heater carries 12 A, and a contact 10 A"):
        consolidate([Lead("heater", "ground", amps=12)], Contact(10, 1, 0))


def test_housings_and_the_order_of_pins():
    assert [housing(n) for n in (1, 5, 16, 17, 24, 30)] == [1, 6, 16, 24, 24, None]
    leads = [Lead("gnd", "ground", amps=3), Lead("can high", "CAN high", twist="can low"), Lead("feed", "12 V", amps=3),
             Lead("can low", "CAN low", twist="can high")]
    names = [pin.leads[0].name for pin in in_order(consolidate(leads, Contact(10, 1, 0)).pins)]
    assert names[0] == "feed" and names[-1] == "gnd"
    assert abs(names.index("can high") - names.index("can low")) == 1


def test_heavy_and_high_voltage_pins_stand_apart_and_the_rest_has_ways_to_spare():
    leads = [Lead("motor", "48 V", amps=18, volts=48), Lead("charge", "72 V", amps=4, volts=72), Lead("lamp", "12 V"),
             Lead("ground", "ground")]
    rest, apart = joints(consolidate(leads, Contact(25, 3, 0)), 2)
    assert [p.net for p in rest.pins] == ["12 V", "ground"] and (rest.wanted, rest.ways, rest.why) == (4, 4, "")
    assert {p.net for p in apart.pins} == {"48 V", "72 V"} and (apart.wanted, apart.ways, apart.why) == (2, 2, HEAVY)


@pytest.mark.parametrize(("more", "power"), [
    ([Lead("lamp", "12 V", amps=1.5, volts=12.0), Lead("lamp ground", "ground", amps=1.5, volts=0.0)],
     {"lamp", "lamp ground"}),
    ([Lead("key", "battery +", amps=0.2, volts=52.0)], {"key"}), ([Lead("buzzer", "12 V", amps=0.1)], set()),
    ([Lead("brake", "brake", amps=0.01, volts=5.0)], set())])
def test_power_shares_neither_pin_nor_connector_with_signals_unless_told_to(more, power):
    """A lead is power by what is known of it: over 1 A, or over 5.5 V; one of which nothing is known is neither."""
    signals = [Lead("throttle", "5 V", amps=0.02, volts=5.0), Lead("throttle ground", "ground", amps=0.02, volts=0.0)]
    contact = Contact(7.5, 1.0, 0.0)
    made = joints(consolidate([*signals, *more], contact), 1)
    apart = {lead.name for joint in made if joint.why == POWER for pin in joint.pins for lead in pin.leads}
    assert apart == power and len(made) == 1 + bool(power)
    whole = joints(consolidate([*signals, *more], contact, together=True), 1, together=True)
    assert [j.why for j in whole] == [""] and sum(len(p.leads) for p in whole[0].pins) == 2 + len(more)
    assert len(whole[0].pins) <= sum(len(j.pins) for j in made)
    if "lamp ground" in power:
        assert any(a.rule == "power stays out of the connector of 5 V signals"
                   for a in consolidate([*signals, *more], contact).alike)


def test_without_signals_nothing_is_parted():
    leads = [Lead("lamp", "12 V", amps=1.5, volts=12.0), Lead("horn", "horn", amps=3.0, volts=12.0)]
    assert [j.why for j in joints(consolidate(leads, Contact(7.5, 1.0, 0.0)), 1)] == [""]
