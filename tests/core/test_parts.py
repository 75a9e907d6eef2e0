"""What each kind of part puts between its terminals, and what it answers of itself, by hand from what is entered."""

import pytest

from loadstar.core.doc.machine import Machine
from loadstar.core.doc.states import STATES, WITH_KEY
from loadstar.core.parts.dimensions import Dimensions
from loadstar.core.parts.inside import Branch, Inside
from loadstar.core.parts.registry import KINDS
from loadstar.core.physics import elements as net

WHEN = {STATES: "", WITH_KEY: " with the key"}


def part(kind: str, **values):
    """A part of a kind, its id the kind's first."""
    return KINDS[kind].model_validate({"id": f"{KINDS[kind].PREFIX}1", "name": kind, "place": "P1", **values})


def branch(one: Branch) -> str:
    """What conducts, in short: ends, ohms, when."""
    when = WHEN.get(one.states, f" in {'/'.join(one.states)}")
    moved = f" at {'/'.join(one.positions)} of {one.moved_by}" if one.moved_by else ""
    follows = f" while {one.follows} pulls" if one.follows else ""
    flags = "".join(f", {word}" for word in ("control", "opens", "divides") if getattr(one, word))
    joint = f", joint {one.joint}" if one.joint else ""
    return f"{one.a} to {one.b}: {one.ohm}{when}{moved}{follows}{flags}{joint}"


def element(one) -> str:
    """What feeds or draws, in short."""
    if isinstance(one, net.Source):
        return f"source {one.plus} {one.minus}: {one.emf_v:g} V behind {one.ohm:g}"
    if isinstance(one, net.Load):
        return (f"{one.kind} {one.plus} {one.minus}: {one.value:g} floor {one.floor_v:g} at {one.at_v:g} "
                f"most {one.limit_a:g}")
    if isinstance(one, net.Diode):
        return f"diode {one.a} {one.b}: {one.drop_v:g} V and {one.ohm:g}"
    return (f"converter {one.in_plus} {one.in_minus} to {one.out_plus} {one.out_minus}: {one.out_v:g} V "
            f"{one.limit_a:.4g} A at {one.efficiency:g}, idle {one.idle_w:g} W, {one.window_low_v:g} to "
            f"{one.window_high_v:g} V")


def told(inside: Inside) -> list[str]:
    """Everything that a part puts between its terminals."""
    return [*map(branch, inside.branches), *map(element, inside.elements),
            *(f"{a} touches {b}" for a, b in inside.touches), *(f"{a} is {b}" for a, b in inside.on_rail),
            *(f"{a} shorted to {b}" for a, b in inside.shorted),
            *(f"{p.kind} {p.terminal}{' first' * p.first}: {p.words}" for p in inside.points)]


