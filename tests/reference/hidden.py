"""Faults hidden on plans that are no demonstrations: of amounts between those that are tried, two at once, coming and
going, of none of the kinds that are tried. Solved by themselves, read with a meter's scatter, and looked for by three
ways: as advised, point by point from the battery outward, and in any order."""

import math
import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.plan import document
from loadstar.core.prove.bench import Bench, volts
from loadstar.core.prove.diagnose import SURE, Diagnosis
from loadstar.core.prove.fault import DRAWS_TIMES, HELD_HIGH, HELD_LOW, LEAK_OHM, TRIGGER_OHM, Fault, Ghost
from loadstar.core.prove.faults import ghosts, scope
from loadstar.core.prove.points import ground
from loadstar.core.prove.readings import Probe, Taken, meter_sigma
from loadstar.core.prove.trainer import at_load

from .generated import EVERY_KIND, generated

JOBS = sorted(Path(__file__).resolve().parents[2].glob("examples/jobs/*.json"))
SHOWS_SIGMAS, MOST = 5, 20
JOINT_OHM = (0.05, 30.0)
OTHERWISE = ("leak", "draws", "trigger", "crossed", "bridged", "regulator", "generator", "battery", "swapped", "turned",
             "pin", "short", "blown", "in", "out", "coil", "off", "open", "dead")


MADE = tuple(f"{kind}/{seed}" for seed in range(3) for kind in EVERY_KIND)
NAMES = {"jobs": tuple(path.stem for path in JOBS), "seeds": MADE}


@cache
def plan_of(which: str, name: str) -> Analysis:
    """A plan of a job, or made from a seed."""
    if which == "jobs":
        return analyse(document.from_json((JOBS[0].parent / f"{name}.json").read_text()))
    kind, seed = name.split("/")
    return analyse(generated(kind, int(seed)))


def circuits(a: Analysis) -> list[str]:
    """Its circuits that have a solution and somewhere to be seen."""
    rows = [r for r in a.volts.rows if r.solution is not None]
    return [p.id for p in a.plan.loads if rows and a.path(p.id).complete]


@dataclass
class Hidden:
    """A machine with faults that nobody knows: what its meter shows. `comes` is how often a fault is there."""

    d: Diagnosis
    faults: tuple[Fault, ...]
    abouts: tuple[str, ...]
    dice: random.Random
    ghosts: tuple[Ghost, ...] = ()
    comes: float = 1.0

    def __post_init__(self) -> None:
        own = ghosts(self.d.figures, self.d.within)
        self.bench = Bench(self.d.figures, (*own, *self.ghosts))
        self.fault = together(self.faults)

    def exactly(self, probe: Probe, there: bool = True) -> float:
        """What is there to be read."""
        fault = self.fault if there else Fault("none", "none", "", 1.0)
        red, black = self.bench.node(probe.red), self.bench.node(probe.black)
        if probe.quantity == "ohm":
            return float(self.bench.ohms([fault], [(red, black)])[0, 0])
        return float(volts(self.bench.solve(self.d.rows[probe.row], [fault]), red, black)[0])

    def read(self, probe: Probe) -> Taken:
        """A reading of it."""
        value = self.exactly(probe, self.comes >= 1 or self.dice.random() < self.comes)
        if math.isfinite(value):
            value += self.dice.gauss(0, 0.7) * float(meter_sigma(value, probe.quantity))
        return Taken(probe, value)

    def shows(self) -> bool:
        """Whether somebody would complain."""
        probe = at_load(self.d, self.d.usual)
        sound, now = self.exactly(probe, False), self.exactly(probe)
        return math.isfinite(now) and abs(now - sound) >= SHOWS_SIGMAS * float(meter_sigma(sound, "V"))


def together(faults: tuple[Fault, ...]) -> Fault:
    """Several at once."""
    found = faults[0]
    for other in faults[1:]:
        adds = {e: found.adds.get(e, 0) + other.adds.get(e, 0) for e in {*found.adds, *other.adds}}
        found = replace(found, adds=adds, opens=found.opens | other.opens, joins={**found.joins, **other.joins},
                        dead=found.dead | other.dead, off=found.off | other.off, stuck={**found.stuck, **other.stuck},
                        conducts={**found.conducts, **other.conducts}, emf_times=found.emf_times * other.emf_times,
                        ohm_times=found.ohm_times * other.ohm_times, draws={**found.draws, **other.draws},
                        held_times=found.held_times * other.held_times)
    return found


def between(fault: Fault, dice: random.Random) -> Fault:
    """A fault of its class, with an amount that is none of those that are tried."""
    def log(low: float, high: float) -> float:
        return math.exp(dice.uniform(math.log(low), math.log(high)))
    if fault.about.startswith("high "):
        return replace(fault, adds={e: log(*JOINT_OHM) for e in fault.adds})
    if fault.about.startswith("trigger "):
        return replace(fault, adds={e: log(TRIGGER_OHM[0], TRIGGER_OHM[-1]) for e in fault.adds})
    if fault.about.startswith("leak "):
        return replace(fault, joins={g: log(LEAK_OHM[0], LEAK_OHM[-1]) for g in fault.joins})
    if fault.draws:
        return replace(fault, draws={load: dice.uniform(DRAWS_TIMES[0], DRAWS_TIMES[-1]) for load in fault.draws})
    if fault.about.startswith("regulator "):
        held = HELD_LOW if "low" in fault.about else HELD_HIGH
        times = dice.uniform(held[0], held[-1])
        return replace(fault, held_times=times)
    return fault


