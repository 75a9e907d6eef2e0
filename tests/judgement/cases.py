"""The judge's plans: in words, in code, and what an experienced electrician says of each.

`must` are (rule, severity, words that the sentence holds); a plan with none is good: no stop and no caution is said of
it. `never` are rules that must not speak even where others do.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

from builders import Bench
from judgement.plans import e_bike

from loadstar.core.edits import AddWire, MoveEnd, RemoveElement, SetMachine, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.plan.model import Plan
from loadstar.demo import winter

Must = tuple[str, str, str]


@dataclass(frozen=True)
class Case:
    """One plan and its judgement."""

    words: str
    make: Callable[[], Plan]
    must: tuple[Must, ...] = ()
    never: tuple[str, ...] = field(default=())


def bench(**machine) -> Bench:
    """A battery machine whose generator keeps up from idle."""
    b = Bench()
    b.machine(idle_rpm=2500, **machine)
    return b


def of(b: Bench, *loads, **more) -> Plan:
    """The bench with some loads."""
    for load in loads:
        b.load(**{**more, **load})
    return b.plan


LAMP = {"category": "lamp", "amount": 18, "name": "lamp"}
GRIPS = {"category": "heating", "behaviour": "resistor", "amount": 40, "at_v": 13.5, "name": "grips"}
RADIO = {"category": "electronics", "amount": 12, "name": "radio", "window_low_v": 9}
FILAMENT = {"category": "lamp", "behaviour": "filament", "amount": 35, "at_v": 13.5, "name": "filament lamp",
            "inrush_a": 25, "inrush_ms": 15}
ALWAYS = {"live": "always", "reason_always": "agreed"}


def fused(load_watts: float, rating: float, area: float | None = None, **values) -> Plan:
    """One always-live load straight from the battery behind a fuse fixed by hand."""
    b = bench()
    load = b.load(**{"name": "thing", "amount": load_watts, "feed": b.battery, "minutes_per_hour": 0, **ALWAYS,
                     **values})
    b.change(b.fuse_of(load), rating_a=rating)
    if area:
        for wire in [w.id for w in b.plan.wires if w.made_for == load]:
            b.wire(wire, area_mm2=area)
    return b.plan


def module(*loads) -> Plan:
    """Loads on a distribution module."""
    b = bench()
    chosen = b.add("module", name="module", place=b.box)
    return of(b, *loads, feed=chosen)


def module_by_hand() -> Plan:
    """A 10 A way on 1 mm2 over two metres: 107 A can flow, and the way acts at once."""
    b = bench()
    chosen = b.add("module", name="module", place=b.box)
    load = b.load(**{**GRIPS, "feed": chosen, "amount": 60})
    way = next(p.id for p in b.plan.parts if p.kind == "way")
    b.change(way, limit_a=10)
    b.wire(b.feed_wire(load), area_mm2=1.0, length_m=2.0)
    return b.plan


def far_block() -> Plan:
    """A block under the tail, its main fuse at the battery."""
    b = bench()
    b.change(b.block, place=b.nose)
    return of(b, LAMP, GRIPS)


def bar(area: float | None = None) -> Plan:
    """A bus bar beside the battery with three fused loads."""
    b = bench()
    chosen = b.add("junction", name="bar", place=b.box, form="bus bar")
    lead = b.plan.wires[-1].id
    for n in range(3):
        load = b.load(name=f"thing {n}", amount=60, feed=chosen, minutes_per_hour=0, **ALWAYS)
        b.change(b.fuse_of(load), rating_a=15)
    if area:
        b.wire(lead, area_mm2=area)
    return b.plan


def starter(area: float | None = None) -> Plan:
    """A starter on leads of its own."""
    b = bench(cranking_a=110)
    motor = b.add("starter", name="starter", place=b.nose)
    for wire in [w.id for w in b.plan.wires if motor in w.a + w.b]:
        if area:
            b.wire(wire, area_mm2=area)
    return b.plan


def hot(air_c: float, insulation: str = "B") -> Plan:
    """A lamp in warm air, wire of a class."""
    b = bench()
    for place in (b.box, b.nose):
        b.change(place, ambient_c=air_c)
    b.rules(insulation=insulation, reasons={"insulation": "what is on the shelf"})
    return of(b, LAMP)


def bundle(loads: int) -> Plan:
    """Many loaded wires through one run under the tank."""
    b = bench()
    b.change(b.block, ways=24)
    b.plan = apply(b.plan, SetMachine(values={"cruise_rpm": 6000}))
    for n in range(loads):
        b.load(name=f"lamp {n}", category="lamp", amount=5)
    return b.plan


def set_point(set_v: float, chemistry: str) -> Plan:
    """A regulator and a battery."""
    b = bench()
    b.change(b.battery, chemistry=chemistry)
    b.change(b.plan.generator.id, set_v=set_v)
    return of(b, LAMP)


def frame_return(mohm: float = 1.0) -> Plan:
    """A lamp that returns through the frame, where that is the house's way."""
    b = bench()
    b.rules(returns="frame", reasons={"returns": "old machines here have it so"})
    load = b.load(**{**LAMP, "amount": 36, "returns": "frame"})
    b.change(next(p.id for p in b.plan.parts if p.kind == "frame" and p.made_for == load), joint_mohm=mohm)
    return b.plan


