"""The example plans of `examples/`, made by the same edits that people use; run to write them anew.

Each shows one thing that goes wrong on real benches; all machines are made up.
"""

import sys
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "src"))
from loadstar.core.edits import MoveEnd, RemoveElement
from loadstar.core.edits.builder import Builder
from loadstar.core.plan import document
from loadstar.core.plan.model import Plan
from loadstar.demo import (
    as_found,
    ferry_runner,
    fit_out,
    lights_and_horn,
    mud_hopper,
    one_plug,
    tide_hauler,
    tide_race,
    winter,
)

FOLDER = Path(__file__).resolve().parents[1] / "examples"


def _machine(name: str, **machine: object) -> tuple[Builder, str, str]:
    """A builder with two places a metre apart: the battery box and the nose."""
    b = Builder(name)
    b.machine(name=name, **machine)
    box = b.add("place", name="battery box", x_mm=400, y_mm=440, ambient_c=40)
    nose = b.add("place", name="nose", x_mm=1200, y_mm=800, ambient_c=40)
    b.add("run", a=box, b=nose, length_m=1.0)
    return b, box, nose


def _battery(b: Builder, place: str, **values: object) -> str:
    return b.add("battery", **{"name": "battery", "place": place, "chemistry": "agm", "capacity_ah": 12, "rate_h": 10,
                               "internal_mohm": 14, **values})


def _generator(b: Builder, place: str, **values: object) -> str:
    return b.add("generator", **{
        "name": "generator", "place": place, "rating1_w": 120, "rating1_rpm": 1300, "rating2_w": 340,
        "rating2_rpm": 5000,
        "rating_v": 14.2, "phase_ohm": 0.28, "diode_v": 0.95, "set_v": 14.2, **values})


def hungry_at_idle() -> Plan:
    """A: a touring motorcycle whose accessories ask for more than the generator gives at idle."""
    b, box, nose = _machine("Hungry at idle", kind="touring motorcycle")
    _battery(b, box)
    _generator(b, box)
    b.add("own", name="the machine itself", place=box, power_w=150, live="engine")
    b.add("tap", name="run line", place=box, live="engine", rated_a=5, fused_a=5)
    block = b.add("block", name="block", place=box, ways=8)
    common = {"place": nose, "feed": block, "live": "engine"}
    b.add("load", name="Heated grips", category="heating", behaviour="resistor", amount=14.2**2 / 3.6, at_v=14.2,
          **common)
    for side in ("Left", "Right"):
        b.add("load", name=f"{side} lamp", category="lamp", amount=18, **common)
    b.add("load", name="Radio charger", category="electronics", amount=12, **common)
    b.add("load", name="Navigation", category="electronics", amount=9, **common)
    b.add("load", name="Heated vest", category="heating", behaviour="resistor", amount=45, at_v=14.2, **common)
    return b.plan


def two_users_of_a_plug() -> Plan:
    """B: one factory plug with a charger and a pump on it."""
    b, box, nose = _machine("One plug, two users")
    _battery(b, box)
    _generator(b, box)
    plug = b.add("tap", name="tail plug", place=nose, live="key", rated_a=10, fused_a=15, source_mohm=25)
    b.add("load", name="Charger", category="electronics", amount=36 / 0.9, place=nose, feed=plug, live="key")
    b.add("load", name="Pump", category="motor", amount=95, place=nose, feed=plug, live="key")
    return b.plan


def six_rings() -> Plan:
    """C: six ring terminals on one battery post."""
    b, box, nose = _machine("Six rings on a post")
    battery = _battery(b, box)
    _generator(b, box)
    b.rules(stud_terminals=3, reasons={"stud_terminals": "M6 posts here take three"})
    for n, watts in enumerate((60, 10, 12, 8, 15, 20), 1):
        b.add("load", name=f"Thing {n}", amount=watts, place=nose, feed=battery, live="always",
              reason_always="an example of stacking")
    return b.plan


def two_references() -> Plan:
    """D: a winding's end and DC negative meet on the frame behind a full-wave rectifier."""
    b, box, nose = _machine("Two references on one frame", kind="small motorcycle", chassis="winding", idle_rpm=1500,
                            cranking_a=0)
    battery = _battery(b, box, capacity_ah=5, internal_mohm=30)
    _generator(b, box, phases=1, tied="frame", rectifier="full", rating1_w=30, rating1_rpm=2500, rating2_w=90,
               rating2_rpm=6000)
    b.add("load", name="Headlamp", category="lamp", amount=25, place=nose, feed=battery, live="always",
          reason_always="switched at the lamp", body="on the frame")
    return b.plan


