"""The touring motorcycle: its fit-out, and what is made of it in winter."""

from typing import Any

from ..core.edits import (
    ChangeElement,
    Edit,
    PutPoint,
    SetMachine,
    SetWire,
)
from ..core.edits.builder import Builder
from ..core.plan.model import Plan
from .ways import BY_THE_AXIS

# Of the tourer's front loom: under the tank, past the headstock, out to bars and lamps.
FRONT_LOOM: dict[tuple[str, str], dict[str, Any]] = {
    ("seat", "tank"): {"pinch": "clipped away", "tied_to": "frame"},
    ("tank", "head"): {**BY_THE_AXIS, "hot": "heat sleeve"},
    ("head", "bars"): {"moving": "clipped away"}, ("head", "lamps"): {"edge": "edge trim"}}


def tourer(name: str) -> tuple[Builder, dict[str, str]]:
    """The machine as surveyed: places, runs, battery, generator, factory wires, and a fuse block under the seat."""
    b = Builder(name)
    b.do(SetMachine(values={"name": "Marsh warden's tourer", "kind": "touring motorcycle", "idle_rpm": 1300,
                            "town_rpm": 3000, "cruise_rpm": 5000, "cranking_a": 120}))
    at = {
        "battery": b.add("place", name="battery box", x_mm=430, y_mm=330, ambient_c=45, reach="seat off", water="dry"),
        "seat": b.add("place", name="under the seat", x_mm=180, y_mm=420, ambient_c=45, reach="seat off", water="dry"),
        "tail": b.add("place", name="tail rack", x_mm=-290, y_mm=450, ambient_c=35),
        "tank": b.add("place", name="under the tank", x_mm=850, y_mm=520, ambient_c=60),
        "head": b.add("place", name="headstock", x_mm=1140, y_mm=550, ambient_c=50, reach="tank lifted",
                      moves="with the steering"),
        "bars": b.add("place", name="handlebar", x_mm=1030, y_mm=700, ambient_c=35),
        "lamps": b.add("place", name="lamp bar", x_mm=1300, y_mm=420, ambient_c=40),
        "rider": b.add("place", name="left side panel", x_mm=510, y_mm=230, ambient_c=40, side="left",
                       reach="two screws"),
    }
    for a, z, length in (("battery", "seat", 0.35), ("seat", "tail", 0.65), ("seat", "tank", 0.60),
                         ("tank", "head", 0.50), ("head", "bars", 0.45), ("head", "lamps", 0.55),
                         ("battery", "rider", 0.30)):
        b.add("run", a=at[a], b=at[z], length_m=length, **FRONT_LOOM.get((a, z), {}))
    for n, (run, x_mm, y_mm) in enumerate((("R3", 430, 455), ("R3", 640, 505), ("R4", 1000, 565))):
        b.do(PutPoint(id=run, at=n % 2, x_mm=x_mm, y_mm=y_mm, new=True))
    b.add("battery", name="battery", place=at["battery"], chemistry="agm", capacity_ah=12, rate_h=10,
          internal_mohm=14, charge_frac=0.8, charge_a=1.2)
    b.add("generator", name="generator", place=at["battery"], phases=3, rating1_w=120, rating1_rpm=1300,
          rating2_w=340, rating2_rpm=5000, rating_v=14.2, phase_ohm=0.28, diode_v=0.95, regulator="series", set_v=14.2)
    b.add("own", name="ignition, injection and pump", place=at["battery"], power_w=85, live="engine")
    b.add("own", name="head and tail lamp, instruments", place=at["battery"], power_w=65, live="engine")
    b.add("tap", name="tail lamp wire", place=at["tail"], live="key", rated_a=3, source_mohm=120, fused_a=7.5,
          wire_colour="brown/white")
    b.add("tap", name="regulator run line", place=at["battery"], live="engine", rated_a=5, source_mohm=60, fused_a=5,
          wire_colour="yellow/red")
    at["block"] = b.add("block", name="seat block", place=at["seat"], ways=8)
    return b, at


def fit_out() -> tuple[Plan, list[Edit]]:
    """The survey season's fit-out, and the edits that made it."""
    b, at = tourer("Survey season fit-out")
    block = at["block"]
    b.add("load", name="Heated grips", category="heating", behaviour="resistor", amount=56, at_v=14.2, place=at["bars"],
          feed=block, live="engine")
    lamp = {"category": "lamp", "behaviour": "power", "amount": 18, "at_v": 13.5, "window_low_v": 9,
            "window_high_v": 30,
            "inrush_a": 12, "inrush_ms": 2, "feed": block, "live": "engine", "place": at["lamps"]}
    b.add("load", name="Left fog lamp", **lamp)
    b.add("load", name="Right fog lamp", **lamp)
    b.add("load", name="Radio charger", category="electronics", behaviour="power", amount=12, place=at["tail"],
          feed=block, live="engine", window_low_v=10, window_high_v=16, inrush_a=6, inrush_ms=1)
    b.add("load", name="Navigation unit", category="electronics", behaviour="power", amount=9, place=at["bars"],
          feed=block, live="engine", window_low_v=9, window_high_v=32,
          supplied_lead="Step-down box moulded into the maker's lead: do not cut it out.")
    b.add("load", name="Heated vest", category="heating", behaviour="resistor", amount=45, at_v=14.2, place=at["rider"],
          feed=block, live="engine")
    b.add("load", name="Satellite tracker", category="tracker", behaviour="power", amount=1.8, at_v=12.8,
          place=at["tail"], feed=b.plan.battery.id if b.plan.battery else "", live="always", window_low_v=8,
          window_high_v=30, standby_ma=6, minutes_per_hour=3,
          reason_always="Reports the parked machine's position; agreed with the wardens.")
    vest = next(load for load in b.plan.loads if load.name == "Heated vest")
    thin = next(w for w in b.plan.wires if w.b == vest.at("pos"))
    b.do(ChangeElement(id=thin.a.part, values={"rating_a": 10}))
    b.do(SetWire(id=thin.id, values={"area_mm2": 0.35}))
    return b.plan, b.steps


def winter() -> tuple[Plan, list[Edit]]:
    """A second plan for the same machine: the least that the winter counts need, with nothing to find fault with."""
    b, at = tourer("Winter counts, least load")
    b.add("load", name="Heated grips", category="heating", behaviour="resistor", amount=30, at_v=14.2, place=at["bars"],
          feed=at["block"], live="engine", minutes_per_hour=15)
    b.add("load", name="Radio charger", category="electronics", behaviour="power", amount=12, place=at["tail"],
          feed=at["block"], live="engine", window_low_v=10, window_high_v=16, minutes_per_hour=30)
    own = [p for p in b.plan.parts if p.kind == "own"]
    b.do(ChangeElement(id=own[1].id, values={"power_w": 15, "name": "LED head and tail lamp, instruments"}))
    return b.plan, b.steps
