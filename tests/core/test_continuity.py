"""What a switch does, by beeps."""

import pytest
from builders import Bench
from judgement.plans import rules_of

from loadstar.core.doc.survey import Continuity
from loadstar.core.edits import AddElement, ChangeElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.survey.continuity import as_positions, understand

# -- continuity ---------------------------------------------------------------------------------------------------

def table(terminals, positions, *beeps):
    return Continuity.model_validate({"id": "CT1", "name": "thing", "terminals": terminals, "positions": positions,
                                      "beeps": [dict(zip(("position", "a", "b", "beeps"), b, strict=True))
                                                for b in beeps]})


def test_a_changeover_switch():
    found = understand(table(("1", "2", "3"), ("up", "down"), (0, 0, 1, True), (0, 0, 2, False), (0, 1, 2, False),
                             (1, 0, 2, True), (1, 0, 1, False), (1, 1, 2, False)))
    assert found.complete and found.consistent
    assert "1 is the common terminal: it is switched over between 2, 3." in found.sentences
    assert found.sentences[0] == "In up: 1 with 2 joined."


def test_a_plain_contact_and_one_test_for_two_groups():
    found = understand(table(("a", "b"), ("off", "on"), (0, 0, 1, False), (1, 0, 1, True)))
    assert found.sentences[-1] == "a and b are a contact that some positions close."
    # Of 1-2 joined and 3-4 joined one silent pair tells that the two groups are apart.
    pair = understand(table(("1", "2", "3", "4"), ("as it is",), (0, 0, 1, True), (0, 2, 3, True)))
    assert pair.positions[0].untested == ((0, 2),) and not pair.complete
    assert pair.sentences[-1] == "1 more test would settle the rest."


def test_a_switch_that_joins_three():
    found = understand(table(("coil", "head", "tail"), ("off", "on"), (0, 0, 1, False), (0, 0, 2, False),
                             (0, 1, 2, False),
                             (1, 0, 1, True), (1, 0, 2, True)))
    assert found.sentences[-1] == "coil, head and tail are joined together by some positions." and len(
        found.sentences) == 3


def test_a_table_that_contradicts_itself():
    bad = table(("1", "2", "3"), ("as it is",), (0, 0, 1, True), (0, 1, 2, True), (0, 0, 2, False))
    found = understand(bad)
    assert not found.consistent and "1 and 3 were silent although others join them" in found.sentences[0]
    plan = Bench().plan
    plan = apply(plan, AddElement(what="table", values={**bad.model_dump(mode="json", exclude={"id"})}))
    assert "survey.continuity" in rules_of(plan)
    with pytest.raises(PlanError, match="that it has not"):
        apply(plan, ChangeElement(id="CT1", values={"terminals": ("1", "2")}))


def test_a_cut_lead_and_its_centre_pin():
    found = understand(table(("red", "black", "centre pin", "sleeve"), ("as it is",), (0, 0, 2, True), (0, 1, 3, True),
                             (0, 0, 1, False)))
    assert "red is the conductor of the centre pin." in found.sentences
    dead = understand(table(("red", "centre pin"), ("as it is",), (0, 0, 1, False)))
    assert "red, centre pin go nowhere here" in dead.sentences[-1]


def test_a_switch_that_switches_nothing():
    found = understand(table(("1", "2"), ("off", "on"), (0, 0, 1, True), (1, 0, 1, True)))
    assert "joined in every position" in found.sentences[2] and "no switch" in found.sentences[3]


def test_names_that_cannot_be_told_apart_make_no_switch():
    """Short names are of letters and digits; two terminals or positions that are alike then, or empty, say nothing."""
    good = table(("1", "2", "3"), ("up", "down"), (0, 0, 1, True), (0, 0, 2, False), (0, 1, 2, False),
                 (1, 0, 1, False), (1, 0, 2, True), (1, 1, 2, False))
    assert as_positions(good) == "up: 1+2; down: 1+3"
    for change in ({"terminals": ("a!", "a?", "b")}, {"positions": ("up!", "up?")}, {"positions": ("!", "up")},
                   {"terminals": ("?", "a", "b")}):
        assert as_positions(good.model_copy(update=change)) is None
