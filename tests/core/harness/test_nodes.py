"""What ends at each place, against the plan: every end once, at the place of its part, into a run that begins there."""

from collections import Counter
from pathlib import Path

import pytest
from reference.switched import switched
from sweeps import seeds

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.harness.nodes import leaving
from loadstar.core.plan.document import from_json
from loadstar.core.plan.model import Plan

EXAMPLES = sorted(Path(__file__).parents[3].glob("examples/**/*.json"))


def check(plan: Plan) -> None:
    """By the plan's own wires, parts and runs."""
    a = analyse(plan)
    found = leaving(a.plan, a.topology.geometry)
    ends = Counter((one.wire.id, one.side) for here in found.values() for one in here)
    assert ends == Counter((w.id, side) for w in a.plan.wires for side in ("a", "b"))
    for place, here in found.items():
        for one in here:
            assert one.at == (one.wire.a if one.side == "a" else one.wire.b) and a.plan.part(one.at.part).place == place
            other = one.wire.b if one.side == "a" else one.wire.a
            assert a.plan.part(other.part).place == one.to
            if one.run:
                assert place in (a.plan.run(one.run).a, a.plan.run(one.run).b)
                assert one.wire.id in a.loom.by_run[one.run].wires
        into = [one.run for one in here]
        assert into == sorted(into, key=["", *(r.id for r in a.plan.runs)].index)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_every_end_of_an_example_is_listed_once_at_its_place(path):
    check(from_json(path.read_text()))


@pytest.mark.parametrize("seed", seeds(4))
@pytest.mark.parametrize("machine", ["battery", "pack", "magneto"])
def test_every_end_of_a_random_plan_is_listed_once_at_its_place(machine, seed):
    """Twelve plans (LOADSTAR_SWEEP=17 for over two hundred)."""
    check(switched(machine, seed))


def test_they_stand_by_run_and_then_by_part_and_pin():
    a = analyse(demo.fit_out()[0])
    found = leaving(a.plan, a.topology.geometry)
    block = next(here for here in found.values() if any(one.at == "B1.ret" for one in here))
    said = [(one.run, str(one.at), one.wire.id) for one in block]
    assert said[:3] == [("", "B1.engine", "W6"), ("", "B1.in", "W5"), ("", "B1.ret", "W7")]
    assert said[-4:] == [("R3", "F2.b", "W8"), ("R3", "F3.b", "W10"), ("R3", "F4.b", "W12"), ("R3", "F6.b", "W16")]
    ten = a.plan.model_copy(update={"parts": tuple(p.model_copy(update={"id": "F10"}) if p.id == "F2" else p
                                                   for p in a.plan.parts), "wires": tuple(
        w.model_copy(update={"a": type(w.a)("F10.b")}) if w.id == "W8" else w for w in a.plan.wires)})
    last = leaving(ten, a.topology.geometry)["P2"][-1]
    assert (last.at, last.run) == ("F10.b", "R3")  # F10 after F6, as they are counted
