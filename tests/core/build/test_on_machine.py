"""What is done on the machine: pictures before plugs are opened, laid in, connected, tried, tied and covered."""

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.build.operations import Operation
from loadstar.core.build.whole import work
from loadstar.core.edits import PutPlug, apply


def by_kind(work_, kind: str) -> dict[str, Operation]:
    """Its operations of a kind, by what they are done to."""
    return {o.element: o for o in work_.operations.values() if o.kind == kind}


def all_before(work_, key: str) -> set[str]:
    """Everything that has to be done before, however far back."""
    found: set[str] = set()
    todo = [key]
    while todo:
        new = work_.before[todo.pop()] - found
        found |= new
        todo += new
    return found


@pytest.mark.parametrize(("renewed", "fed", "pictured"), [(False, False, False), (True, False, True),
                                                          (False, True, True), (True, True, True)])
def test_a_plug_is_pictured_where_a_wire_goes_to_it_or_one_of_its_own_is_renewed(renewed, fed, pictured):
    b = Bench()
    b.plan = apply(b.plan, PutPlug(values={"name": "seat plug", "place": b.nose, "ways": 2}, pins=(
        {"way": 1, "function": "feed", "live": "key", "rated_a": 8, "fused_a": 10}, {"way": 2, "function": "ground"})))
    pin = next(t.id for t in b.plan.taps if t.plug and t.function == "feed")
    b.lamp(10, **({"feed": pin} if fed else {"feed": b.battery, "live": "always", "reason_always": "an alarm"}))
    if renewed:
        b.change(pin, new_colour="RD")
    w = work(analyse(b.plan))
    assert bool(by_kind(w, "photograph")) == pictured == ("mark/plugs" in w.operations)
    (off,) = by_kind(w, "disconnect").values()
    assert all(w.operations[k].sitting == "take off" for k in w.before[off.key])
    for picture in by_kind(w, "photograph").values():
        assert off.key in w.before[picture.key] and picture.key in all_before(w, "mark/plugs")


@pytest.mark.parametrize("make", [demo.fit_out, demo.winter], ids=lambda make: make.__name__)
def test_what_hides_it_comes_off_first_and_goes_on_after_everything_was_tried_and_tied(make):
    """What hides the battery before the supply is off, the rest after; the supply on once all else is connected."""
    a = analyse(make()[0])
    w = work(a)
    touched = {a.plan.part(e.part).place for wire in a.plan.wires for e in (wire.a, wire.b)}
    touched |= {p for b in a.loom.bundles for p in (b.run.a, b.run.b)} | {a.plan.supply.place}
    reached = {p.name: p.reach for p in a.plan.places if p.reach and p.id in touched}
    for sitting, begins in (("take off", "Remove, for "), ("refit", "Refit, at ")):
        mine = [o for o in w.operations.values() if o.sitting == sitting]
        told = {name: reach for o in mine for names, reach in [o.words.removeprefix(begins).split(": ")]
                for name in names.split(", ")}
        assert told == reached and len(mine) == len(set(reached.values())) < len(reached)  # the seat, for two places
    tests, ties = by_kind(w, "test"), by_kind(w, "tie")
    assert ties.keys() == {b.run.id for b in a.loom.bundles} and tests.keys() == {p.id for p in a.plan.loads}
    off = w.operations["disconnect/supply"]
    (on,) = (o for o in w.operations.values() if o.sitting == "supply on")
    for one in (o for o in w.operations.values() if o.kind == "bodywork"):
        if one.sitting == "refit":
            assert {o.key for o in (*tests.values(), *ties.values(), on)} <= all_before(w, one.key)
        else:
            hides = a.plan.place(a.plan.supply.place).reach in one.words
            assert (one.key in all_before(w, off.key)) is hides is not (off.key in all_before(w, one.key))
    assert on.words.startswith("Every fuse out. ") and on.words.endswith("negative last")
    assert {o.key for o in by_kind(w, "connect").values()} - {on.key} <= all_before(w, on.key)
    assert all(on.key in all_before(w, o.key) for o in tests.values())


def test_what_is_connected_has_all_its_wires_and_they_are_laid_in_before():
    b = Bench()
    b.lamp(10)
    a = analyse(b.plan)
    w = work(a)
    connected = by_kind(w, "connect")
    on = {p.id: [x.id for x in a.plan.wires if p.id in (x.a.part, x.b.part)] for p in a.plan.parts}
    assert connected.keys() == {part for part, wires in on.items() if wires}
    for part, one in connected.items():
        if part != b.battery:
            assert one.words == f"Connect {a.plan.part(part).name}: {', '.join(on[part])}"
    assert set(on[b.battery]) <= set(connected[b.battery].words.replace(",", "").split())
    (test,) = by_kind(w, "test").values()
    assert {connected[part].key for part in ("L1", b.block)} <= all_before(w, test.key)


def test_the_wires_are_taped_where_they_branch_before_they_are_covered():
    """A run whose wires go on into another is held there; the covering waits for it, and it for every wire."""
    w = work(analyse(demo.fit_out()[0]))
    shapes = [o for o in w.operations.values() if o.key.startswith("cover/shape.")]
    assert shapes and all("keep their shape" in o.words for o in shapes)
    for shape in shapes:
        covers = [o for o in w.operations.values() if o.kind == "cover" and shape.key in all_before(w, o.key)]
        assert len(covers) >= 2  # the runs that meet there
        assert {w.operations[k].kind for k in all_before(w, shape.key)} >= {"cut", "crimp core"}


def test_a_single_run_has_nowhere_to_be_taped():
    b = Bench()
    b.load(name="lamp", amount=10, category="lamp")
    w = work(analyse(b.plan))
    ends = [place for bundle in analyse(b.plan).loom.bundles if bundle.made for place in (bundle.run.a, bundle.run.b)]
    assert any(o.key.startswith("cover/shape.") for o in w.operations.values()) == (len(ends) != len(set(ends)))


def test_a_drive_whose_leads_were_opened_is_tried_with_its_wheel_up_before_it_is_closed():
    two = work(analyse(demo.tide_hauler()[0]))
    drive = two.operations["test/D1"]
    assert drive.words.startswith("Wheel off the ground") and drive.words.endswith("each brake lever in turn")
    assert "battery/supply" in all_before(two, drive.key)
    body = [o for o in two.operations.values() if o.sitting == "refit"]
    assert all(drive.key in all_before(two, o.key) for o in body)
    lamp_only = work(analyse(demo.fit_out()[0]))
    assert not any(o.words.startswith("Wheel off") for o in lamp_only.operations.values())


def test_an_accessory_is_tried_with_every_fuse_on_its_way_in():
    """The main fuse is out too: with its own alone it would be dead."""
    b = Bench()
    b.load(name="depth sounder", amount=9, category="electronics")
    a = analyse(b.plan)
    (test,) = by_kind(work(a), "test").values()
    on_way = [a.plan.part(k.element).name for k in a.path("L1").feed if a.plan.part_by_id.get(k.element) is not None
              and a.plan.part(k.element).kind == "fuse"]
    assert len(on_way) >= 1 and test.words.lower().startswith(f"{' and '.join(on_way)} in: try ".lower())
