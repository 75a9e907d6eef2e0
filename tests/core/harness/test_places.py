"""Where a part best sits: each place tried on the plan, against trying them by hand."""

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import Analysis, analyse
from loadstar.core.edits import ChangeElement, apply
from loadstar.core.whatif.places import PlaceOption, movable, ranked, tried_at
from loadstar.core.whatif.returns import APART, joinable, joined


def compare_places(base: Analysis, part: str) -> tuple[PlaceOption, ...]:
    """Every place for one part, best first."""
    return ranked(tried_at(base, part, place.id) for place in base.plan.places)


def compare_returns(base: Analysis, loads: tuple[str, ...]) -> tuple[PlaceOption, ...]:
    """As they are, and joined at every place, best first."""
    return ranked(joined(base, loads, place) for place in (APART, *(p.id for p in base.plan.places)))


def test_the_demonstration_s_block_against_moving_it_by_hand():
    """Every place: the plan changed, analysed, its wires weighed."""
    plan = demo.fit_out()[0]
    block = next(p for p in plan.parts if p.kind == "block")
    found = compare_places(analyse(plan), block.id)
    assert {o.place for o in found} == {p.id for p in plan.places}
    for option in found:
        made = analyse(apply(plan, ChangeElement(id=block.id, values={"place": option.place})))
        assert option.trial.wires_g == pytest.approx(made.loom.wires_g)
        assert option.trial.more_g == pytest.approx(made.loom.wires_g - analyse(plan).loom.wires_g)
        assert option.trial.wires_m == pytest.approx(sum(w.length_m for w in made.wires.values()))
    still = [o for o in found if not o.speaks_against]
    assert [o.place for o in still] == [o.place for o in sorted(still, key=lambda o: (o.trial.stops, o.trial.wires_g))]
    assert all("moves" in o.speaks_against[0] for o in found if plan.place(o.place).moves != "still")


def test_the_shortest_is_not_always_the_lightest():
    """Nearer to many thin users the leads are shorter in all, and the thick lead to the battery longer."""
    found = compare_places(analyse(demo.fit_out()[0]), "B1")
    shortest, lightest = min(found, key=lambda o: o.trial.wires_m), min(found, key=lambda o: o.trial.wires_g)
    assert shortest.place != lightest.place


def test_taking_the_best_makes_it_lighter():
    b = Bench()
    tail = b.add("place", name="tail", ambient_c=40)
    b.add("run", a=b.box, b=tail, length_m=1.5)
    b.change(b.block, place=tail)
    for n in range(4):
        b.lamp(20, name=f"lamp {n}")
    best = compare_places(analyse(b.plan), b.block)[0]
    assert best.place in (b.box, b.nose)
    assert best.edit is not None
    assert analyse(apply(b.plan, best.edit)).loom.wires_g < analyse(b.plan).loom.wires_g


def test_what_speaks_against_a_place():
    b = Bench()
    wet = b.add("place", name="wheel", ambient_c=40, water="washed over")
    hot = b.add("place", name="engine", ambient_c=100)
    bars = b.add("place", name="bars", ambient_c=40, moves="with the steering")
    for place in (wet, hot, bars):
        b.add("run", a=b.box, b=place, length_m=0.5)
    b.change(b.block, dimensions={"most_c": 85})
    against = {o.place: " ".join(o.speaks_against) for o in compare_places(analyse(b.plan), b.block)}
    assert "washed over, and what water it stands is not said" in against[wet]
    assert "100 °C there, and it withstands 85 °C" in against[hot]
    assert "moves with the steering" in against[bars]
    assert against[b.box] == against[b.nose] == ""
    b.change(b.block, dimensions={"water": "washed over"})
    assert not next(o for o in compare_places(analyse(b.plan), b.block) if o.place == wet).speaks_against


def test_what_belongs_to_something_else_is_not_asked_about():
    b = Bench()
    b.lamp()
    assert b.block in {p.id for p in movable(b.plan)}
    assert not {p.id for p in movable(b.plan)} & {p.id for p in b.plan.parts if p.made_for in (b.block, "L1")}


def returns_bench() -> Bench:
    """Three lamps at the nose, a place halfway to it that stands still, and bars that turn."""
    b = Bench()
    half, bars = b.add("place", name="half way"), b.add("place", name="bars", moves="with the steering")
    b.add("run", a=b.box, b=half, length_m=0.6)
    b.add("run", a=half, b=b.nose, length_m=0.6)
    b.add("run", a=b.nose, b=bars, length_m=0.3)
    b.change(b.run, used=False)
    for n in range(3):
        b.lamp(30, name=f"lamp {n}")
    return b


def test_returns_joined_at_every_place_against_joining_them_by_hand():
    b = returns_bench()
    loads = tuple(p.id for p in joinable(b.plan))
    assert len(loads) == 3
    base = analyse(b.plan)
    found = {o.name: o for o in compare_returns(base, loads)}
    assert set(found) == {"each for itself", *(p.name for p in b.plan.places)}
    for option in found.values():
        if option.edit is None:
            continue
        by_hand = Bench.__new__(Bench)
        by_hand.plan = b.plan
        star = by_hand.add("junction", name="star", place=option.place, form="star point")
        for load in loads:
            by_hand.change(load, return_to=star)
        made = analyse(by_hand.plan)
        assert option.trial.wires_g == pytest.approx(made.loom.wires_g)
        assert option.trial.worst_frac == pytest.approx(max(made.volts.worst_drop(p)[1] for p in made.plan.loads))
        assert analyse(apply(b.plan, option.edit)).loom.wires_g == pytest.approx(made.loom.wires_g)
    assert found["each for itself"].trial.more_g == 0
    # three returns of one size along 1.2 m against one thicker: copper for the same loss, less insulation
    assert found["nose"].trial.wires_g < found["half way"].trial.wires_g < found["each for itself"].trial.wires_g
    assert found["bars"].speaks_against == ("it moves with the steering",)
    first = compare_returns(base, loads)[0]
    assert first.name == "nose"


def test_a_return_may_be_written_from_either_end():
    b = returns_bench()
    turned = b.plan.model_copy(update={"wires": tuple(w.model_copy(update={"a": w.b, "b": w.a})
                                                      for w in b.plan.wires)})
    assert joinable(turned) == joinable(b.plan) and len(joinable(turned)) == 3
    cut = b.plan.model_copy(update={"wires": tuple(w for w in b.plan.wires if "L2.neg" not in (w.a, w.b))})
    assert [p.id for p in joinable(cut)] == ["L1", "L3"]


def test_what_has_no_return_of_its_own_is_not_asked_about():
    b = returns_bench()
    star = b.add("junction", name="star", place=b.nose, form="star point")
    b.change("L1", return_to=star)
    b.change("L2", returns="frame")
    assert [p.id for p in joinable(b.plan)] == ["L3"]
