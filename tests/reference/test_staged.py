"""Faults followed from opener to opener, against a simulation in steps of a millisecond that knows nothing of how they
are followed, and against the circuit simulator at each of their steps."""

import math
import random
from dataclasses import dataclass, replace
from functools import cache
from itertools import pairwise

import numpy as np
import pytest

from loadstar.core.physics import heat, surface
from loadstar.core.sizing.argument import heated
from loadstar.core.sizing.courses import courses, follow
from loadstar.core.sizing.story import Course
from loadstar.core.wiring.conductor import ConductorAt
from reference.simulator import needs_ngspice, run_ngspice
from reference.staged import Fault, fault_of, staged

COUNT = 300
STEP_S, LONGEST_S = 0.001, 20.0
SPAN_S = 0.95 * LONGEST_S
# ISO 8820-3, slow edge, and usual solid-state ways: multiples against seconds, straight on logarithmic scales
SLOW = {"fuse": ((1.35, 600), (1.6, 50), (2.0, 5), (3.5, 0.5), (6.0, 0.1)),
        "electronic": ((1.35, 1.0), (1.6, 0.3), (2.0, 0.1), (4.0, 0.005), (6.0, 0.001))}


def opens_after_s(kind: str, multiple: float) -> float:
    """By hand: between two gates a power of the multiple; beyond the last a fuse's I2t is held, a way's time is."""
    gates = SLOW[kind]
    if multiple < gates[0][0]:
        return math.inf
    for (m0, t0), (m1, t1) in pairwise(gates):
        if multiple <= m1:
            return t0 * (multiple / m0) ** (math.log(t1 / t0) / math.log(m1 / m0))
    return gates[-1][1] * (gates[-1][0] / multiple) ** 2 if kind == "fuse" else gates[-1][1]


@dataclass(frozen=True)
class Drawn:
    """A fault with the ohms that it has, the kinds of its openers, and its wire's start."""

    fault: Fault
    ohm: float
    start_c: float
    wire: ConductorAt

    @property
    def course(self) -> Course:
        """As it is followed."""
        return follow(self.fault.legs, self.fault.openers, self.ohm)


@cache
def drawn() -> list[Drawn]:
    """The 300 faults: some of their openers electronic, some dead, some of a resistance."""
    found = []
    for seed in range(COUNT):
        dice = random.Random(f"drawn/{seed}")
        fault = fault_of(staged(seed), seed)
        fault = replace(fault, openers=[replace(o, kind="electronic") if dice.random() < 0.25 else o
                                        for o in fault.openers])
        found.append(Drawn(fault, dice.choice((0.0, 0.0, dice.uniform(0.02, 0.4))),
                           dice.uniform(fault.air_c, 90.0), fault.metal))
    return found


def currents(fault: Fault, closed: set[str], ohm: float) -> dict[str, float]:
    """Nodal analysis by hand: the amps of every resistor, sources as currents beside their conductance."""
    parts = [(e, a, b, r) for e, a, b, r in fault.resistors if e in closed]
    parts.append(("fault", fault.plus, fault.minus, max(ohm, 1e-6)))
    nodes = sorted({n for _, a, b, _ in parts for n in (a, b)} | {n for s in fault.sources for n in s[:2]})
    at = {n: i for i, n in enumerate(nodes)}
    g, into = np.eye(len(nodes)) * 1e-7, np.zeros(len(nodes))
    for a, b, siemens in [(a, b, 1 / r) for _, a, b, r in parts] + [(p, m, 1 / r) for p, m, _, r in fault.sources]:
        i, j = at[a], at[b]
        g[i, i] += siemens
        g[j, j] += siemens
        g[i, j] -= siemens
        g[j, i] -= siemens
    for p, m, volts, r in fault.sources:
        into[at[p]] += volts / r
        into[at[m]] -= volts / r
    v = np.linalg.solve(g, into)
    return {e: (v[at[a]] - v[at[b]]) / r for e, a, b, r in parts}