def _e_bike(name: str, **machine: object) -> tuple[Builder, str, str]:
    return _machine(name,
                    **{"kind": "cargo e-bike", "system": "pack", "system_v": 48, "chassis": "floating", **machine})


def converter_on_a_pack() -> Plan:
    """E: a step-down converter whose window ends above the empty pack, with nothing protecting its input."""
    b, box, nose = _e_bike("Converter on a 13-series pack")
    b.add("pack", name="pack", place=box, chemistry="nmc", series=13, parallel=5, cell_ah=3.4)
    b.add("drive", name="drive", place=box)
    converter = b.add("converter", name="step-down box", place=box, window_low_v=48, window_high_v=60, out_v=12,
                      rated_a=8,
                      efficiency_frac=0.88, idle_w=0)
    b.do(RemoveElement(id=next(p.id for p in b.plan.parts if p.kind == "fuse")))
    for wire in b.plan.wires:
        if wire.made_for == converter and wire.colour == "RD":
            b.fix(wire.id, area_mm2=0.5)
    b.add("load", name="Lamps", category="lamp", amount=60, at_v=12, window_low_v=9, place=nose, feed=converter,
          live="key")
    lead = b.wire_to(f"{b.plan.loads[0].id}.pos")
    fuse = b.add("fuse", name="output fuse", place=box, rating_a=10, volts_v=32)
    switch = next(p.id for p in b.plan.parts if p.kind == "switch")
    b.do(MoveEnd(id=lead, end="a", to=f"{fuse}.b"))
    b.lay(f"{switch}.b", f"{fuse}.a", colour="OG")
    return b.plan


def converter_with_a_car_fuse() -> Plan:
    """E, second: the same with a 32 V fuse on the pack side."""
    b, box, nose = _e_bike("Converter behind a 32 V fuse")
    b.add("pack", name="pack", place=box, chemistry="nmc", series=13, parallel=5, cell_ah=3.4)
    b.add("drive", name="drive", place=box)
    converter = b.add("converter", name="step-down box", place=box, window_low_v=36, window_high_v=60, out_v=12,
                      rated_a=8,
                      efficiency_frac=0.88, idle_w=0)
    b.change(next(p.id for p in b.plan.parts if p.kind == "fuse"), volts_v=32)
    b.add("load", name="Lamps", category="lamp", amount=60, at_v=12, window_low_v=9, place=nose, feed=converter,
          live="key")
    return b.plan


def second_pack() -> Plan:
    """F: a second pack joined in plain parallel at another voltage."""
    b, box, nose = _e_bike("Second pack in plain parallel", system_v=36)
    b.add("pack", name="first pack", place=box, series=10, parallel=5, cell_mohm=35, extra_mohm=20, rested_v=41.6,
          charge_limit_a=5)
    b.add("pack", name="second pack", place=nose, series=10, parallel=5, cell_mohm=55, extra_mohm=20, rested_v=39.9,
          charge_limit_a=3)
    b.add("drive", name="drive", place=box, assist_w=200, full_w=700)
    b.add("combiner", name="Y lead", place=box, way="parallel")
    return b.plan


def magneto_lighting() -> Plan:
    """G: three lamps on a 6 V magneto."""
    b, box, nose = _machine("Magneto lighting", kind="small motorcycle", system="magneto", system_v=6,
                            chassis="winding",
                            idle_rpm=1500, town_rpm=3000, cruise_rpm=6000)
    coil = b.add("coil", name="lighting coil", place=box, emf_mv_per_rpm=7.8, reactance_mohm_per_rpm=1.38,
                 winding_ohm=0.3)
    for name, watts, place in (("Headlamp", 24, nose), ("Tail lamp", 5, box), ("Speedometer lamp", 1.8, nose)):
        b.add("load", name=name, category="lamp", behaviour="filament", amount=watts, at_v=6, place=place, feed=coil,
              live="engine", window_low_v=0, window_high_v=9, returns="frame")
    for point in b.plan.of_kind("frame"):
        b.change(point.id, joint_mohm=0.5, ageing=1)
    for wire in b.plan.wires:
        b.fix(wire.id, area_mm2=4.0)
    return b.plan