def plug(watts: float, **tap) -> Plan:
    """One load on a factory plug."""
    b = bench()
    b.change(b.key, **{"rated_a": 10, "fused_a": 15, "source_mohm": 25, **tap})
    return of(b, {"name": "charger", "category": "electronics", "amount": watts, "feed": b.key, "window_low_v": 9})


def back_fed() -> Plan:
    """A key wire joined to an always-fed tracker."""
    b = bench()
    load = b.load(name="tracker", feed=b.battery, amount=2, **ALWAYS)
    return apply(b.plan, AddWire(a=f"{b.key}.pin", b=f"{load}.pos"))


def two_key_feeds() -> Plan:
    """One load on two wires that both live with the key."""
    b = bench()
    other = b.add("tap", name="second key wire", place=b.box, live="key", rated_a=5, fused_a=5)
    load = b.load(feed=b.key, amount=10, name="radio")
    return apply(b.plan, AddWire(a=f"{other}.pin", b=f"{load}.pos"))


def shorted(*ends: str) -> Plan:
    """A wire laid across two terminals by mistake."""
    b = bench()
    lamp = b.load(**LAMP)
    a, z = (e.format(battery=b.battery, lamp=lamp) for e in ends)
    return apply(b.plan, AddWire(a=a, b=z))


def reversed_lamp() -> Plan:
    """A lamp with its two wires changed over."""
    b = bench()
    lamp = b.load(**LAMP)
    feed, back = b.feed_wire(lamp), next(w.id for w in b.plan.wires if w.a == f"{lamp}.neg")
    return apply(apply(b.plan, MoveEnd(id=feed, end="b", to=f"{lamp}.neg")),
                 MoveEnd(id=back, end="a", to=f"{lamp}.pos"))


def selective(own: float, main: float) -> Plan:
    """A branch fuse against the main fuse of a block with two loads."""
    b = bench()
    lamp = b.load(**LAMP)
    b.load(**RADIO)
    b.change(b.fuse_of(lamp), rating_a=own)
    b.change(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block), rating_a=main)
    return b.plan


def lamps_together(peak: float, rating: float) -> Plan:
    """Two lamps that come on with the key, both behind one fuse."""
    b = bench()
    one, two = (b.load(**{**LAMP, "name": n, "inrush_a": peak, "inrush_ms": 10}) for n in ("left", "right"))
    b.plan = apply(b.plan, MoveEnd(id=b.feed_wire(two), end="a", to=f"{b.fuse_of(one)}.b"))
    b.change(b.fuse_of(one), rating_a=rating)
    return b.plan


def no_main_fuse() -> Plan:
    """A block a metre away without a fuse at the battery."""
    b = bench()
    b.change(b.block, place=b.nose)
    b.load(**LAMP)
    return apply(b.plan,
                 RemoveElement(id=next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)))


def trigger(rated_a: float) -> Plan:
    """A relay's coil on a found wire."""
    b = bench()
    b.change(b.key, rated_a=rated_a)
    return of(b, LAMP)


def relay(**values) -> Plan:
    """A lamp behind a relay from the battery, with the relay as given."""
    b = bench()
    b.load(**{**LAMP, "feed": b.battery, "amount": 40})
    b.change(next(p.id for p in b.plan.parts if p.kind == "relay"), **values)
    return b.plan


