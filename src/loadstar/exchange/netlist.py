"""A solved state as a SPICE netlist: an open text that any circuit simulator reads, with the voltages to expect.

Relays, switches and regulators stand as they were found (they are named in comments); constant-power loads,
filaments, diodes and converters are behavioural sources. A lighting coil gives an `.ac` netlist at one frequency,
its lamps at the resistance they have at their solved voltage. The prints at the end are for `ngspice -b`.
"""

import math
from typing import NamedTuple

import numpy as np

from loadstar.core.analysis import Analysis
from loadstar.core.doc.states import STATE_NAMES, States
from loadstar.core.errors import refuse
from loadstar.core.physics.batch import OFF, ON, Batch
from loadstar.core.physics.elements import (
    CONSTANT_CURRENT,
    CONSTANT_POWER,
    FILAMENT,
    FILAMENT_EXPONENT,
    RESISTIVE,
    Load,
)
from loadstar.core.physics.laws import CONVERTER_FLOOR_V
from loadstar.core.wiring.results import StateResult

OPTIONS = ".options reltol=1e-9 abstol=1e-11 vntol=1e-10 gmin=1e-20 itl1=500"
AC_HZ = 100.0


def node_names(analysis: Analysis, state: States, turn: int = 0) -> dict[str, str]:
    """Node of the plan to node of the netlist; the reference is 0."""
    batch, _ = _batch(analysis.volts.turns(state), state, turn, analysis)
    used = {0: "0"}
    for i, name in enumerate(batch.system.nodes[1:], 1):
        used[i] = f"n{i}_{name.replace('.', '_').lower()}"
    return {name: used[i] for i, name in enumerate(batch.system.nodes)}


def netlist(analysis: Analysis, state: States, turn: int = 0) -> str:
    """The netlist of a state; `turn` 0 is as its switches are taken to stand, 1 and on the other stands that are looked
    at. PlanError when the plan has no such state or stand, or it has no solution."""
    turns = analysis.volts.turns(state)
    batch, row = _batch(turns, state, turn, analysis)
    system, given = batch.system, batch.given
    node, ac = node_names(analysis, state, turn), np.iscomplexobj(batch.potential)
    n = [node[name] for name in system.nodes]
    lines = [f"* {analysis.plan.name}: {turns[turn].words}", f"* relays closed: {_closed(turns[turn])}", OPTIONS]
    for i, r in enumerate(system.network.resistors):
        if math.isfinite(given.ohm[row, i]):
            lines.append(f"R{i} {n[system.r[0, i]]} {n[system.r[1, i]]} {given.ohm[row, i]:.15g} ; {r.name}")
    for i, s in enumerate(system.network.sources):
        law = _Law(given.across[row, i], given.series[row, i], given.drive[row, i])
        lines += (_phasor if ac else _source)(f"{i}", n[system.s[0, i]], n[system.s[1, i]], law, s.name)
    volts = np.abs(batch.potential[row, system.e[0]] - batch.potential[row, system.e[1]])
    amps = np.abs(batch.load[row])
    cold = system.law.floor_g(np.abs(given.value))[row]
    for i, e in enumerate(system.network.loads):
        a, b = n[system.e[0, i]], n[system.e[1, i]]
        if ac:
            if amps[i] > 1e-15 or cold[i] > 0:  # a lamp that is dead is still there, cold
                lines.append(f"RL{i} {a} {b} {volts[i] / amps[i] if amps[i] > 1e-15 else 1 / cold[i]:.15g} ; {e.name}")
        elif 0 < given.value[row, i] < math.inf:
            lines.append(_load(i, a, b, e, float(given.value[row, i]), float(system.law.floor[i])))
    for i, d in enumerate(system.network.diodes):
        if batch.diode_on[row, i]:
            a, b = n[system.d[0, i]], n[system.d[1, i]]
            lines += [f"VD{i} {a} d{i} dc {d.drop_v:.15g} ; {d.name}, conducting", f"RD{i} d{i} {b} {d.ohm:.15g}"]
    for i in range(len(system.network.converters)):
        lines += _converter(batch, row, i, n)
    lines += [f"RG{i} {n[i]} 0 1" for i in np.flatnonzero(_grounds(batch, row)) if n[i] != "0"]
    lines += [f".ac lin 1 {AC_HZ:g} {AC_HZ:g}" if ac else ".op", ".control", "set numdgt=15", "run"]
    lines += [f"print {'vm' if ac else 'v'}({name})" for name in n if name != "0"]
    return "\n".join([*lines, "quit", ".endc", ".end", ""])


