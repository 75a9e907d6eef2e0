"""Readings with part of a machine put out of use: each fuse's users with every other fuse out, each of two packs by
itself; and what the starter's leads lose while it turns.

What is wrong with one is then not hidden by another. Such a reading is not one of the network as the plan's states have
it, so that no circuit is judged by it and no meter of the plan's states can take it.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ..figures.figures import Figures
from ..parts.battery import Battery
from ..parts.combiner import SIDES, Combiner
from ..parts.drive import Drive
from ..parts.fuse import FusePart
from ..parts.starter import Starter
from ..refs import TerminalRef
from ..wiring.results import StateResult
from .bench import Bench
from .fault import Fault
from .predict import METER_SIGMAS, SOURCE_OFF, Prediction, Predictor, meter_sigma_v

REGULATED = "regulated"
LIVE_V = 1.0  # less than this over a load: it is not on, so that nothing is read at it
TURNS_OFF = 0.25  # share that a starter's usual amps may be off by; of measured ones a tenth
MEASURED_OFF = 0.10


@dataclass(frozen=True)
class Alone:
    """One such reading: its key, the probes, what it should show, what it is, and what to beware of."""

    key: str
    red: TerminalRef
    black: TerminalRef
    expects: Prediction
    what: str
    beware: str


def _without(key: str, opens: frozenset[str] = frozenset(), conducts: dict[str, bool] | None = None) -> Fault:
    """Some elements open, as if something were wrong with them: the same network answers."""
    return Fault(key, key, key, 0.0, opens=opens, conducts=conducts or {})


def by_fuse(figures: Figures, predictor: Predictor, row: StateResult, done: set[str]) -> Iterator[Alone]:
    """In a state, one load behind each fuse that is not `done` yet, with the other fuses of users out; none where there
    is only one such fuse. While the engine runs only where the regulator holds the posts: with less on it still does,
    where it does not it may then."""
    behind, loads_of = figures.topology.protected_behind, figures.topology.loads_behind
    fuses = [f for f in figures.plan.of(FusePart) if loads_of.get(f.id) and not behind.get(f.id)]
    turns = figures.plan.machine.rpm(row.state) > 0
    lit = [p for p in figures.plan.loads if figures.path(p.id).complete and figures.volts.lives(p, row.state)]
    if len(fuses) < 2 or (turns and row.source != REGULATED):
        return
    every = frozenset(f.id for f in fuses)
    fuses = [f for f in fuses if f.id not in done and any(p in loads_of[f.id] for p in lit)]
    bench = Bench(figures)
    found = bench.solve(row, [_without(f.id, every - {f.id}) for f in fuses])
    for n, fuse in enumerate(fuses):
        for load in (p for p in lit if p in loads_of[fuse.id]):
            pos, neg = load.at("pos"), load.at("neg")
            volts = float(abs(found.potential[n, bench.node(pos)] - found.potential[n, bench.node(neg)]))
            if volts > LIVE_V:  # NaN, where there is no solution, is not
                spread = predictor.volts(row, pos, neg).spread  # of all on: no narrower than of one
                done.add(fuse.id)
                yield Alone(f"alone.{fuse.id}.{row.state}", pos, neg, Prediction("V", volts, spread),
                            f"At {load.name}, alone", f"Only {fuse.name} in, every other user's fuse out.")
                break


def by_pack(figures: Figures, row: StateResult) -> Iterator[Alone]:
    """With the key on, at the drive, or at the first pack's posts where none is drawn: each of two packs by itself."""
    joining, packs = figures.plan.combiner, figures.plan.packs
    if joining is None or len(packs) != len(SIDES) or row.state != "on":
        return
    drive = figures.plan.one(Drive)
    red, black = (drive.at("pos"), drive.at("neg")) if drive else figures.source.ends
    bench = Bench(figures)
    found = bench.solve(row, [_only(figures, joining, n) for n in range(len(packs))])
    where = drive.name if drive else "the posts"
    for n, pack in enumerate(packs):
        volts = float(abs(found.potential[n, bench.node(red)] - found.potential[n, bench.node(black)]))
        if volts > LIVE_V:
            band = SOURCE_OFF["pack"] * volts + METER_SIGMAS * meter_sigma_v(volts)
            yield Alone(f"pack.{pack.id}.{row.state}", red, black, Prediction("V", volts, band),
                        f"{pack.name} alone, at {where}", f"{_how(joining, pack.name)} Then try both together.")


def _only(figures: Figures, joining: Combiner, n: int) -> Fault:
    """The network on one of its packs: a changeover turned there, else the other's leads open."""
    if joining.way == "changeover":
        return _without(SIDES[n], conducts={joining.element(side): k == n for k, side in enumerate(SIDES)})
    other = figures.plan.packs[1 - n]
    ends = {other.at("pos"), other.at("neg")}
    mine = {figures.plan.packs[n].at("pos"), figures.plan.packs[n].at("neg")}
    leads = frozenset(w.id for w in figures.plan.wires if {w.a, w.b} & ends and not {w.a, w.b} & mine)
    return _without(SIDES[n], leads)


def _how(joining: Combiner, name: str) -> str:
    if joining.way == "changeover":
        return f"{joining.name} turned to {name}."
    return "The other pack's fuse out, its leads covered."


def cranking(figures: Figures, predictor: Predictor, row: StateResult) -> Iterator[Alone]:
    """The least volts of the battery while the starter turns, and what each of its two leads loses."""
    battery, starter = figures.plan.one(Battery), figures.plan.one(Starter)
    if battery is None or figures.plan.machine.cranking_a <= 0:
        return
    measured = figures.plan.machine.standing_of("cranking_a") == "found"
    share = MEASURED_OFF if measured else TURNS_OFF
    red, black = battery.at("pos"), battery.at("neg")
    at_posts = predictor.volts(row, red, black)
    sag_v = max(0.0, battery.resting_v - at_posts.value)
    yield Alone("posts.cranking", red, black, Prediction("V", at_posts.value, at_posts.spread + share * sag_v),
                "Lowest volts while it cranks",
                "Ignition or fuel off, so that it turns and does not start; two seconds.")
    if starter is None or starter.id not in figures.mains:
        return
    for way, a, b in (("positive", red, starter.at("pos")), ("negative", starter.at("neg"), black)):
        lost = predictor.volts(row, a, b)
        yield Alone(f"crank.{way}", a, b, Prediction("V", lost.value, lost.spread + share * lost.value),
                    f"Lost on the starter's {way} lead", "Probes on the posts and on the starter's stud, not on the "
                                                         "rings; two seconds.")
