"""Plans with switches, flashers, leads and connectors of all sorts, made from a seed."""

import random
from typing import Any

from intents import answered

from loadstar.core.edits import CutWire
from loadstar.core.edits.builder import Builder
from loadstar.core.errors import PlanError
from loadstar.core.intents import carried_out, offered
from loadstar.core.plan.model import Plan

MACHINES = ("battery", "pack", "magneto")
POSITIONS = ("off; dip: in+dip; main: in+main", "dip: in+dip; main: in+main", "off; on: in+out",
             "off; park: in+park; dip: in+dip+park; main: in+main+park", "off; left: in+left; right: in+right",
             "off; left: in+left; right: in+right; both: in+left+right", "off; brake: in+out", "off; hot: in+out",
             "off; horn: in+out", "a: in+p, q+r; b: in+q, p+r")

WITH_OFF = tuple(p for p in POSITIONS if p.startswith("off"))  # what is always live feeds nothing then


def switched(machine: str, seed: int) -> Plan:
    """A plan of one sort of machine with two to five circuits of those that have switches."""
    dice = random.Random(f"{machine}/{seed}")
    b = _machine(machine, dice)
    places = [p.id for p in b.plan.places]
    for _ in range(dice.randint(2, 5)):
        if not _feeds(b):  # a magneto that was converted: it has no coil any more
            break
        if dice.random() < 0.5:
            _wanted(b, dice, places)
        else:
            _switch(b, dice, places)
    for _ in range(dice.randint(0, 2)):
        wires = [w.id for w in b.plan.wires if any(b.plan.part(e.part).kind == "load" for e in (w.a, w.b))]
        if wires:
            b.do(CutWire(id=dice.choice(wires), place=dice.choice(places)))
            b.change(b.plan.of_kind("coupling")[-1].id, rated_a=60)
    if machine == "battery":
        _second(b, random.Random(f"second/{seed}"), places)
        _side_coil(b, random.Random(f"coil/{seed}"), places)
    return b.plan


def _second(b: Builder, dice: random.Random, places: list[str]) -> None:
    """Of every second machine a second battery, joined in one of its ways, with something or nothing on it."""
    if dice.random() < 0.5 or b.plan.of_kind("second_battery"):
        return
    b.add("tap", name="run line", place=places[0], live="engine", rated_a=10, fused_a=10, source_mohm=20)
    second = b.add("second_battery", name="camp battery", place=dice.choice(places),
                   joined_by=dice.choice(("isolator", "diode", "nothing")), joined_a=dice.choice((5, 10, 25)),
                   capacity_ah=dice.choice((5, 12, 40)), internal_mohm=dice.choice((6, 15, 60)))
    for _ in range(dice.randint(0, 2)):
        b.add("load", name=f"camp {len(b.plan.parts)}", category="other", amount=round(dice.uniform(2, 60), 1),
              behaviour=dice.choice(("resistor", "power")), at_v=13.5, window_low_v=0, window_high_v=100,
              place=dice.choice(places), feed=second, live=dice.choice(("always", "key", "switch")))


def _side_coil(b: Builder, dice: random.Random, places: list[str]) -> None:
    """Of every third machine a lighting coil beside the battery, with lamps on a switch or straight on it."""
    if dice.random() < 0.67:
        return
    coil = b.add("coil", name="light coil", place=dice.choice(places), emf_mv_per_rpm=dice.choice((6, 9)),
                 reactance_mohm_per_rpm=1.8, winding_ohm=0.4, clamp_v=dice.choice((None, 13)))
    switch = b.add("selector", name="light switch", place=dice.choice(places), feed=coil, live="engine",
                   positions="off; dip: in+dip; main: in+main") if dice.random() < 0.6 else ""
    for live in ("dip", "main") if switch else ("engine", "engine"):
        b.add("load", name=f"{live} {len(b.plan.parts)}", category="lamp", behaviour="filament",
              amount=dice.choice((5, 21, 35)), at_v=12, window_low_v=0, window_high_v=100, place=dice.choice(places),
              feed=switch or coil, live=live, returns=dice.choice(("frame", "own wire")))