def total_loss() -> Plan:
    """H: a battery that nothing charges."""
    b, box, _ = _machine("Total loss", system="total_loss")
    _battery(b, box, capacity_ah=7, rate_h=10, peukert_k=1.12, internal_mohm=20)
    volts = 12.616  # what the ledger counts at: rested, at the judged charge of 80 %
    b.add("own", name="ignition and logger", place=box, power_w=2.3 * volts, live="key", low_v=11.0)
    return b.plan


def thin_and_over_fused() -> Plan:
    """I: 0.75 mm² behind 15 A in 60 °C."""
    b, box, nose = _machine("Thin and over-fused")
    for place in (box, nose):
        b.change(place, ambient_c=60)
    battery = _battery(b, box)
    b.rules(insulation="105", reasons={"insulation": "105 °C wire is on the shelf"})
    load = b.add("load", name="Pump", category="motor", amount=90, place=nose, feed=battery, live="always",
                 reason_always="an example")
    b.change(next(p.id for p in b.plan.parts if p.kind == "fuse" and p.made_for == load), rating_a=15)
    b.fix(b.wire_to(f"{load}.pos"), area_mm2=0.75)
    return b.plan


def stretched_lead() -> Plan:
    """J: the battery moved, the starter's lead stretched in 6 mm²."""
    b, box, nose = _machine("Stretched starter lead", cranking_a=130)
    _battery(b, box, internal_mohm=10)
    starter = b.add("starter", name="starter", place=nose)
    for wire in (b.wire_to(f"{starter}.pos"), b.wire_to(f"{starter}.neg")):
        b.fix(wire, area_mm2=6.0, length_m=1.1)
    return b.plan


def kill_wire_fed() -> Plan:
    """K: a shared switch joins the kill wire to battery positive."""
    b, box, nose = _machine("Kill wire fed", kind="utility bike", cranking_a=0)
    battery = _battery(b, box, capacity_ah=5, internal_mohm=25)
    kill = b.add("kill", name="kill wire", place=nose)
    switch = b.add("switch", name="handlebar switch", place=nose)
    b.lay(f"{battery}.pos", f"{switch}.a", colour="RD")
    b.lay(f"{switch}.b", f"{kill}.t", colour="BK")
    return b.plan


def trigger_overloaded() -> Plan:
    """L: a relay's coil on an instrument pin that is taken as good for 0.1 A."""
    b, box, nose = _machine("Trigger overloaded")
    battery = _battery(b, box)
    _generator(b, box)
    b.add("tap", name="instrument pin", place=nose, live="key", rated_a=0.1, fused_a=7.5, source_mohm=400)
    b.add("load", name="Lamp", category="lamp", amount=35, place=nose, feed=battery, live="key")
    relay = next(p.id for p in b.plan.parts if p.kind == "relay")
    b.change(relay, coil_ohm=90)
    return b.plan


EXAMPLES: dict[str, Callable[[], Plan]] = {
    "a-hungry-at-idle": hungry_at_idle, "b-one-plug-two-users": two_users_of_a_plug, "c-six-rings": six_rings,
    "d-two-references": two_references, "e-converter-on-a-pack": converter_on_a_pack,
    "e-converter-behind-a-32-v-fuse": converter_with_a_car_fuse, "f-second-pack": second_pack,
    "g-magneto-lighting": magneto_lighting, "h-total-loss": total_loss, "i-thin-and-over-fused": thin_and_over_fused,
    "j-stretched-starter-lead": stretched_lead, "k-kill-wire-fed": kill_wire_fed,
    "l-trigger-overloaded": trigger_overloaded,
    "survey-season": lambda: fit_out()[0], "winter-counts": lambda: winter()[0], "tide-race": lambda: tide_race()[0],
    "ferry-runner": lambda: ferry_runner()[0],
    "mud-hopper": lambda: mud_hopper()[0], "tide-hauler": lambda: tide_hauler()[0],
    "as-found-in-spring": lambda: as_found()[0], "lights-and-horn": lambda: lights_and_horn()[0],
    "one-plug": lambda: one_plug()[0],
}


def main() -> int:
    """Write every example."""
    for name, make in EXAMPLES.items():
        (FOLDER / f"{name}.json").write_text(document.to_json(make()), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
