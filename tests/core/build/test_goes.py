"""Work by the handful: few goes, in an order in which everything can be done at a bench, whatever the plan."""

import random
from collections import deque

import pytest
from intents import answered
from reference.switched import MACHINES, switched
from sweeps import seeds

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.build.goes import Circle, goes
from loadstar.core.build.operations import FIT, Operation, Work
from loadstar.core.build.sleeves import end_towards
from loadstar.core.build.whole import work
from loadstar.core.edits import apply
from loadstar.core.errors import PlanError
from loadstar.core.intents import asked_for, carried_out, offered

PLANS = {make.__name__: make for make in demo.PLANS}


def in_order(w):
    """The goes of some work, and where each operation stands in them."""
    found = goes(w)
    keys = [o.key for go in found for o in go.operations]
    assert sorted(keys) == sorted(w.operations)  # each once
    return found, {key: n for n, key in enumerate(keys)}


def random_plan(seed):
    """One with switches of all sorts; of every third the sleeves braided."""
    plan = switched(MACHINES[seed % len(MACHINES)], seed // len(MACHINES))
    return plan if seed % 3 else plan.model_copy(update={"rules": plan.rules.model_copy(
        update={"covering": "braided sleeve"})})


def can_be_made(a, w):
    """What is wrong with the order of a plan's work, told by looking at the plan and not at what waits for what."""
    found, at = in_order(w)
    wrong = [f"{key} before {k}" for key, waits in w.before.items() for k in waits if at[k] > at[key]]
    for wire in a.plan.wires:
        if f"cut/{wire.id}" in at and at[f"cut/{wire.id}"] > at[f"mark/{wire.id}"]:
            wrong.append(f"{wire.id} is labelled before it is cut")
    for b in a.loom.bundles:
        if (thread := f"thread/{b.run.id}") in at and "closed at both" not in w.operations[thread].words:
            sides = [p for p in (b.run.a, b.run.b) if all(
                at[thread] < min((at[k] for kind in ("strip", "crimp core")
                                  if (k := f"{kind}/{x}.{end_towards(a, x, b.run, p)}") in at), default=1e9)
                for x in b.made)]
            wrong += [] if sides else [f"the sleeve of {b.run.id} goes over closed ends"]
    for key, o in w.operations.items():
        if o.sitting != "supply on":
            continue
        wrong += [f"{k} after {key}" for k, other in w.operations.items() if other.sitting != "supply on" and
                  other.kind in ("connect", "lay in", "disconnect", "crimp core") and at[k] > at[key]]
        wrong += [f"{k} before {key}" for k, other in w.operations.items()
                  if other.sitting == "try" and at[k] < at[key]]
    wrong += ["the supply is off, and never on"] if "disconnect/supply" in at and not any(
        o.sitting == "supply on" for o in w.operations.values()) else []
    off = {o.words.partition(": ")[2] for o in w.operations.values() if o.sitting == "take off"}
    on_again = {o.words.partition(": ")[2] for o in w.operations.values() if o.sitting == "refit"}
    wrong += [] if off == on_again else [f"taken off {off}, refitted {on_again}"]
    last = [o for o in (found[-1].operations if found else ()) if o.sitting != "refit"]
    wrong += [f"{o.key} after the covers are on" for o in last if on_again]
    spanner = [o.key for o in w.operations.values() if o.kind == "connect" and a.plan.part(o.element).one_barrel]
    return wrong + [f"{key}: a splice is crimped" for key in spanner]


@pytest.mark.parametrize("name", PLANS)
def test_the_demonstrations_are_made_in_a_few_goes(name):
    """At most 60 for the seven accessories of the fit-out, and near one for each sitting that there is."""
    w = work(analyse(PLANS[name]()[0]))
    found, _ = in_order(w)
    assert len(found) <= 60
    assert len(found) <= len({(w.stage.get(o.group), o.sitting) for o in w.operations.values()}) + 1
    assert len(w.operations) > 2 * len(found)


@pytest.mark.parametrize("name", PLANS)
def test_the_demonstrations_can_be_made(name):
    a = analyse(PLANS[name]()[0])
    assert can_be_made(a, work(a)) == []


@pytest.mark.parametrize("seed", seeds(24))
def test_random_plans_can_be_made(seed):
    """LOADSTAR_SWEEP=13 for three hundred."""
    try:
        plan = random_plan(seed)
    except (PlanError, IndexError):  # nothing to feed it from
        pytest.skip("no such plan")
    a = analyse(plan)
    assert can_be_made(a, work(a)) == []


def fewest(operations, before):
    """The fewest goes of all orders, looked for breadth first over what is done."""
    every = {o.key: o for o in operations}
    row, seen = deque([(frozenset(), 0)]), {frozenset()}
    while row:
        done, count = row.popleft()
        if len(done) == len(every):
            return count
        for sitting in {o.sitting for o in operations}:
            now = set(done)
            while fresh := [k for k, o in every.items() if o.sitting == sitting and k not in now
                            and before.get(k, frozenset()) <= now]:
                now.update(fresh)
            if frozenset(now) not in seen and len(now) > len(done):
                seen.add(frozenset(now))
                row.append((frozenset(now), count + 1))
    raise AssertionError("there is an order")


def made_up(seed):
    """Some operations in a few sittings, each waiting for some before it."""
    dice = random.Random(seed)
    sittings = ["cut", "end 1", "end 2", "push in", "beep", "shrink"][:dice.randint(2, 6)]
    every = [Operation(f"mark/{n}", "mark", "", "", "bench", "hand", 1.0, "", "all", sitting=dice.choice(sittings))
             for n in range(dice.randint(3, 14))]
    before = {o.key: frozenset(p.key for p in every[:n] if dice.random() < 0.2) for n, o in enumerate(every)}
    return Work({o.key: o for o in every}, before, ("all",)), every, before


def test_there_are_as_few_goes_as_there_can_be_or_nearly():
    """Two hundred made-up sheets against all orders of each."""
    more = []
    for seed in range(200):
        w, every, before = made_up(seed)
        more.append(len(in_order(w)[0]) - fewest(every, before))
    assert min(more) == 0 and sum(more) <= 2 and max(more) <= 1


def test_what_waits_for_itself_has_no_order_and_is_named():
    w, every, before = made_up(3)
    before[every[0].key] = frozenset({every[-1].key})
    before[every[-1].key] = frozenset({every[0].key})
    with pytest.raises(Circle) as circle:
        goes(Work(w.operations, before, w.groups))
    assert {every[0].key, every[-1].key} <= set(circle.value.keys)


def test_stages_are_made_one_after_another():
    """What was given a later stage is made at the bench once the earlier is, and laid in with it."""
    plan = demo.fit_out()[0]
    late = plan.loads[0]
    plan = plan.model_copy(update={"parts": tuple(
        p.model_copy(update={"stage": "2"}) if p.id == late.id else p for p in plan.parts)})
    found, at = in_order(work(analyse(plan)))
    mine = [at[f"cut/{w.id}"] for w in plan.wires if w.made_for == late.id]
    others = [at[f"cut/{w.id}"] for w in plan.wires if w.made_for in {p.id for p in plan.loads[1:]}]
    assert mine and max(others) < min(mine)
    assert [o.group for o in found[-1].operations] == [FIT] * len(found[-1].operations)


def test_a_line_has_all_that_is_done_to_one_end():
    found, _ = in_order(work(analyse(demo.fit_out()[0])))
    go = next(g for g in found if g.words.startswith("Crimp 7 × blade receptacle"))
    line = go.lines[0]
    assert [o.kind for o in line.operations] == ["strip", "crimp core", "crimp insulation", "pull"]
    assert line.main.kind == "crimp core" and line.pull.pull_n == 60
    assert line.steps == "strip 5.5 mm, crimp, wings, pull 60 N" and go.detail == "strip 5.5 mm, pull 60 or 108 N"
    cut = next(g for g in found if g.sitting == "cut")
    assert cut.words == "Cut and label 22 leads" and cut.lines[0].steps == "cut, label"
    assert cut.lines[0].words.startswith("W1: 2 mm² RD, ")


def test_every_intent_can_be_made():
    """Whatever job is offered on the fit-out's machine."""
    plan = demo.winter()[0]
    tried = 0
    for intent in offered(plan):
        try:
            asked = asked_for(intent, answered(plan, intent, lambda found: next(iter(found), "")))
            made = apply(plan, carried_out(plan, asked))
        except PlanError:
            continue
        a = analyse(made)
        assert can_be_made(a, work(a)) == [], intent
        tried += 1
    assert tried >= 3


@pytest.mark.parametrize("name", PLANS)
def test_a_go_says_how_many_it_has(name):
    """Connectors that are photographed, and not the marking of their wires; runs that are covered, and not the points
    at which they are taped; one wire, two wires."""
    for go in goes(work(analyse(PLANS[name]()[0]))):
        kinds = [o.kind for o in go.operations]
        number = next((int(word) for word in go.words.split() if word.isdigit()), None)
        if go.sitting == "photograph" and len(go.operations) > 1:
            assert number == kinds.count("photograph")
        if go.sitting == "cover" and len(go.operations) > 1:
            assert number == sum(not o.key.startswith("cover/shape.") for o in go.operations)
        if go.sitting == "cut" and kinds.count("cut"):
            assert number == kinds.count("cut")
        assert " 1 wires" not in go.words and " 1 leads" not in go.words and " 1 runs" not in go.words
