"""One cause, one finding: what follows from a source the wrong way round lies beneath it, and what does not stays."""

from dataclasses import replace

from judgement.paths import PATHS, changed_over, on_leads, second_feed, two_batteries
from judgement.plans import seen

from loadstar.core import roots
from loadstar.core.analysis import analyse
from loadstar.core.budget.ledger import break_even_rpm
from loadstar.core.edits import RemoveWire, apply
from loadstar.core.wiring.direction import turned
from loadstar.core.wiring.topology import Topology


def test_consequences_lie_beneath_their_cause_and_are_said_nowhere_else():
    a = analyse(changed_over(two_batteries("diode"), "BB1"))
    cause = a.findings[0]
    assert cause.rule == "source.reversed"
    assert {"wire.too-hot", "fuse.share", "diode.rating"} <= {f.rule for f in cause.follows}
    assert not {f.key for f in cause.follows} & {f.key for f in a.findings}


def test_what_is_wrong_besides_is_said_besides():
    plan = changed_over(second_feed(0.5), "G1")
    assert "source.reversed" not in {f.rule for f in analyse(plan).findings}  # its leads are not drawn
    both = changed_over(on_leads("pos", "neg"), "G1")
    fuse = both.of_kind("fuse")[0]
    both = apply(both, RemoveWire(id=next(w.id for w in both.wires if w.b == f"{fuse.id}.a")))
    rules = [f.rule for f in analyse(both).findings if f.severity == "stop"]
    assert rules[0] == "source.reversed"
    assert len(rules) > 1


def test_taking_the_cause_s_way_out_leaves_what_was_said_besides_and_no_more():
    for name in ("a generator changed over", "a second battery changed over", "a second pack changed over",
                 "the first of two packs changed over", "a converter's input changed over", "a drive changed over",
                 "a generator without a way back"):
        a = analyse(PATHS[name].make())
        cause = a.findings[0]
        mended = analyse(apply(a.whole_plan, cause.proposals[0].edit))
        assert not turned(mended.topology), name
        beneath = {f.key for f in cause.follows}
        assert not beneath & {f.key for f in mended.findings if f.severity in ("stop", "caution")}, name


def test_the_budget_counts_nothing_of_a_generator_that_gives_nothing():
    open_, whole = analyse(on_leads("pos")), analyse(on_leads("pos", "neg"))
    assert whole.break_even_rpm is not None
    assert open_.break_even_rpm is None
    assert all(ledger.given_a == 0 for ledger in open_.ledgers.values())
    assert break_even_rpm(open_.account) is None
    assert any(ledger.given_a > 0 for ledger in whole.ledgers.values())


def test_one_lead_of_a_part_takes_the_other_from_the_rail_too():
    """A generator whose leads nobody has drawn lies on the rail; with one drawn, the other end is where it is."""
    plan = on_leads("pos")
    topology = Topology(plan)
    assert topology.node("G1.neg") != topology.negative
    assert Topology(on_leads()).node("G1.neg") == topology.negative
    finding, = seen(plan, "source.open")
    assert "no way back" in finding.sentence


def test_what_could_not_be_computed_after_the_way_out_is_no_consequence(monkeypatch):
    whole = roots.compute
    monkeypatch.setattr(roots, "compute", lambda plan: replace(whole(plan), left_out=("what flows in the wires",)))
    a = analyse(changed_over(two_batteries("diode"), "BB1"))
    assert a.findings[0].follows == ()
    assert "wire.too-hot" in {f.rule for f in a.findings}