def _machine(machine: str, dice: random.Random) -> Builder:
    b = Builder(machine)
    if machine == "magneto":
        b.machine(system="magneto", system_v=6, chassis="winding", rev_rpm=dice.choice((None, 8000)))
    elif machine == "pack":
        b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    places = [b.add("place", name=f"spot {n}", ambient_c=dice.choice((30, 45))) for n in range(4)]
    for n in range(3):
        b.add("run", a=places[n], b=places[n + 1], length_m=round(dice.uniform(0.2, 1.2), 2))
    if machine == "magneto":
        b.add("coil", name="coil", place=places[0], emf_mv_per_rpm=6, reactance_mohm_per_rpm=0.5, winding_ohm=0.3)
    elif machine == "pack":
        b.add("pack", name="pack", place=places[0], series=13, parallel=6, bms_continuous_a=60, bms_peak_a=90)
        b.add("drive", name="drive", place=places[1], full_w=300)
        b.add("converter", name="box", place=places[1], window_low_v=36, window_high_v=60, rated_a=30)
    else:
        b.add("battery", name="battery", place=places[0], capacity_ah=18, internal_mohm=12)
        b.add("generator", name="generator", place=places[0], rating1_w=300, rating1_rpm=1300, rating2_w=700,
              rating2_rpm=5000, phase_ohm=0.1)
        b.add("tap", name="key wire", place=places[0], live="key", rated_a=60, fused_a=60, source_mohm=5)
        b.add("block", name="block", place=places[1], ways=24)
        for live in dice.sample(("brake", "left", "right", "dip", "main", "horn"), 3):
            b.add("tap", name=f"{live} wire", place=places[2], live=live, rated_a=20, fused_a=20, source_mohm=20)
    return b


def _feeds(b: Builder) -> list[str]:
    usual = {"battery": ("block", "battery"), "pack": ("converter",), "magneto": ("coil",)}[b.plan.name]
    return [p.id for kind in usual for p in b.plan.of_kind(kind)[:1]]  # not a small one that was made on the way


def _wanted(b: Builder, dice: random.Random, places: list[str]) -> None:
    kind = dice.choice(offered(b.plan))
    try:
        values: dict[str, Any] = answered(b.plan, kind, lambda keys: dice.choice(list(keys)))
    except PlanError:  # nothing on the plan yet to be renewed or repaired
        return
    for ask in kind.ASKS:
        if ask.name in values:
            continue
        if ask.choices:
            picked = dice.choice(ask.choices)[0]
            values[ask.name] = int(picked) if ask.kind == "whole" else picked
        elif ask.name.endswith("_at"):
            values[ask.name] = dice.choice(places)
        elif ask.kind == "choice":
            values[ask.name] = None if ask.optional and dice.random() < 0.5 else dice.choice(
                [p.id for p in b.plan.of_kind("tap")] or _feeds(b) if ask.name == "plug" else _feeds(b))
    if "has_off" in values and b.plan.name != "magneto":
        values["has_off"] = "yes"  # else it is lit while parked, from what is always live
    values |= {"watts": round(dice.uniform(1.5, 30), 1)} if "watts" in kind.model_fields else {}
    if b.plan.name == "magneto":  # LED beams on a weak coil: small ones
        values |= {name: 4.0 for name in ("dip_w", "main_w", "watts")
                   if name in kind.model_fields and values.get("lamps") == "power"}
    try:
        b.do(carried_out(b.plan, kind.model_validate(values)))
    except PlanError as refused:  # a second starter, a block on a wire that lives by an occasion: said in words
        assert all(f.sentence.endswith(".") for f in refused.faults), refused.faults


def _switch(b: Builder, dice: random.Random, places: list[str]) -> None:
    live = {"magneto": "engine"}.get(b.plan.name, dice.choice(("key", "always")) if b.plan.name == "battery" else "key")
    switch = b.add("selector", name=f"switch {len(b.plan.parts)}", place=dice.choice(places),
                   feed=dice.choice(_feeds(b)), live=live,
                   positions=dice.choice(POSITIONS if b.plan.name == "magneto" else WITH_OFF))
    volts = {"magneto": 6, "pack": 12}.get(b.plan.name, 13.5)
    part = b.plan.part(switch)
    lives = [at for at in ("dip", "main", "park", "left", "right", "brake", "hot", "horn") if part.gives(at)] or (
        ["switch"] if part.gives("switch") else [])
    for live in dice.sample(lives, k=min(len(lives), dice.randint(1, 3))):
        b.add("load", name=f"{live} {len(b.plan.parts)}", category="lamp", amount=round(dice.uniform(2, 30), 1),
              behaviour="filament" if b.plan.name == "magneto" else dice.choice(("filament", "resistor", "power")),
              at_v=volts, window_low_v=0, window_high_v=100, place=dice.choice(places), feed=switch, live=live,
              returns="frame" if b.plan.name == "magneto" and dice.random() < 0.5 else "own wire")