# What is entered of a part and of its machine, and what it puts between its terminals: a fuse's ohms are its rating's,
# a battery's and a coil's volts and ohms those of its state, and so not its own.
CASES = {
    "battery": ("battery", {"capacity_ah": 12, "internal_mohm": 12}, {}, """
        source BT1.pos BT1.neg: 1 V behind 0.01
        negative BT1.neg first: battery, negative
        positive BT1.pos first: battery, positive"""),
    "pack": (
        "pack", {"series": 13, "parallel": 5, "cell_mohm": 40, "extra_mohm": 20}, {"system": "pack",
         "system_v": 48}, """
        source PK1.pos PK1.neg: 1 V behind 0.01
        negative PK1.neg first: pack, negative
        positive PK1.pos first: pack, positive"""),
    "drive": ("drive", {"limit_a": 20}, {"system": "pack"}, """
        power D1.pos D1.neg: 1 floor 6 at 0 most 20
        D1.pos is rail.pos
        D1.neg is rail.neg"""),
    "two packs by diodes": ("combiner", {"way": "diode"}, {}, """
        diode CB1.a CB1.out: 0.03 V and 0.002
        diode CB1.b CB1.out: 0.03 V and 0.002
        positive CB1.out: combiner, common positive"""),
    "two packs on a changeover": ("combiner", {"way": "changeover", "position": "b"}, {}, """
        CB1.a to CB1.out: 0.002 at a of CB1, divides
        CB1.b to CB1.out: 0.002 at b of CB1, divides
        positive CB1.out: combiner, common positive"""),
    "two packs side by side": ("combiner", {"way": "parallel"}, {}, """
        CB1.a to CB1.out: 0.002, divides
        CB1.b to CB1.out: 0.002, divides
        positive CB1.out: combiner, common positive"""),
    "generator": (
        "generator", {"rating1_w": 120, "rating1_rpm": 1300, "rating2_w": 340, "rating2_rpm": 5000,
         "phase_ohm": 0.28}, {}, """
        source G1.pos G1.neg: 1 V behind 0
        G1.pos is rail.pos
        G1.neg is rail.neg"""),
    "lighting coil": (
        "coil", {"emf_mv_per_rpm": 7.5, "reactance_mohm_per_rpm": 1.4, "winding_ohm": 0.3},
         {"system": "magneto", "system_v": 6}, """
        source C1.hot C1.earth: 1 V behind 0.01
        C1.earth touches frame
        winding C1.earth first: coil, the end on the frame
        positive C1.hot first: coil, lamp end (AC)"""),
    "the machine's own": ("own", {"power_w": 110, "live": "engine"}, {}, """
        power M1.pos M1.neg: 1 floor 6 at 0 most inf
        M1.pos is rail.pos
        M1.neg is rail.neg"""),
    "starter": ("starter", {}, {"cranking_a": 87}, """
        current ST1.pos ST1.neg: 0 floor 1 at 0 most inf"""),
    "kill wire": ("kill", {}, {}, """
        kill KW1.t: kill: grounded to stop the engine"""),
    "found wire": ("tap", {"live": "key", "rated_a": 5, "source_mohm": 60}, {}, """
        rail.pos to T1.pin: 0.06 with the key, opens
        T1.gnd to rail.neg: 0.001"""),
    "ground pin": ("tap", {"function": "ground", "plug": "AP1", "way": 2}, {}, """"""),
    "engine line": ("tap", {"live": "engine", "rated_a": 5}, {}, """
        rail.pos to T1.pin: 0.06 in idle/town/cruise/rev/assist/full, opens
        T1.gnd to rail.neg: 0.001"""),
    "light port": ("port", {"limit_w": 17, "enabled": True, "out_v": 12}, {"system": "pack"}, """
        converter rail.pos rail.neg to LP1.pos LP1.neg: 12 V 1.417 A at 0.9, idle 0 W, 0 to 1000 V
        LP1.neg touches rail.neg
        negative LP1.neg: port, output negative
        output LP1.pos: port, output"""),
    "port that is off": ("port", {"limit_w": 17, "enabled": False}, {"system": "pack"}, """
        converter rail.pos rail.neg to LP1.pos LP1.neg: 12 V 1.417 A at 0.9, idle 0 W, 0 to 1000 V
        LP1.neg touches rail.neg
        negative LP1.neg: port, output negative
        output LP1.pos: port, output"""),
    "bus bar": ("junction", {"form": "bus bar", "terminals": 4}, {}, """"""),
    "splice": ("junction", {"form": "splice", "terminals": 3}, {}, """"""),
    "block": ("block", {"ways": 6}, {}, """"""),
    "module": ("module", {"ways": 4}, {}, """"""),
    "isolated converter": (
        "converter", {"window_low_v": 36, "window_high_v": 60, "rated_a": 8, "isolated": True}, {}, """
        converter CV1.inp CV1.inn to CV1.pos CV1.neg: 12 V 8 A at 0.88, idle 0.3 W, 36 to 60 V
        CV1.inp shorted to CV1.inn
        negative CV1.neg: converter, output negative
        output CV1.pos: converter, output"""),
    "converter": (
        "converter", {"window_low_v": 36, "window_high_v": 60, "rated_a": 8, "efficiency_frac": 0.88,
         "idle_w": 0.5, "isolated": False}, {}, """
        converter CV1.inp CV1.inn to CV1.pos CV1.neg: 12 V 8 A at 0.88, idle 0.5 W, 36 to 60 V
        CV1.neg touches CV1.inn
        CV1.inp shorted to CV1.inn
        negative CV1.neg: converter, output negative
        output CV1.pos: converter, output"""),
    "fuse": ("fuse", {}, {}, """
        F1.a to F1.b: None, divides"""),
    "module way": ("way", {}, {}, """
        Y1.a to Y1.b: 0.008 with the key, opens"""),
    "relay": ("relay", {"coil_ohm": 90, "contact_mohm": 3}, {}, """
        K1.30 to K1.87: 0.003 while K1 pulls, opens
        K1.86 to K1.85: 90.0, control
        K1.86 shorted to K1.85"""),
    "solenoid": ("solenoid", {}, {}, """
        SD1.a to SD1.b: 0.0005 while SD1 pulls, opens
        SD1.plus to SD1.minus: 15, control
        SD1.plus shorted to SD1.minus"""),
    "switch": ("switch", {"contact_mohm": 10}, {}, """
        S1.a to S1.b: 0.01, opens"""),
    "changeover switch": ("selector", {"positions": "off; dip: in+dip; main: in+main"}, {}, """
        SW1.in to SW1.dip: 0.015 at dip of SW1, opens
        SW1.in to SW1.main: 0.015 at main of SW1, opens"""),
    "flasher": ("flasher", {}, {}, """
        FL1.in to FL1.out: 0.03 with the key, opens"""),
    "shared lead": ("lead", {}, {}, """
        LD1.in to LD1.pos: 0.005
        LD1.neg to LD1.ret: 0.005
        LD1.pos shorted to LD1.neg"""),
    "connector": ("coupling", {"ways": 2}, {}, """
        CN1.a1 to CN1.b1: 0.005
        CN1.a2 to CN1.b2: 0.005"""),
    "second battery by a diode": (
        "second_battery", {"capacity_ah": 20, "internal_mohm": 10, "joined_by": "diode"}, {}, """
        source BB1.pos BB1.neg: 1 V behind 0.01
        negative BB1.neg: second_battery, negative
        positive BB1.pos: second_battery, positive"""),
    "charging diode": ("charging_diode", {}, {}, """
        diode DI1.in DI1.out: 0.55 V and 0.003"""),
    "frame joint": ("frame", {}, {}, """
        FR1.t to frame: 0.01, joint frame (FR1)"""),
    "brake cut-off": ("cutoff", {}, {}, """"""),
    "lamp": ("load", {"amount": 24, "feed": "B1", "category": "lamp", "behaviour": "power"}, {}, """
        power L1.pos L1.neg: 24 floor 5.94 at 0 most inf
        L1.pos shorted to L1.neg"""),
    "heater": (
        "load", {"amount": 40, "at_v": 13.5, "feed": "B1", "category": "heating", "behaviour": "resistor"}, {}, """
        resistor L1.pos L1.neg: 4.55625 floor 0 at 0 most inf
        L1.pos shorted to L1.neg"""),
    "bulb": ("load", {"amount": 35, "at_v": 13.5, "feed": "B1", "category": "lamp", "behaviour": "filament"}, {}, """
        filament L1.pos L1.neg: 35 floor 0 at 13.5 most inf
        L1.pos shorted to L1.neg"""),
    "so many amps": ("load", {"amount": 3, "unit": "A", "feed": "B1", "behaviour": "current"}, {}, """
        current L1.pos L1.neg: 3 floor 5.94 at 0 most inf
        L1.pos shorted to L1.neg"""),
}


