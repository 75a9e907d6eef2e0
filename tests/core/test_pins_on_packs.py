"""Machines with packs: several loose leads at the drive unit, and one of them is the lamp's."""

import pytest
from readings import STATES, plan_with, take

from loadstar.core.edits import apply
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.survey.pins import classify
from loadstar.core.survey.shows import PACK_ASKS, kind_words, state_words, with_state
from loadstar.demo import tide_hauler

# -- machines with packs: several loose leads at the drive unit, and one of them is the lamp's ----------------------

def on_packs():
    plan = tide_hauler()[0]
    pins = tuple({"way": way, "function": "unknown", "rated_a": 1} for way in (1, 2, 3))
    return apply(plan, PutPlug(values={"name": "loose leads", "place": plan.places[3].id, "ways": 3}, pins=pins))


@pytest.mark.parametrize(("pattern", "kind", "sure"), [
    ("o0 k0 l12 a0 g0", "lamp", True), ("o0 k0 l6.1 a0", "lamp", True),
    ("o0 k5 l5 a5 g0", "signal", True), ("o0 k48 l48 a46 g0", "key", True), ("o50 k49 l49 a46 g54", "constant", True),
    ("o0 k0 l0 a46 g0", "engine", True), ("o0 k0 l0 a0 g0 b0", "dead", False)])
def test_which_of_several_leads_is_the_lamps_is_found_in_the_states_of_such_a_machine(pattern, kind, sure):
    plan = on_packs()
    pin = plan.pins(plan.plugs[-1].id)[0]
    verdict = classify(take(plan, pin, pattern), pin)
    assert (verdict.kind, verdict.is_sure) == (kind, sure), verdict.shares
    assert not verdict.conflicts


def test_what_settles_a_pin_on_packs_settles_it_and_never_asks_for_an_engine():
    for kind, truth in {"lamp": "o0 k0 l12 a0 b1", "key": "o0 k48 l48 a46 b0", "constant": "o50 k49 l49 a46 b0",
                        "engine": "o0 k0 l0 a46 b0", "ground": "o0 k0 l0 a0 b1"}.items():
        plan = on_packs()
        pin, shown = plan.pins(plan.plugs[-1].id)[0], {w[0]: w for w in truth.split()}
        asked = []
        while (settle := classify(plan, plan.part(pin.id)).settle) is not None:
            asked.append(settle)
            letter = "b" if settle[0] == "beep" else next(k for k, v in STATES.items() if v == settle[1])
            plan = take(plan, pin, shown[letter])
            assert len(asked) <= len(PACK_ASKS)
        assert set(asked) <= set(PACK_ASKS)
        assert classify(plan, plan.part(pin.id)).kind == kind, asked


def test_a_machine_on_packs_has_states_and_words_of_its_own():
    plan = on_packs()
    assert list(state_words(plan)) == ["key_off", "key_on", "lamp_on", "assist", "charging"]
    assert not any("engine" in words or "key" in words for words in state_words(plan).values())
    assert not any("engine" in words or "key" in words for words in kind_words(plan).values())
    assert "cranking" in state_words(plan_with()) and "assist" not in state_words(plan_with())
    second = plan.pins(plan.plugs[-1].id)[1]
    assert not classify(take(plan, second, "o0 k0 l20 a0"), second).is_sure  # no drive unit feeds its lamps with 20 V
    # a reading from before the machine's system was changed still has its words
    assert with_state(plan, "idle") == "engine idling, lamps off"
    pin = plan.pins(plan.plugs[-1].id)[0]
    conflict = classify(take(plan, pin, "o50 k0 a46"), pin)
    assert conflict.conflicts and "engine" not in " ".join(conflict.conflicts)
