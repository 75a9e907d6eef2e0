"""The heaviest plans that are legal, and what each costs: seconds and memory, within the bounds that the server sets.

    python tools/heavy.py            every one, each in a process of its own
    python tools/heavy.py NAME       one of them, in this process
"""

import resource
import subprocess
import sys
import time
from collections.abc import Callable
from typing import Any

from loadstar.core import limits
from loadstar.core.analysis import analyse
from loadstar.core.plan.document import from_data
from loadstar.core.plan.model import Plan

SECONDS = 20.0
PLACES = [{"id": f"P{n}", "name": f"place {n}", "x_mm": 100.0 * n} for n in range(1, 4)]
BATTERY = {"id": "BT1", "kind": "battery", "name": "battery", "place": "P1", "capacity_ah": 12.0,
           "internal_mohm": 12.0}
COUNTERS = dict.fromkeys(("P", "R", "BT", "C", "L", "F", "J", "K", "T", "RD", "W"), 9999)
COIL = {"id": "C1", "kind": "coil", "name": "coil", "place": "P1", "emf_mv_per_rpm": 7.8,
        "reactance_mohm_per_rpm": 1.38, "winding_ohm": 0.3}


def _plan(parts: list[dict[str, Any]], wires: list[dict[str, Any]], **machine: Any) -> Plan:
    return from_data({"format": "loadstar-plan", "version": 4, "name": "heavy", "machine": {"name": "heavy", **machine},
                      "places": PLACES, "runs": [{"id": "R1", "a": "P1", "b": "P2", "length_m": 1.0}], "parts": parts,
                      "wires": wires, "counters": COUNTERS})


def _wire(number: int, a: str, b: str, **values: Any) -> dict[str, Any]:
    return {"id": f"W{number}", "a": a, "b": b, **values}


def _load(number: int, **values: Any) -> dict[str, Any]:
    return {"id": f"L{number}", "kind": "load", "name": f"lamp {number}", "place": "P2", "feed": "BT1", "amount": 5.0,
            **values}


def magneto(lamps: int) -> Plan:
    """Lamps on a lighting coil: each is tried failed at every speed."""
    parts = [COIL]
    wires = []
    for n in range(1, lamps + 1):
        parts.append(_load(n, feed="C1", behaviour="filament", category="lamp", at_v=6, live="engine", returns="frame"))
        wires += [_wire(2 * n, "C1.hot", f"L{n}.pos"), _wire(2 * n + 1, f"L{n}.neg", "C1.earth")]
    return _plan(parts, wires, system="magneto", system_v=6, chassis="winding")


def bundle(wires: int) -> Plan:
    """Wires side by side in one run: each warms all the others."""
    loads = wires // 2
    parts = [BATTERY, *(_load(n) for n in range(1, loads + 1))]
    return _plan(parts, [w for n in range(1, loads + 1) for w in (
        _wire(2 * n, "BT1.pos", f"L{n}.pos"), _wire(2 * n + 1, f"L{n}.neg", "BT1.neg"))])


def chain(fuses: int) -> Plan:
    """Fuses one behind the other before one load."""
    parts = [BATTERY, *({"id": f"F{n}", "kind": "fuse", "name": f"fuse {n}", "place": "P1"}
                        for n in range(1, fuses + 1)), _load(1)]
    ends = ["BT1.pos", *(t for n in range(1, fuses + 1) for t in (f"F{n}.a", f"F{n}.b")), "L1.pos"]
    wires = [_wire(n + 1, ends[2 * n], ends[2 * n + 1]) for n in range(fuses + 1)]
    return _plan(parts, [*wires, _wire(fuses + 2, "L1.neg", "BT1.neg")])


def mesh(wires: int) -> Plan:
    """Splices that are all joined with one another."""
    joints = 60
    parts = [BATTERY, *({"id": f"J{n}", "kind": "junction", "name": f"splice {n}", "place": "P2"}
                        for n in range(1, joints + 1)), _load(1)]
    pairs = [(a, b) for a in range(1, joints + 1) for b in range(a + 1, joints + 1)]
    found = [_wire(n + 1, f"J{a}.t", f"J{b}.t") for n, (a, b) in enumerate(pairs[:wires])]
    more = [("BT1.pos", "J1.t"), (f"J{joints}.t", "L1.pos"), ("L1.neg", "BT1.neg")]
    return _plan(parts, [*found, *(_wire(wires + 2 + n, a, b) for n, (a, b) in enumerate(more))])


def relays(number: int) -> Plan:
    """Relays whose coils hang on the contacts of the ones before."""
    parts, wires, live = [BATTERY], [], "BT1.pos"
    for n in range(1, number + 1):
        parts += [{"id": f"K{n}", "kind": "relay", "name": f"relay {n}", "place": "P1"}, _load(n)]
        wires += [(live, f"K{n}.85"), (f"K{n}.86", "BT1.neg"), ("BT1.pos", f"K{n}.30"), (f"K{n}.87", f"L{n}.pos"),
                  (f"L{n}.neg", "BT1.neg")]
        live = f"K{n}.87"
    return _plan(parts, [_wire(n + 1, a, b) for n, (a, b) in enumerate(wires)])


def readings(number: int) -> Plan:
    """A connector with many pins and as many readings as a plan may have."""
    pins = [{"id": f"T{n}", "kind": "tap", "name": f"pin {n}", "place": "P1", "wire_colour": "BK"}
            for n in range(1, 301)]
    plan = _plan([BATTERY, *pins], []).model_dump(mode="json")
    plan["readings"] = [{"id": f"RD{n}", "element": f"T{n % 300 + 1}", "quantity": "V", "value": float(n % 13),
                         "state": ("key_off", "key_on", "idle")[n % 3], "taken": "2026-01-01T10:00:00Z", "by": "x"}
                        for n in range(1, number + 1)]
    return from_data(plan)


PLANS: dict[str, Callable[[], Plan]] = {
    "50 lamps on a magneto": lambda: magneto(50), "150 lamps on a magneto": lambda: magneto(150),
    "999 lamps on a magneto": lambda: magneto(999), "2,960 wires in a bundle": lambda: bundle(2960),
    "1,500 fuses in a chain": lambda: chain(1500), "1,700 wires in a mesh": lambda: mesh(1700),
    "500 relays in a row": lambda: relays(500), "3,000 readings": lambda: readings(3000)}


def tried(name: str) -> str:
    """One plan computed within the server's bounds: seconds, memory, and whether it was whole."""
    plan = PLANS[name]()
    begun = time.perf_counter()
    with limits.at_most(SECONDS):
        analysis = analyse(plan)
    taken_s = time.perf_counter() - begun
    memory_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    left_out = [f.sentence for f in analysis.findings if f.rule == "plan.too-large"]
    return f"{name}: {taken_s:.1f} s, {memory_mb:.0f} MB, {left_out[0] if left_out else 'whole'}"


if __name__ == "__main__":
    if len(sys.argv) > 1:
        print(tried(sys.argv[1]))
    else:
        for each in PLANS:
            print(subprocess.run([sys.executable, __file__, each], capture_output=True, text=True,
                                 check=False).stdout.strip() or f"{each}: ended", flush=True)
