"""What is worked out for bench and machine, and written into files, as it was when it was last read and agreed.

`python -m contracts.worked` (with src, tools and tests on the path) writes it anew and prints every line that changed:
only when it is meant to change, and each of the lines is to be read.
"""

import json
import random
import sys
from collections.abc import Callable, Iterable
from dataclasses import fields
from functools import cache
from io import StringIO
from itertools import pairwise
from math import inf
from pathlib import Path

import ezdxf
from contracts.kept import plan_of
from contracts.net import Net
from contracts.said import plain

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.budget.ledger import battery_hours, parked
from loadstar.core.budget.packs import pack_budget, sag_curves
from loadstar.core.budget.total_loss import total_loss
from loadstar.core.build.bench_test import trials
from loadstar.core.build.goes import goes
from loadstar.core.build.log import kit
from loadstar.core.build.whole import work
from loadstar.core.edits import CutWire, apply
from loadstar.core.ends.joints import joints
from loadstar.core.ends.pins import Contact, Lead, consolidate
from loadstar.core.order import order
from loadstar.core.prove.diagnose import Diagnosis
from loadstar.core.prove.measure import steps
from loadstar.core.prove.readings import Taken
from loadstar.core.prove.trainer import exercises, par, review, score
from loadstar.core.whatif.feeds import compare_feeds
from loadstar.core.whatif.places import movable, ranked, tried_at
from loadstar.core.whatif.returns import joinable, joined
from loadstar.core.whatif.unknown import Outlooks
from loadstar.draw.dxf import board_dxf
from loadstar.exchange import order as order_file
from loadstar.exchange import report, survey
from loadstar.exchange.netlist import netlist

NAMES = ("survey-season", "ferry-runner", "mud-hopper", "tide-hauler", "lights-and-horn", "f-second-pack",
         "e-converter-on-a-pack", "h-total-loss", "c-six-rings", "winter-counts")
ASKED = ("ferry-runner", "mud-hopper", "tide-hauler")
TRAINED = ("ferry-runner", "mud-hopper", "tide-hauler", "lights-and-horn")
SOME = 6
OF_ITS_FILE = ("handle", "owner")
CUT = "survey-season"  # with a connector on its way
Lines = Iterable[str]


def building(a: Analysis) -> Lines:
    """The goes with their operations, what waits for what, what to lay out, trials on the bench."""
    sheet = work(a)
    for go in goes(sheet):
        yield f"{go.words}; {go.detail}; {plain(kit(go.operations))}"
        yield from (f"{line.words}: {line.steps}" for line in go.lines)
        yield from (f"{plain(o)}; after {', '.join(sorted(sheet.before[o.key]))}" for o in go.operations)
    yield from map(plain, trials(a))


def proving(a: Analysis) -> Lines:
    """Steps of the plan of measurement, as predicted and with other volts at the posts."""
    every = steps(a)
    yield from map(plain, every)
    measured = {step.row: 0.97 * step.expects.value for step in every if step.key.startswith("posts.")}
    yield from map(plain, steps(a, measured) if measured else ())


def explaining(a: Analysis) -> Lines:
    """For some circuits: where they are probed, their faults, what some probes at random show and take."""
    for n, load in enumerate([p.id for p in a.plan.loads if a.path(p.id).complete][:SOME]):
        d, dice = Diagnosis(a, load, weights={"W1": 2.0}), random.Random(n)
        yield f"{load}: {d.usual}; {plain(d.points)}"
        yield from map(plain, d.faults)
        probes = d.probes(d.usual)
        for before, probe in pairwise([None, *dice.sample(probes, min(SOME, len(probes)))]):
            last = Taken(before, 1.0) if before else None
            yield f"{plain(probe)}: {plain(d.shown(probe).tolist())}; {d.seconds(probe, last):.4g}"


def training(a: Analysis) -> Lines:
    """Exercises, how they are played at par, and what is said of it afterwards."""
    for exercise in exercises(a, 3, 4):
        d = Diagnosis(a, exercise.load)
        taken = par(d, exercise)
        yield f"{plain(exercise)}; {plain(score(d, exercise, taken[::-1], 1, 1))}"
        for n in range(len(taken)):
            read = taken[:n + 1]
            yield f"{plain(read)}: {plain(d.beliefs(read)[:4])}; {d.elsewhere(read):.4g}; {d.unexplained(read)}"
        yield f"{plain(d.pairs(taken[:2])[:3])}; {plain(review(d, exercise, taken[::-1]))}"


