"""What the log of the work says: done, made to an older plan, pulled with too little, made again; by hand."""

from dataclasses import replace

import pytest

from loadstar.core.build.log import Entry, left_out, standing, weights
from loadstar.core.build.operations import Operation, Work

CUT = Operation("cut/W1", "cut", "W1", "Cut W1", "bench", "side cutter", 1.0, "0.50 m", "all")
CRIMP = Operation("crimp core/W1/a", "crimp core", "W1", "Crimp W1", "bench", "die 1", 2.0, "ring M6", "all")
PULL = Operation("pull/W1/a", "pull", "W1", "Pull W1", "bench", "pull gauge", 4.0, "ring M6", "all", pull_n=60)
WORK = Work({o.key: o for o in (CUT, CRIMP, PULL)}, {
    CUT.key: frozenset(), CRIMP.key: frozenset({CUT.key}), PULL.key: frozenset({CRIMP.key})}, ("all",))


def done(operation: Operation, **values) -> Entry:
    return Entry(operation.key, "done", **{"spec": operation.spec, "element": operation.element, **values})


@pytest.mark.parametrize(("spec", "is_done"), [("0.50 m", True), ("0.40 m", False), ("0.60 m", False), ("", False)])
def test_what_was_done_to_something_else_is_not_done(spec, is_done):
    found = standing(WORK, [done(CUT, spec=spec, revision=3)])
    assert (CUT.key in found.done) is is_done and found.minutes_left == (6.0 if is_done else 7.0)
    assert found.hours_left == found.minutes_left / 60
    if not is_done:
        (changed,) = found.changed
        assert (changed.operation, changed.was, changed.revision) == (CUT, spec, 3)
        assert f"made to revision 3 ({spec}); the plan now has 0.50 m" in found.told[0].sentence


@pytest.mark.parametrize(("pulled", "weak"), [(60.0, False), (59.9, True), (80.0, False), (None, False)])
def test_a_pull_with_too_little_is_made_again(pulled, weak):
    found = standing(WORK, [done(PULL, pull_n=pulled)])
    assert (found.weak == (PULL,)) is weak is (PULL.key not in found.done)
    assert any("pulled with less" in told.sentence for told in found.told) is weak


def test_the_last_line_of_an_operation_counts_and_what_is_done_again_is_counted():
    again = Entry(CRIMP.key, "again", element="W1")
    found = standing(WORK, [done(CRIMP), again])
    assert CRIMP.key not in found.done and found.again == {"W1": 1} and found.told == ()
    found = standing(WORK, [done(CRIMP), again, again, done(CRIMP), Entry("gone", "done")])
    assert found.done == {CRIMP.key} and found.again == {"W1": 2}
    assert "W1 has been done again 2 times" in found.told[0].sentence
    assert standing(WORK, [done(CRIMP), Entry(CRIMP.key, "note", note="tight")]).done == {CRIMP.key}


def test_what_was_left_out_before_what_is_ticked():
    assert left_out(WORK, [CUT.key], frozenset()) == () and left_out(WORK, ["gone"], frozenset()) == ()
    assert left_out(WORK, [PULL.key], frozenset({CUT.key})) == (CRIMP,)
    assert left_out(WORK, [PULL.key, CRIMP.key], frozenset()) == (CUT,)
    assert left_out(WORK, [PULL.key], frozenset({CRIMP.key})) == ()


def test_what_is_made_again_takes_what_came_after_it_on_the_same_line_with_it():
    """An end that is crimped anew has to be pulled anew; another's pull stands."""
    row = {o.key: replace(o, row="W1 at F1") for o in (CRIMP, PULL)}
    other = replace(PULL, key="pull/W2/a", element="W2", row="W2 at F1")
    sheet = Work({**WORK.operations, **row, other.key: other}, {**WORK.before, other.key: frozenset()}, ("all",))
    lines = [done(CUT), done(CRIMP), done(PULL), done(other), Entry(CRIMP.key, "again", element="W1")]
    assert standing(sheet, lines).done == {CUT.key, other.key}
    assert standing(sheet, [*lines, done(CRIMP), done(PULL)]).done == {CUT.key, CRIMP.key, PULL.key, other.key}


@pytest.mark.parametrize(("entries", "times"), [
    ([], None), ([done(CRIMP)], 2.0), ([done(CRIMP), done(PULL)], None), ([done(CRIMP, tool="hand pliers")], 3.0),
    ([done(CRIMP, tool="pliers"), done(PULL)], 1.5), ([Entry(CRIMP.key, "again", element="W1")], 2.0),
    ([done(CUT)], None)])
def test_how_much_likelier_a_fault_is_where_it_was_made_so(entries, times):
    """Twice where it was made again or not pulled, half as much again by the plainest tool."""
    assert weights(WORK, entries) == ({} if times is None else {"W1": times})