@pytest.mark.parametrize("name", CASES)
def test_inside(name):
    kind, values, machine, expected = CASES[name]
    found = told(part(kind, **values).inside(Machine(**machine)))
    assert found == [line.strip() for line in expected.strip().splitlines()]


def test_every_kind_is_there():
    assert {kind for kind, *_ in CASES.values()} == KINDS.keys() - {"device"}


@pytest.mark.parametrize(("size", "room", "fits"), [
    ((60, 40, 30), (30, 40, 60), True), ((60, 40, 30), (29, 40, 60), False), ((60, 40, 30), (40, 50, 70), True),
    ((60, 40, 30), (30, 40, 59), False), ((60, 40, 30), (), True), ((None, 40, 30), (10, 10, 10), True)])
def test_whether_a_part_fits_a_room(size, room, fits):
    """Its three measures, the smallest against the smallest; where either is not known nothing is said."""
    long, wide, deep = size
    assert Dimensions(long_mm=long, wide_mm=wide, deep_mm=deep).fits(room) is fits


def test_a_load_by_its_figures():
    """40 W at 13.5 V: as a heater 4.556 ohm, so 31.6 W at 12 V; as electronics 40 W at any voltage; 3 A are 3 A."""
    heater = part("load", amount=40, at_v=13.5, feed="B1", behaviour="resistor")
    steady = part("load", amount=40, at_v=13.5, feed="B1", behaviour="power")
    amps = part("load", amount=3, unit="A", at_v=13.5, feed="B1", behaviour="current")
    assert heater.draws_a(12) == pytest.approx(12 / (13.5**2 / 40))
    assert steady.draws_a(12) == pytest.approx(40 / 12)
    assert amps.draws_a(12) == amps.draws_a(14) == 3
    assert (heater.power_w, amps.power_w) == (40, pytest.approx(40.5))
