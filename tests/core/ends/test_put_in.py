"""Leads that were typed, put into a plan: devices, connectors, wires, ends, the order, the work."""

import pytest

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.build.whole import work
from loadstar.core.edits import apply
from loadstar.core.ends.joints import POWER, joints
from loadstar.core.ends.pins import Contact, consolidate
from loadstar.core.leads import put_in
from loadstar.core.order import order
from loadstar.core.parts.coupling import Coupling
from loadstar.core.parts.device import Device
from loadstar.core.plan.model import Plan
from loadstar.exchange import leads

CONTACT = Contact(7.5, 1.0, 0.02)
MORE = """
motor hall a;hall a;controller;0.01;0.22;;5
motor hall b;hall b;controller;0.01;0.22;;5
motor hall c;hall c;controller;0.01;0.22;;5
motor hall feed;5 V;controller;0.03;0.22;60;5
motor hall ground;ground;controller;0.03;0.22;40;5
key switch in;battery +;;0.2;0.5;;52
key switch out;battery on;;0.2;0.5;;52"""


@pytest.fixture(scope="module")
def typed():
    """Twenty-two leads, and the plan with them: an e-bike that has nothing yet."""
    read = leads.read(leads.EXAMPLE + MORE).leads
    made = joints(consolidate(read, CONTACT), 1)
    plan = begun(Plan(), Wish("trail e-bike", "48 v"))
    at = {p.name: p.id for p in plan.places}
    return read, made, apply(plan, put_in(plan, made, CONTACT, at["handlebar"], at["pack"], "controller"))


def test_every_lead_comes_from_its_device_and_is_as_it_came(typed):
    read, _, plan = typed
    assert len(read) == 22
    devices = {p.name: p for p in plan.of(Device)}
    lines = {name: " ".join(sorted(device.ends)) for name, device in devices.items()}
    assert lines["throttle"] == "feed ground signal" and lines["key switch"] == "in out"
    assert lines["can"] == "high low" and lines["motor hall"] == "a b c feed ground"
    own = [w for w in plan.wires if w.origin == "supplied" and w.made == "b"]
    assert sorted(w.area_mm2 for w in own) == sorted(lead.area_mm2 for lead in read)
    assert {plan.part(w.a.part).place for w in own} == {next(p.id for p in plan.places if p.name == "handlebar")}
    told = {f"{plan.part(w.a.part).name} {w.a.name}": w.carries_a for w in own}
    assert told["lamp feed"] == 1.5 and told["horn ground"] == 2.0 and told["throttle signal"] == 0


def test_each_way_goes_on_to_the_unit_and_power_is_apart(typed):
    _, made, plan = typed
    assert [j.why for j in made] == ["", POWER]
    couplings = plan.of(Coupling)
    assert [c.name for c in couplings] == ["joint connector 1", "joint connector 2, power"]
    assert [c.ways for c in couplings] == [j.ways for j in made]
    for coupling, joint in zip(couplings, made, strict=True):
        for way, pin in enumerate(joint.pins, 1):
            come, = (w for w in plan.wires if w.b == f"{coupling.id}.a{way}")
            on, = (w for w in plan.wires if w.a == f"{coupling.id}.b{way}")
            assert plan.part(on.b.part).name.startswith("controller, leads to connector")
            assert on.carries_a == pytest.approx(pin.amps) == pytest.approx(come.carries_a)
            assert (come.origin == "new") == (len(pin.leads) > 1)  # from a splice


def test_ends_order_and_work_follow(typed):
    _, made, plan = typed
    a = analyse(plan)
    assert order(a).unknown == ()
    pins = sum(len(j.pins) for j in made)
    bought = {i.what: i.need for i in order(a).items}
    assert sum(n for what, n in bought.items() if what.startswith("sealed round pin")) == 2 * pins
    assert sum(n for what, n in bought.items() if "connector" in what) == 2
    metres = sum(n for what, n in bought.items() if "mm² " in what and "pin" not in what and "splice" not in what)
    new = [w for w in plan.wires if w.origin == "new"]
    assert metres == pytest.approx(sum(a.loom.cut_m[w.id] for w in new))
    kinds = [o.kind for o in work(a).operations.values()]
    assert kinds.count("beep") == len(plan.wires) and kinds.count("insert") == 2 * pins
    assert all(a.wires[w.id].peak_a >= (w.carries_a or 0) for w in plan.wires)
    assert not [f for f in a.findings if f.severity in ("stop", "caution")]
    thin, = (f for f in a.findings if f.rule == "wire.below-minimum")
    assert thin.severity == "note" and set(thin.elements) == {
        w.id for w in plan.wires if w.origin == "supplied" and w.area_mm2 < 0.5}


def test_a_lead_of_many_alike_is_told_apart_and_a_device_has_so_many_lines():
    plan = begun(Plan(), Wish("trail e-bike", "48 v"))
    place = plan.places[0].id
    text = "\n".join(f"panel lamp number {n};net {n};;0.1;0.5;;5" for n in range(1, 31))
    made = joints(consolidate(leads.read(text).leads, CONTACT), 0)
    assert made[0].ways is None  # no connector has so many
    same = "\n".join(f"panel {n} {word};net {i};;0.1;0.5;;5" for i, (n, word) in enumerate((
        ("a", "x3"), ("a", "x"), ("a", "X!"), ("a", "x "), ("a", "x?"))))
    few = leads.read(same.replace("x ;", "x#;")).leads
    alike = apply(plan, put_in(plan, joints(consolidate(few, CONTACT), 0), CONTACT, place, place, "unit"))
    assert sum(len(p.ends) for p in alike.of(Device) if p.name == "panel a") == len(few) == 5
    some = joints(consolidate(leads.read("\n".join(text.splitlines()[:24])).leads, CONTACT), 0)
    done = apply(plan, put_in(plan, some, CONTACT, place, place, "unit"))
    panel = next(p for p in done.of(Device) if p.name.startswith("panel lamp"))
    assert len(panel.ends) == 24 == len(set(panel.ends))