def magneto(watts: float, cruise_rpm: float, clamp_v: float | None = None) -> Plan:
    """Head and tail lamp on a 6 V coil."""
    b = Builder("magneto")
    b.machine(system="magneto", system_v=6, chassis="winding", idle_rpm=1500, town_rpm=2200, cruise_rpm=cruise_rpm)
    place = b.add("place", name="engine")
    coil = b.add("coil", name="coil", place=place, emf_mv_per_rpm=7.8, reactance_mohm_per_rpm=1.38, winding_ohm=0.3,
                 clamp_v=clamp_v)
    for name, amount in (("head lamp", watts), ("tail lamp", 5)):
        b.add("load", name=name, category="lamp", behaviour="filament", amount=amount, at_v=6, place=place, feed=coil,
              live="engine",
              returns="frame", window_low_v=0, window_high_v=100)
    return b.plan


def total_loss() -> Plan:
    """A machine that nothing charges."""
    b = Bench(generator=False)
    b.machine(system="total_loss")
    b.add("own", name="ignition", place=b.box, power_w=25, live="key", low_v=11)
    return of(b, LAMP)


def half_wave(tied: str) -> Plan:
    """One phase rectified half-wave."""
    b = bench()
    b.change(b.plan.generator.id, phases=1, rectifier="half", tied=tied, rating1_w=220, rating2_w=440)
    return of(b, LAMP)


