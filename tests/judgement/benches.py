"""Plans for the judge to look at, each a small machine with something particular about it."""

from collections.abc import Callable
from dataclasses import dataclass, field

from builders import Bench
from judgement.plans import e_bike

from loadstar.core.edits import AddWire, MoveEnd, RemoveElement, SetMachine, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.plan.model import Plan

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


def battery(**values) -> Plan:
    """The bench with a lamp, and more said of its battery."""
    b = bench(cranking_a=110)
    b.change(b.battery, **values)
    return of(b, LAMP)


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


def starter(area: float | None = None, cranking_a: float = 110) -> Plan:
    """A starter on leads of its own."""
    b = bench(cranking_a=cranking_a)
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


def car_fuse() -> Plan:
    plan = e_bike(drive={}, converter=BOX, load=SMALL)
    fuse = plan.of_kind("fuse")[0]
    return plan.model_copy(
        update={"parts": tuple(p.model_copy(update={"volts_v": 32}) if p.id == fuse.id else p for p in plan.parts)})