class Simulated:
    """All faults at once, a millisecond at a time: what each opener has used of its time, what the wires' two nodes
    hold, and what has opened when."""

    def __init__(self, faults: list[Drawn]) -> None:
        self.faults = faults
        most = max(len(d.fault.openers) for d in faults)
        self.closed = [{e for e, *_ in d.fault.resistors} for d in faults]
        self.used = np.zeros((len(faults), most))
        self.per_s = np.zeros((len(faults), most))
        self.amps = np.zeros(len(faults))
        self.opened: list[list[tuple[str, float, float]]] = [[] for _ in faults]  # part, when, wire's temperature
        self.now = 0.0
        for n in range(len(faults)):
            self._solve(n)

    def _solve(self, n: int) -> None:
        one = self.faults[n]
        found = currents(one.fault, self.closed[n], one.ohm)
        self.per_s[n] = 0.0
        for i, o in enumerate(one.fault.openers):
            if o.part in self.closed[n]:
                after = opens_after_s(o.kind, abs(found[o.part]) / o.rating_a)
                self.per_s[n, i] = 0.0 if math.isinf(after) else 1 / after
        self.amps[n] = abs(found[one.fault.wire])

    def run(self) -> None:
        """From the beginning until LONGEST_S."""
        w = [d.wire for d in self.faults]
        r20, d_mm, od, k = np.array([(x.r20_ohm_per_m, x.d_mm, x.od_mm, x.cover.k_w_per_mk) for x in w]).T
        area, air = np.array([x.area_mm2 for x in w]), np.array([d.fault.air_c for d in self.faults])
        start = np.array([d.start_c for d in self.faults])
        # Two nodes: copper with Van Wormer's share of the insulation's heat (1.7 MJ/m3K of PVC), the rest outside.
        ratio = od / d_mm
        van = 1 / (2 * np.log(ratio)) - 1 / (ratio**2 - 1)
        cover = np.pi / 4 * (od**2 - d_mm**2) * 1e-6 * 1.7e6
        inner, outer = area * 1e-6 * 3.45e6 + van * cover, (1 - van) * cover
        through = 2 * np.pi * k / np.log(ratio)
        core = start.copy()
        gives = surface.surface_loss_w_per_m(od, start, air)
        skin = start - gives / (through + gives / np.maximum(start - air, 1e-9))
        taken = np.zeros(len(w))
        while self.now < LONGEST_S:
            core += STEP_S / inner * (self.amps**2 * heat.resistance_at(r20, core) - through * (core - skin))
            core = np.minimum(core, 4000.0)
            skin += STEP_S / outer * (through * (core - skin)
                                      - surface.surface_loss_w_per_m(od, np.maximum(skin, air + 1e-9), air))
            skin = np.minimum(skin, 4000.0)
            taken += self.amps**2 * STEP_S
            self.now += STEP_S
            self.used += self.per_s * STEP_S
            for n, i in np.argwhere((self.used >= 1.0) & (self.per_s > 0)).tolist():
                opener = self.faults[n].fault.openers[i]
                copper = 17.2414e-3 / r20[n]
                # below a second all heat stays in the copper (IEC 60364-4-43)
                warm = core[n] if self.now >= 1.0 else (
                    (234.5 + start[n]) * math.exp(min(taken[n] / (226 * copper) ** 2, 50)) - 234.5)
                self.opened[n].append((opener.part, self.now, warm))
                self.closed[n].discard(opener.part)
                self._solve(n)


def test_three_hundred_faults_end_as_they_do_millisecond_by_millisecond():
    """The same openers in the same order, at the same time within 2 % and two steps, the wire as warm within 2 K, and
    the same current left over for good."""
    faults = drawn()
    brute = Simulated(faults)
    brute.run()
    followed = several = 0
    for n, one in enumerate(faults):
        course = one.course
        after = heated(one.wire, [course], one.fault.air_c, one.start_c)[0].after_c if course.steps else ()
        told, now = [], 0.0
        for step, warm in zip(course.steps, after, strict=False):
            now += step.seconds
            told += [(part, now, warm) for part in step.opens]
        told = [t for t in told if t[1] < SPAN_S]
        seen = [o for o in brute.opened[n] if o[1] < LONGEST_S][:len(told)]
        assert sorted(p for p, *_ in seen) == sorted(p for p, *_ in told), n
        for (part, at, warm), (other, then, reached) in zip(told, seen, strict=True):
            assert then == pytest.approx(at, rel=0.02, abs=0.0035), (n, part, other)
            if reached < 1000 and abs(at - then) < 0.0011:
                assert warm == pytest.approx(reached, abs=max(2.0, 0.02 * (reached - one.start_c))), (n, part)
        followed += len(told)
        several += len(told) > 1
        if course.steps and math.isfinite(sum(s.seconds for s in course.steps)) and now < SPAN_S:
            assert brute.amps[n] < 1e-3, n  # ended
        elif course.steps and math.isinf(course.steps[-1].seconds) and now < SPAN_S:
            assert brute.amps[n] == pytest.approx(course.rest_a, rel=1e-4, abs=1e-4), n
    assert followed > 200
    assert several > 40