BOX = {"rated_a": 10}
TWO = {"charge_frac": 0.8}
SMALL = {"amount": 40, "category": "electronics"}
CASES: dict[str, Case] = {
    # -- good: no stop, no caution ------------------------------------------------------------------------------
    "one lamp on a block": Case("A lamp with the key, all left to Loadstar.", lambda: of(bench(), LAMP)),
    "grips, lamps and a radio on a block": Case("Four accessories, all left.",
                                                lambda: of(bench(), LAMP, LAMP, GRIPS, RADIO)),
    "a filament lamp with its inrush": Case("35 W filament, 25 A for 15 ms.", lambda: of(bench(), FILAMENT)),
    "a horn": Case("90 W motor, 25 A for 100 ms, a minute an hour.", lambda: of(bench(), {
        "name": "horn", "category": "motor", "amount": 90, "inrush_a": 25, "inrush_ms": 100, "minutes_per_hour": 1})),
    "a pump whose inrush falls": Case("60 W pump, 30 A falling with 50 ms.", lambda: of(bench(), {
        "name": "pump", "category": "motor", "amount": 60, "inrush_a": 30, "inrush_ms": 50, "inrush_shape": "decay",
        "minutes_per_hour": 1})),
    "straight from the battery behind a relay": Case("Lamp through fuse and relay.", lambda: relay()),
    "straight from the battery, always live": Case("A tracker, 5 A fuse, agreed.", lambda: fused(2, 5)),
    "a jump socket": Case("120 W now and then, 20 A fuse, 4 mm2 by hand.", lambda: fused(120, 20, 4.0)),
    "a block at the far end": Case("Main fuse at the battery, block a metre away.", far_block),
    "a bus bar": Case("Three 15 A circuits on a bar, lead left to Loadstar.", lambda: bar()),
    "a bus bar on a 16 mm2 lead": Case("45 A of fuses, 16 mm2.", lambda: bar(16.0)),
    "a module": Case("Lamp, grips and radio on a module.", lambda: module(LAMP, GRIPS, RADIO)),
    "a module way on 1 mm2": Case("10 A setting, 1 mm2, 2 m: no fault current is too late.", module_by_hand),
    "a factory plug": Case("36 W on a 10 A plug behind 15 A.", lambda: plug(36)),
    "two wires of one key circuit": Case("Both live with the key.", two_key_feeds),
    "frame return": Case("House rule frame, a good joint.", lambda: frame_return(1.0)),
    "a starter": Case("Leads left to Loadstar, no fuse by custom.", lambda: starter()),
    "a starter on 25 mm2": Case("1.2 m there and back.", lambda: starter(25.0)),
    "80 °C with class C": Case("Near the engine, the right insulation.", lambda: hot(80, "C")),
    "60 °C with class B": Case("Under the tank.", lambda: hot(60)),
    "30 °C": Case("In the open.", lambda: hot(30)),
    "a bundle of six": Case("Six small lamps in one run.", lambda: bundle(6)),
    "AGM at 14.4 V": Case("The usual pair.", lambda: set_point(14.4, "agm")),
    "flooded at 14.6 V": Case("The usual pair.", lambda: set_point(14.6, "flooded")),
    "LiFePO4 at 14.4 V": Case("Within its band.", lambda: set_point(14.4, "lfp")),
    "branch 5 A behind 15 A": Case("Selective.", lambda: selective(5, 15)),
    "two lamps behind 10 A, 20 A each for 10 ms": Case("16 A2s: the fuse bears it.", lambda: lamps_together(20, 10)),
    "a trigger that can spare it": Case("A coil of 90 ohm on a 3 A wire.", lambda: trigger(3)),
    "a pull-in of 7 V": Case("A usual relay at 40 °C.", lambda: relay(pull_in_v=7)),
    "magneto with a regulator": Case("Lamps held at 6.3 V.", lambda: magneto(24, 5000, 6.3)),
    "total loss": Case("Nothing is wrong, it just ends.", total_loss),
    "half-wave with its end on the frame": Case("The simple way.", lambda: half_wave("frame")),
    "the demonstration's winter plan": Case("The least that the counts need.", lambda: winter()[0]),
    "a pack and a converter": Case("40 W behind a 10 A box.", lambda: e_bike(drive={}, converter=BOX, load=SMALL)),
    "an isolated converter": Case("Its output has a negative of its own.",
                                  lambda: e_bike(drive={}, converter={**BOX, "isolated": True}, load=SMALL)),
    "two packs on ideal diodes": Case("Either feeds, neither back-feeds.", lambda: e_bike(
        drive={}, second=TWO, combiner={}, converter=BOX, load=SMALL)),
    "two packs on a changeover": Case("Either position.", lambda: e_bike(
        drive={}, second=TWO, combiner={"way": "changeover"}, converter=BOX, load=SMALL)),
    "two equal packs in parallel": Case("Same voltage, same kind.", lambda: e_bike(
        drive={}, second=TWO, combiner={"way": "parallel"}, converter=BOX, load=SMALL)),
    "a lamp on the light port": Case("12 W of 17.",
                                     lambda: e_bike(drive={}, port={}, load={"amount": 12, "category": "lamp"})),
    # -- bad: what must be found ----------------------------------------------------------------------------------
    "a thin stub before 40 A": Case("0.5 mm2 between post and fuse.", lambda: fused(60, 40, 0.5), (
        ("wire.not-protected", "stop", "the next behind it"),)),
    "thin wire behind 15 A": Case("0.5 mm2 behind 15 A.", lambda: fused(60, 15, 0.5),
                                  (("wire.not-protected", "stop", "1.1 times"),)),
    "4 mm2 before three 15 A fuses on 1.5 mm2": Case("A lead for 5 A circuits.", lambda: bar(1.5),
                                                     (("wire.not-protected", "stop", "besides"),)),
    "2.5 mm2 starter leads": Case("110 A through 2.5 mm2.", lambda: starter(2.5),
                                  (("starter.drop", "caution", "110 A"),)),
    "85 °C with class B": Case("No size helps.", lambda: hot(85), (("wire.class-too-low", "caution", "class C"),),
                               ("wire.too-hot",)),
    "105 °C with class B": Case("Over its class.", lambda: hot(105), (("wire.class-too-low", "stop", "105 °C"),)),
    "LiFePO4 at 15.2 V": Case("Its protection cuts off.", lambda: set_point(15.2, "lfp"),
                              (("supply.set-point", "stop", "14.6 V"),)),
    "LiFePO4 at 13.6 V": Case("Never full.", lambda: set_point(13.6, "lfp"),
                              (("supply.set-point", "caution", "13.8 V"),)),
    "flooded at 15 V": Case("It boils.", lambda: set_point(15.0, "flooded"),
                            (("supply.set-point", "caution", "boils"),)),
    "AGM at 13.3 V": Case("Never full.", lambda: set_point(13.3, "agm"),
                          (("supply.set-point", "caution", "never filled"),)),
    "a bad frame joint": Case("30 mohm, aged.", lambda: frame_return(30),
                              (("return.frame-joint", "caution", "150 mΩ"),)),
    "a plug over its rating": Case("150 W on 10 A.", lambda: plug(150),
                                   (("feed.plug-overloaded", "caution", "12.5 A"),)),
    "a weak plug": Case("400 mohm of factory wire.", lambda: plug(40, source_mohm=400),
                        (("feed.too-weak", "caution", "No thicker wire helps"),),
                        ("load.drop",)),
    "an unknown factory fuse": Case("Nobody has found it.", lambda: plug(36, fused_a=None),
                                    (("feed.unknown-fuse", "caution", "find it"),),
                                    ("wire.no-fuse",)),
    "back-feed": Case("A key wire on an always-fed load.", back_fed, (("feed.back-feed", "stop", "Key wire is dead"),)),
    "a short across the battery": Case("By mistake.", lambda: shorted("{battery}.pos", "{battery}.neg"),
                                       (("network.short", "stop", "burns"),),
                                       ("wire.too-hot", "wire.not-protected", "network.unsolved")),
    "a short across a lamp": Case("By mistake.", lambda: shorted("{lamp}.pos", "{lamp}.neg"),
                                  (("network.short", "stop", "opens at once"),)),
    "a reversed lamp": Case("Wires changed over.", reversed_lamp, (("load.reversed", "stop", "change its two wires"),),
                            ("load.not-live", "load.not-carried", "load.no-circuit")),
    "branch 15 A behind 5 A": Case("The wrong one opens.", lambda: selective(15, 5),
                                   (("fuse.selective", "caution", "radio"),)),
    "two lamps behind 10 A, 45 A each for 10 ms": Case("81 A2s.", lambda: lamps_together(45, 10),
                                                       (("fuse.inrush", "caution", "81 A²s"),)),
    "no fuse at the battery": Case("A metre of bare feed.", no_main_fuse,
                                   (("wire.no-fuse", "stop", "no fuse before it"),)),
    "a trigger that cannot spare it": Case("0.16 A on 0.1 A.", lambda: trigger(0.1),
                                           (("feed.trigger-overloaded", "caution", "0.16 A"),)),
    "a relay that is too weak": Case("2 A contact.", lambda: relay(contact_a=2),
                                     (("contact.rating", "stop", "rated 2 A"),)),
    "a relay that may not pull in": Case("12 V pull-in.", lambda: relay(pull_in_v=12),
                                         (("relay.pull-in", "caution", "may not pull in"),)),
    "a 24 V lamp": Case("On 12 V.", lambda: of(bench(), {**FILAMENT, "at_v": 24}), (("load.dim", "caution", "24 V"),)),
    "a 48 V heater": Case("On 12 V.", lambda: of(bench(), {**GRIPS, "at_v": 48}), (("load.dim", "caution", "48 V"),)),
    "lamps over-revved": Case("15 W where 24 W belong.", lambda: magneto(15, 5500),
                              (("lamp.over-volts", "caution", "of its hours"),)),
    "half-wave with a floating winding": Case("No current can flow.", lambda: half_wave("floating"),
                                              (("supply.half-tied", "stop", "no end"),)),
    "packs far apart in parallel": Case("54 and 50 V.", lambda: e_bike(
        pack={"rested_v": 54.0}, second={"rested_v": 50.0}, combiner={"way": "parallel"}),
        (("pack.joined", "stop", "second pack"),)),
    "a converter for 42 V and up": Case("The pack goes to 39 V.",
                                        lambda: e_bike(converter={**BOX, "window_low_v": 42}, load=SMALL),
                                        (("converter.window-low", "stop", "39.0 V"),)),
    "a port not enabled": Case("Nothing yet.", lambda: e_bike(drive={}, port={"enabled": False}, load={"amount": 12}),
                               (("port.not-enabled", "caution", "service software"),), ("load.not-live",)),
    "a 32 V fuse on a pack": Case("An arc that stays.", lambda: _car_fuse(),
                                  (("fuse.voltage", "stop", "a 58 V type"),)),
    "a bypassed protection": Case("Fire.", lambda: e_bike(pack={"bms": "bypassed"}, drive={}),
                                  (("pack.bypassed", "stop", "fire"),)),
}


def _car_fuse() -> Plan:
    plan = e_bike(drive={}, converter=BOX, load=SMALL)
    fuse = plan.of_kind("fuse")[0]
    return plan.model_copy(
        update={"parts": tuple(p.model_copy(update={"volts_v": 32}) if p.id == fuse.id else p for p in plan.parts)})
