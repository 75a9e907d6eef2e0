"""After a reading, the same point in the next state."""

from builders import Bench

from loadstar.core.doc.survey import Reading
from loadstar.core.survey.following import following


def read(plan, *taken):
    """A plan with such readings: element, quantity, state."""
    readings = tuple(Reading(id=f"R{n}", element=element, quantity=quantity, state=state, value=12.6,
                             instrument="pocket meter") for n, (element, quantity, state) in enumerate(taken, 1))
    return plan.model_copy(update={"readings": readings})


def test_the_same_point_in_the_next_state_with_the_same_meter():
    plan = Bench().plan
    posts = plan.supply.id
    assert following(plan) is None
    then = following(read(plan, (posts, "V", "key_off")))
    assert (then.element, then.quantity, then.state, then.instrument) == (posts, "V", "key_on", "pocket meter")
    then = following(read(plan, (posts, "V", "key_off"), (posts, "V", "cranking"), (posts, "V", "key_on")))
    assert then.state == "idle"  # cranking has been read


def test_from_the_last_state_it_goes_round_and_ends_when_each_has_one():
    plan = Bench().plan
    posts = plan.supply.id
    assert following(read(plan, (posts, "V", "lamp_on"))).state == "key_off"
    every = ("key_off", "key_on", "cranking", "idle", "raised", "lamp_on")
    assert following(read(plan, *((posts, "V", state) for state in every))) is None
    assert following(read(plan, *((posts, "V", state) for state in every), (posts, "A", "key_off"))).quantity == "A"


def test_what_is_gone_or_beeps_is_followed_by_nothing():
    plan = Bench().plan
    assert following(read(plan, ("T99", "V", "key_off"))) is None
    assert following(read(plan, (plan.supply.id, "beep", "key_off"))) is None