@needs_ngspice
def test_every_step_of_twenty_faults_is_what_the_circuit_simulator_finds():
    """The whole fault, its wire and each opener at every step of faults of several steps, against ngspice."""
    steps = 0
    for one in [d for d in drawn() if len(d.course.steps) > 1][:20]:
        open_: tuple[int, ...] = ()
        names = [o.part for o in one.fault.openers]
        for step in one.course.steps:
            leg, gone = one.fault.legs(open_), {names[i] for i in open_}
            parts = [r for r in one.fault.resistors if r[0] not in gone]
            said = simulated(one.fault, parts, one.ohm)
            amps = leg.volts / (leg.loop_ohm + one.ohm)
            assert said["fault"] == pytest.approx(amps, rel=1e-4), step
            assert said[one.fault.wire] == pytest.approx(amps * leg.wire_share, rel=1e-4, abs=1e-4), step
            for name, share in zip(names, leg.shares.tolist(), strict=True):
                assert said.get(name, 0.0) == pytest.approx(amps * share, rel=1e-4, abs=1e-4), (step, name)
            open_ = tuple(sorted((*open_, *(names.index(p) for p in step.opens))))
            steps += 1
    assert steps > 40


def simulated(fault: Fault, resistors: list[tuple[str, str, str, float]], ohm: float) -> dict[str, float]:
    """The amps of every resistor by ngspice's volts."""
    parts = [*resistors, ("fault", fault.plus, fault.minus, max(ohm, 1e-7))]
    nodes = dict.fromkeys([fault.minus, *(n for _, a, b, _ in parts for n in (a, b)),
                           *(n for s in fault.sources for n in s[:2])])
    number = {name: str(i) for i, name in enumerate(nodes)}
    lines = ["a fault"]
    lines += [f"R{i} {number[a]} {number[b]} {r!r}" for i, (_, a, b, r) in enumerate(parts)]
    lines += [f"G{i} {number[n]} 0 {number[n]} 0 1e-9" for i, n in enumerate(nodes) if number[n] != "0"]
    for i, (p, m, volts, r) in enumerate(fault.sources):
        lines += [f"V{i} s{i} {number[m]} {volts!r}", f"RS{i} s{i} {number[p]} {r!r}"]
    wanted = " ".join(f"v({n})" for n in number.values() if n != "0")
    said = run_ngspice("\n".join([*lines, ".options reltol=1e-9 abstol=1e-12", ".control", "set numdgt=12", "op",
                                  f"print {wanted}", ".endc", ".end", ""]))
    volts = {**{name: said.get(n, 0.0) for name, n in number.items()}}
    return {e: abs(volts[a] - volts[b]) / r for e, a, b, r in parts}


def test_a_fault_of_more_ohms_begins_with_less_and_the_last_looked_at_just_opens_something():
    """From a dead short to where its first opener, at 1.35 times its rating, takes ten minutes."""
    told = 0
    for one in drawn():
        found = courses(one.fault.legs, one.fault.openers)
        begins = [c.begins_a for c in found]
        assert begins == sorted(begins, reverse=True)
        assert [c.fault_ohm for c in found] == sorted(c.fault_ohm for c in found)
        if len(found) > 1:
            told += 1
            assert found[-1].opened
            assert found[-1].steps[0].seconds > 100 or any(o.kind == "electronic" for o in one.fault.openers)
    assert told > 100