def _batch(turns: tuple[StateResult, ...], state: States, turn: int, analysis: Analysis) -> tuple[Batch, int]:
    if not turns:
        known = ", ".join(analysis.states) or "none: nothing feeds it yet"
        raise refuse("", "state", f"This plan has no state {state}; it has {known}.")
    if not 0 <= turn < len(turns):
        raise refuse("", "turn",
                     f"{STATE_NAMES[state]} has {len(turns)} stands of its switches: 0 to {len(turns) - 1}.")
    result = turns[turn]
    if result.solution is None:
        raise refuse("", "state", f"{result.words} has no solution: {result.failure}.")
    return result.solution.batch, result.solution.state


def _closed(row: StateResult) -> str:
    return ", ".join(k for k, shut in row.closed.items() if shut) or "none"


class _Law(NamedTuple):
    """A source's equation: across times its volts and series times its amps make its drive."""

    across: float
    series: complex
    drive: complex


def _phasor(name: str, plus: str, minus: str, law: _Law, what: str) -> list[str]:
    if law.across == 0:
        return []
    z = -complex(law.series)
    middle = f"x{name}" if z.imag > 0 else plus
    made = [f"V{name} e{name} {minus} ac {abs(law.drive):.15g} ; {what}",
            f"RS{name} e{name} {middle} {max(z.real, 1e-9):.15g}"]
    return [*made, f"LS{name} {middle} {plus} {z.imag / (2 * math.pi * AC_HZ):.15g}"] if z.imag > 0 else made


def _source(name: str, plus: str, minus: str, law: _Law, what: str) -> list[str]:
    across, series, drive = law
    if across == 0 and drive == 0:
        return []
    if series == 0:
        return [f"V{name} {plus} {minus} dc {drive:.15g} ; {what}"]
    if across == 1:
        return [f"V{name} e{name} {minus} dc {drive:.15g} ; {what}", f"RS{name} e{name} {plus} {-series:.15g}"]
    # A generator that cannot keep up: the straight line through its current at this voltage.
    made = [f"I{name} {plus} {minus} dc {drive:.15g} ; {what}"]
    return made if across == 0 else [*made, f"B{name} {plus} {minus} I = {-across:.15g}*V({plus},{minus})"]


def _load(i: int, a: str, b: str, e: Load, value: float, floor: float) -> str:
    v = f"V({a},{b})"
    if e.kind == RESISTIVE:
        return f"RL{i} {a} {b} {value:.15g} ; {e.name}"
    if e.kind == FILAMENT:
        above = f"{value / e.at_v:.15g}*pow({v}/{e.at_v:.15g},{FILAMENT_EXPONENT})"
        below = f"{value * floor ** (FILAMENT_EXPONENT - 1) / e.at_v ** (1 + FILAMENT_EXPONENT):.15g}*{v}"
    elif e.kind == CONSTANT_POWER:
        above, below = f"{value:.15g}/{v}", f"{min(value / max(floor, 1e-9), e.limit_a) / max(floor, 1e-9):.15g}*{v}"
        if math.isfinite(e.limit_a):
            above = f"min({above},{e.limit_a:.15g})"
    else:
        assert e.kind == CONSTANT_CURRENT
        above, below = f"{value:.15g}", f"{value / max(floor, 1e-9):.15g}*{v}"
    return f"BL{i} {a} {b} I = {v} >= {floor:.15g} ? {above} : {below} ; {e.name}"


def _converter(batch: Batch, row: int, i: int, n: list[str]) -> list[str]:
    system, mode = batch.system, int(batch.converter_mode[row, i])
    c = system.network.converters[i]
    ia, ib, oa, ob = (n[x] for x in (*system.ci[:, i], *system.co[:, i]))
    if mode == OFF or mode > 2:
        return [f"* {c.name} gives nothing: its input is outside its window or it is switched off"]
    if mode == ON:
        out = [f"VC{i} {oa} {ob} dc {c.out_v:.15g} ; {c.name}, output"]
        watts = f"{c.out_v / c.efficiency:.15g}*(-I(VC{i}))"
    else:
        out = [f"IC{i} {ob} {oa} dc {c.limit_a:.15g} ; {c.name}, limiting"]
        watts = f"{c.limit_a / c.efficiency:.15g}*V({oa},{ob})"
    v = f"V({ia},{ib})"
    return [*out,
            f"BC{i} {ia} {ib} I = (max({watts},0)+{c.idle_w:.15g})/max({v},{CONVERTER_FLOOR_V}) ; {c.name}, input"]


def _grounds(batch: Batch, row: int) -> np.ndarray:
    return np.asarray(batch.system.grounds(batch)[row] > 0)