def counting(a: Analysis) -> Lines:
    """Ledgers, rest, packs, lamps, and the places of what may be moved."""
    yield from map(plain, (a.ledgers, parked(a.plan), total_loss(a.plan), pack_budget(a.plan)))
    yield plain(sag_curves(a.plan, 4) if a.plan.packs else {})
    yield plain([battery_hours(a.plan, a.volts.ridden(state)) for state in a.ledgers])
    if a.lamps is not None:
        yield plain([a.lamps.lamps, *(some.tolist() for some in (a.lamps.volts[::8], a.lamps.least[::8]))])
        yield plain(a.lamps.failed[:, ::8].tolist())
    for part in movable(a.plan)[:2]:
        yield plain([(o.place, o.here, o.speaks_against, o.trial.stops, o.trial.wires_g, o.trial.refused)
                     for o in ranked(tried_at(a, part.id, place.id) for place in a.plan.places)])


def asking(a: Analysis) -> Lines:
    """What hangs on figures that nobody measured, and where one accessory is best fed."""
    outlooks = Outlooks(a)
    found = outlooks.outlook()
    yield plain(found)
    yield from (f"{outlooks.threshold(one, flip):.4g}" for one in found.ranked[:2] for flip in one.flips[:1])
    loads = joinable(a.plan)
    if len(loads) > 1:
        made = joined(a, tuple(load.id for load in loads[:2]), a.plan.places[-1].id)
        yield plain([made.place, made.speaks_against, made.trial.stops, made.trial.wires_g, made.trial.refused])
    for load in a.plan.loads[-1:]:
        yield from (plain([getattr(o, f.name) for f in fields(o) if f.name not in ("findings", "edit")])
                    for o in compare_feeds(a.plan, load.id))


def pinning(seed: str) -> list[str]:
    """Leads at random on as few contacts as they may share."""
    dice = random.Random(seed)
    contact = Contact(dice.choice((7, 13, 20)), dice.choice((1.0, 2.5)), dice.choice((0, 0.01, 0.035)))
    names = [f"lead {n}" for n in range(dice.randint(4, 17))]
    leads = [Lead(name, dice.choice(("5 V", "5 V b", "ground", "ground b", "48 V", "signal")),
                  dice.choice(("", "", "one", "two")), round(dice.choice((0.02, 0.5, dice.uniform(0.1, 7))), 1),
                  dice.choice((0.35, 0.5, 1.0)), dice.choice((inf, inf, 0.017, 0.06)), dice.choice((5.0, 48.0, 72.0)),
                  dice.choice(names) if dice.random() < 0.2 else "", dice.random() < 0.1) for name in names]
    found = consolidate(leads, contact)
    return [plain(contact), *map(plain, leads), *map(plain, found.nets), *map(plain, found.alike),
            *map(plain, joints(found, dice.randint(0, 3)))]


def writing(a: Analysis) -> Lines:
    """What goes into files."""
    yield from order_file.to_csv(order(a)).splitlines()
    for entity in ezdxf.read(StringIO(board_dxf(a))).modelspace() if a.loom and a.loom.bundles else ():
        yield f"{entity.dxftype()} {plain({k: v for k, v in entity.dxfattribs().items() if k not in OF_ITS_FILE})}"
    for state in a.source.states[:2]:
        yield from netlist(a, state).splitlines()
    yield from survey.to_csv(a.plan).splitlines()
    yield json.dumps([report.report(a), report.headline(a)], default=str)


SECTIONS: dict[str, tuple[Callable[[Analysis], Lines], tuple[str, ...]]] = {
    asking.__name__: (asking, ASKED),
    **{worked.__name__: (worked, NAMES) for worked in (building, proving, explaining, counting, writing)},
    training.__name__: (training, TRAINED)}
SEEDS = tuple(map(str, range(20)))
EVERY = (*((pinning.__name__, seed) for seed in SEEDS),
         *((section, name) for section, (_, names) in SECTIONS.items() for name in names))


@cache
def _analysis(name: str) -> Analysis:
    plan = plan_of(f"examples/{name}.json")
    return analyse(apply(plan, CutWire(id="W10", place="P3")) if name == CUT else plan)


def of(key: str) -> Lines:
    """A section of a plan, line by line."""
    section, _, name = key.partition(" ")
    return pinning(name) if section == pinning.__name__ else SECTIONS[section][0](_analysis(name))


NET = Net(Path(__file__).parent / "worked.json.gz", tuple(" ".join(each) for each in EVERY), of)

if __name__ == "__main__":
    sys.exit(NET.write())