def drawn(dice: random.Random, which: str, count: int, make: Callable[[Diagnosis], Hidden | None]) -> Iterator[Hidden]:
    """So many that show at their load."""
    found = 0
    while found < count:
        a = plan_of(which, dice.choice(NAMES[which]))
        hidden = make(Diagnosis(a, dice.choice(circuits(a)))) if circuits(a) else None
        if hidden is not None and hidden.shows():
            found += 1
            yield hidden


def single(dice: random.Random) -> Callable[[Diagnosis], Hidden | None]:
    """One fault: half of them joints, by their priors; half of the other kinds, each as often."""
    def make(d: Diagnosis) -> Hidden | None:
        if dice.random() < 0.5:
            fault = d.faults[dice.choices(range(len(d.faults)), d.prior)[0]]
        else:
            kind = dice.choice(OTHERWISE)
            those = [f for f in d.faults if f.about.split()[0] == kind]
            fault = dice.choice(those) if those else d.faults[0]
        fault = between(fault, dice)
        return Hidden(d, (fault,), (fault.about,), dice) if fault.about != "none" else None
    return make


def double(dice: random.Random) -> Callable[[Diagnosis], Hidden | None]:
    """Two faults of two classes, each of which shows by itself."""
    one = single(dice)

    def make(d: Diagnosis) -> Hidden | None:
        pair = [made for made in (one(d), one(d)) if made is not None and made.shows()]
        if len(pair) < 2 or pair[0].abouts == pair[1].abouts:
            return None
        return Hidden(d, (*pair[0].faults, *pair[1].faults), (*pair[0].abouts, *pair[1].abouts), dice)
    return make


def intermittent(dice: random.Random) -> Callable[[Diagnosis], Hidden | None]:
    """A joint that is there two times of three."""
    def make(d: Diagnosis) -> Hidden | None:
        fault = dice.choice([f for f in d.faults if f.about.startswith(("high ", "open "))])
        fault = between(fault, dice)
        return Hidden(d, (fault,), (fault.about,), dice, comes=0.67)
    return make


def unheard_of(dice: random.Random) -> Callable[[Diagnosis], Hidden | None]:
    """What is in no list: something of another circuit, or two points of this one's copper joined by some ohms."""
    def make(d: Diagnosis) -> Hidden | None:
        kind = dice.choice(("draws", "joint", "joined"))
        outside = [p.id for p in d.figures.plan.loads if p.id not in d.within and d.figures.path(p.id).complete]
        if kind == "joined" and len(d.points) > 3:
            a, b = dice.sample(d.points, 2)
            ghost = Ghost("unheard of", a.node, b.node)
            fault = Fault("unheard of", kind, "", 1.0, joins={ghost.name: math.exp(dice.uniform(-2, 3))})
            return Hidden(d, (fault,), (kind,), dice, (ghost,))
        if not outside or kind == "joined":
            return None
        other = dice.choice(outside)
        if kind == "draws":
            return Hidden(d, (Fault(kind, kind, "", 1.0, draws={other: dice.uniform(4, 8)}),), (kind,), dice)
        wires = [e for e in scope(d.figures, other) if e in d.figures.wires and e not in d.within]
        ohm = math.exp(dice.uniform(math.log(0.05), math.log(30)))
        fault = Fault(kind, kind, "", 1.0, adds={dice.choice(wires): ohm}) if wires else None
        return Hidden(d, (fault,), (kind,), dice) if fault else None
    return make


def advised(hidden: Hidden, again: bool = False) -> list[Taken]:
    """As advised, from the load on; `again`: with the first reading taken once more at the end."""
    d, first = hidden.d, at_load(hidden.d, hidden.d.usual)
    taken = [hidden.read(first)]
    while len(taken) < MOST and (advice := d.next(taken)):
        taken.append(hidden.read(advice.probe))
    return [*taken, hidden.read(first)] if again else taken


def plainly(hidden: Hidden, order: str) -> list[Taken]:
    """Every point against the supply's negative, until one class is sure."""
    d = hidden.d
    black = ground(d.figures)
    probes = [Probe("V", d.usual, p.terminal, black) for p in d.points if p.terminal != black]
    if order == "any":
        hidden.dice.shuffle(probes)
    taken = [hidden.read(at_load(d, d.usual))]
    for probe in probes:
        if d.beliefs(taken)[0].share >= SURE:
            break
        taken.append(hidden.read(probe))
    return taken


def named(hidden: Hidden, taken: list[Taken]) -> bool:
    """Whether what it is is named or tied."""
    return any(b.about in hidden.abouts for b in hidden.d.beliefs(taken) if b.share >= 0.05)


def surely_wrong(hidden: Hidden, taken: list[Taken]) -> bool:
    """Whether something else is believed above one half, what it is not even tied with it, and nothing is said to be
    left unexplained."""
    first = hidden.d.beliefs(taken)[0]
    return (first.share > 0.5 and first.about not in (*hidden.abouts, "elsewhere") and not named(hidden, taken)
            and not hidden.d.unexplained(taken))
