"""Plans of all kinds made from a seed, for comparison with the circuit simulator."""

import random

from loadstar.core.edits.builder import Builder
from loadstar.core.plan.model import Plan

KINDS = ("block", "short", "single phase", "half wave", "module", "bus bar", "frame", "plugs", "total loss", "starter",
         "pack", "converter", "isolated converter", "diode packs", "parallel packs", "port", "changeover packs",
         "two converters",
         "battery converter", "module and block", "generator leads", "traction leads")
PACK_KINDS = ("pack", "converter", "isolated converter", "diode packs", "parallel packs", "port", "changeover packs",
              "two converters",
              "traction leads")
EVERY_KIND = (*KINDS, "magneto")  # what alternates is solved by phasors, and compared apart


def generated(kind: str, seed: int) -> Plan:
    """A plan of a kind: random places, loads, behaviours and rules."""
    dice = random.Random(f"{kind}/{seed}")
    pack = kind in PACK_KINDS
    b = Builder(f"{kind} {seed}")
    if kind == "magneto":
        b.machine(system="magneto", system_v=6, chassis="winding", idle_rpm=1500, town_rpm=3000, cruise_rpm=5000)
    elif pack:
        b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    else:
        b.machine(system="total_loss" if kind == "total loss" else "battery", idle_rpm=dice.choice((1100, 1500, 2200)))
    places = [b.add("place", name=f"spot {n}", ambient_c=dice.choice((25, 40, 60))) for n in range(4)]
    for n in range(3):
        b.add("run", a=places[n], b=places[n + 1], length_m=round(dice.uniform(0.2, 1.5), 2))
    if kind == "magneto":
        return _magneto(b, dice, places)
    feeds = _pack(b, kind, dice, places) if pack else _battery(b, kind, dice, places)
    for n in range(dice.randint(2, 6)):
        feed, volts, lives = dice.choice(feeds)
        behaviour = dice.choice(("power", "resistor", "current", "filament"))
        b.add("load", name=f"load {n}", behaviour=behaviour,
              amount=round(dice.uniform(1, 9 if kind == "port" else 30), 1), at_v=volts,
              category=dice.choice(("lamp", "heating", "electronics", "motor")), place=dice.choice(places), feed=feed,
              live=dice.choice(lives), returns="frame" if kind == "frame" and dice.random() < 0.6 else "own wire",
              body="on the frame" if kind == "frame" and dice.random() < 0.3 else "isolated", window_low_v=0,
              window_high_v=100)
    return b.plan


def _battery(b: Builder, kind: str, dice: random.Random, places: list[str]) -> list[tuple[str, float, tuple[str, ...]]]:
    battery = b.add("battery", name="battery", place=places[0], capacity_ah=dice.choice((5, 12, 20)),
                    internal_mohm=dice.uniform(8, 40), charge_frac=dice.choice((0.4, 0.8, 1.0)))
    if kind != "total loss":
        low = dice.uniform(20, 60) if kind == "short" else 120
        b.add("generator", name="generator", place=places[0], phases=1 if kind in ("single phase", "half wave") else 3,
              rating1_w=low, rating1_rpm=1500, rating2_w=2.2 * low, rating2_rpm=5000,
              phase_ohm=0.2 if kind != "short" else 0.5,
              rectifier="half" if kind == "half wave" else "full", tied="frame" if kind == "half wave" else "floating")
    b.add("own", name="ignition", place=places[0], power_w=dice.uniform(20, 90), live="key")
    key = b.add("tap", name="key wire", place=places[1], live="key", rated_a=10, source_mohm=dice.uniform(20, 150))
    engine = b.add("tap", name="run line", place=places[2], live="engine", rated_a=10,
                   source_mohm=dice.uniform(20, 150))
    every = ("always", "key", "engine")
    if kind == "generator leads":
        b.change(b.plan.generator.id, place=places[1])
        for end in ("pos", "neg"):
            b.lay(f"{battery}.{end}", f"{b.plan.generator.id}.{end}", colour="RD" if end == "pos" else "BK")
    if kind == "battery converter":
        box = b.add("converter", name="box", place=places[1], window_low_v=8, window_high_v=16, out_v=5,
                    rated_a=dice.choice((3, 12)))
        return [(box, 5.0, ("always", "key"))]
    if kind == "module and block":
        module = b.add("module", name="module", place=places[1])
        return [(module, 13.5, every), (b.add("block", name="block", place=places[2], ways=8), 13.5, every),
                (key, 13.5, ("key",))]
    if kind == "module":
        return [(b.add("module", name="module", place=places[1]), 13.5, every)]
    if kind == "bus bar":
        bar = b.add("junction", name="bar", place=places[1], form="bus bar")
        return [(bar, 13.5, every), (battery, 13.5, every)]
    if kind == "plugs":
        return [(key, 13.5, ("key",)), (engine, 13.5, ("engine",))]
    if kind == "starter":
        b.add("starter", name="starter", place=places[3])
    return [(b.add("block", name="block", place=places[2], ways=8), 13.5, every), (battery, 13.5, every)]


def _pack(b: Builder, kind: str, dice: random.Random, places: list[str]) -> list[tuple[str, float, tuple[str, ...]]]:
    pack = b.add("pack", name="pack", place=places[0], series=13, parallel=4, charge_frac=dice.choice((0.3, 0.8, 1.0)))
    b.add("drive", name="drive", place=places[0], assist_w=dice.uniform(80, 250), full_w=dice.uniform(300, 900))
    lives = ("always", "key")
    if kind == "traction leads":
        for end in ("pos", "neg"):
            b.lay(f"{pack}.{end}", f"{b.plan.of_kind('drive')[0].id}.{end}", colour="RD" if end == "pos" else "BK")
    if kind in ("diode packs", "parallel packs", "changeover packs"):
        b.add("pack", name="second", place=places[1], series=13, parallel=3, charge_frac=dice.choice((0.3, 0.79, 0.95)))
        b.add("combiner", name="joint", place=places[1], way=kind.split()[0])
    if kind == "two converters":
        boxes = [b.add("converter", name=f"box {n}", place=places[n], window_low_v=38, window_high_v=60, rated_a=5)
                 for n in (1, 2)]
        return [(box, 12.0, lives) for box in boxes]
    if kind in ("converter", "isolated converter", "diode packs", "changeover packs"):
        box = b.add("converter", name="box", place=places[1], window_low_v=38, window_high_v=60,
                    rated_a=dice.choice((3, 8)),
                    isolated=kind == "isolated converter")
        return [(box, 12.0, lives)]
    if kind == "port":
        return [(b.add("port", name="port", place=places[1], enabled=True, limit_w=40), 12.0, ("key",))]
    return [(pack, 48.0, lives)]


def _magneto(b: Builder, dice: random.Random, places: list[str]) -> Plan:
    coil = b.add("coil", name="coil", place=places[0], emf_mv_per_rpm=dice.uniform(7, 9),
                 reactance_mohm_per_rpm=dice.uniform(1.2, 1.6),
                 winding_ohm=0.3, clamp_v=dice.choice((None, 6.5)))
    for n in range(dice.randint(2, 4)):
        b.add("load", name=f"lamp {n}", category="lamp", behaviour="filament", amount=round(dice.uniform(2, 25), 1),
              at_v=6,
              place=dice.choice(places), feed=coil, live="engine", returns="frame", window_low_v=0, window_high_v=100)
    return b.plan
