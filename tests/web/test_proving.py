"""Readings: judged, kept, taken in any unit or from the meter; where a wrong one leads; when a circuit is proved."""

from pathlib import Path

import pytest
from answers import paper_words, said
from django.urls import reverse
from intents import LEADS

from loadstar.core.begin import Wish, begun
from loadstar.core.edits import ChangeElement, SetWire, apply
from loadstar.core.intents import INTENTS, carried_out
from loadstar.core.plan.document import from_json
from loadstar.core.plan.model import Plan
from loadstar.core.prove.set import on_then, with_off
from loadstar.core.prove.trainer import at_load
from loadstar.standins.machines import demo_machine
from loadstar.standins.meter import MeterServer
from loadstar.web.evidence import proving as known
from loadstar.web.records import store
from loadstar.web.records import work as records
from loadstar.web.records.models import ProofReading

JOBS = Path(__file__).resolve().parents[2] / "examples" / "jobs"


def read(machine, step, value, **more):
    return machine.act("prove", "read", view="plan", step=step, value=value, **more)


def test_a_reading_is_judged_kept_and_the_next_is_asked_for(machine):
    plan = known.plan_of_analysis(store.load(machine.row).analysis)
    assert plan[0].what in said(machine("prove"))
    answer = read(machine, plan[0].key, f"{plan[0].expects.value:.2f}")
    assert plan[1].what in said(answer) and "✓ pass" in said(answer)
    kept = ProofReading.objects.get()
    assert (kept.step, kept.by, kept.revision) == (plan[0].key, machine.shop.technician, 1)
    machine.row.refresh_from_db()
    told = machine.row.summary
    assert (told.proof_read, told.proof_all, told.proof_out) == (1, len(plan), 0)


def test_a_circuit_with_a_reading_out_is_in_order_on_no_page_and_no_paper(machine):
    load = store.load(machine.row).plan.loads[0]
    machine.client.get(machine.paper("card"))  # one that was made before the reading is not handed out after it
    read(machine, f"at.{load.id}.idle", "0.4 V")
    page = said(machine("handover"))
    assert page.count("not measured yet") == len(store.load(machine.row).plan.loads) - 1
    assert "■ 1 reading out" in page
    assert "1 reading of this circuit out" in paper_words(machine.client.get(machine.paper("card")))
    owner = " ".join(paper_words(machine.client.get(machine.paper("papers"), {"only": "owner"})).split())
    assert "not to be relied on" in owner
    read(machine, f"at.{load.id}.idle", f"{machine.usual_v(load.id):.2f} V")
    assert "■ 1 reading out" not in said(machine("handover"))


def test_the_papers_of_a_high_pack_name_the_class_of_its_wires_and_the_volts_of_its_fuses(machine):
    plan = begun(Plan(), Wish("e-scooter", "60 v", wanted=("bike lamp bright",)))
    row = store.begin(machine.shop.workshop, machine.shop.technician, plan)

    def words(paper):
        address = reverse("papers", args=[machine.shop.workshop.slug, row.pk])
        return " ".join(paper_words(machine.client.get(address, {"only": paper})).split())

    assert words("cut").count(", 600 V") == 3  # pack to fuse, to the converter, and back
    assert "blade fuse 1 A" in words("fuses") and "80 V" in words("fuses")
    assert "The same kind and amps, and volts, only" in words("fuses")


@pytest.mark.parametrize(("step", "typed", "value"), [
    ("posts.parked", "12,55", 12.55), ("posts.parked", "12550 mV", 12.55), ("back.L1", "120 mΩ", 0.12),
    ("back.L1", "0.3 ohm", 0.3), ("standing", "6 mA", 0.006), ("standing", "6.6", 0.0066),
    ("at.L1.idle", "−0.4 V", -0.4)])
def test_readings_are_taken_in_any_unit_of_their_kind(machine, step, typed, value):
    read(machine, step, typed)
    assert ProofReading.objects.get().value == pytest.approx(value)


@pytest.mark.parametrize(("step", "typed", "says"), [
    ("posts.parked", "3 Ω", "Ω is no unit of a voltage; give it in V"),
    ("back.L1", "12 V", "V is no unit of a resistance"),
    ("back.L1", "-2", "never negative"), ("posts.parked", "60", "cannot be on a machine"),
    ("posts.parked", "", "is no number of V"), ("posts.parked", "twelve", "is no number of V"),
    ("back.L1", "99 MΩ", "OL"),
    ("standing", "900 A", "more than any meter"), ("posts.nowhere", "12", "no longer in this plan")])
def test_what_cannot_be_is_told_beside_the_field_and_nothing_is_kept(machine, step, typed, says):
    answer = read(machine, step, typed)
    assert answer.status_code == 422 and says in said(answer) and not ProofReading.objects.exists()


def test_a_wrong_reading_leads_to_its_circuit_and_the_probes_find_the_fault(machine):
    read(machine, "posts.idle", "14.1")
    analysis = store.load(machine.row).analysis
    d = known.diagnosis(analysis, "L1")
    n = [f.key for f in d.faults].index("W8 +0.8")
    answer = read(machine, "at.L1.idle", f"{float(d.shown(at_load(d, d.usual))[n]):.2f}")
    assert "out" in said(answer) and "Possible causes" in said(answer)
    for _ in range(8):
        text = said(machine("prove", view="find", sel="L1"))
        if "almost certain" in text:
            break
        taken = [r.taken for r in records.readings(machine.row) if r.load == "L1" or r.step == "at.L1.idle"]
        probe = d.next(taken).probe
        shown = float(d.shown(probe)[n])
        machine.act("prove", "probe", view="find", load="L1", row=probe.row, quantity=probe.quantity, red=probe.red,
               black=probe.black, value="OL" if shown == float("inf") else f"{shown:.3f}")
    assert "Too much resistance: W8 or a crimp of it" in text
    machine.act("prove", "mended", view="find", load="L1")
    assert "Before anything is read" in said(machine("prove", view="find", sel="L1"))
    assert "not yet" in said(machine("prove", view="result"))


def test_volts_that_another_circuit_moves_are_said_to_be_moved_from_outside(machine):
    """This machine has two circuits: with the other one dead, the first has more volts than any fault of its own gives.
    """
    read(machine, "posts.idle", "14.1")
    analysis = store.load(machine.row).analysis
    d, other = known.diagnosis(analysis, "L1"), known.diagnosis(analysis, "L2")
    probe = at_load(d, d.usual)
    n = [f.key for f in other.faults].index("dead L2")
    more = float(d.shown(probe)[0]) + 3 * (float(other.shown(probe)[n]) - float(d.shown(probe)[0]))
    read(machine, "at.L1.idle", f"{more:.2f}")
    text = said(machine("prove", view="find", sel="L1"))
    assert "ause outside this circuit" in text and "Check every other accessory" in text
    assert "Two at once" not in text


def test_a_reading_that_is_in_order_by_itself_points_nowhere_outside(machine):
    """More volts than the sound circuit shows, yet within what parts and joints scatter."""
    analysis = store.load(machine.row).analysis
    expects = next(s for s in known.plan_of_analysis(analysis) if s.key == "at.L1.idle").expects
    read(machine, "at.L1.idle", f"{expects.value + 0.6 * expects.spread:.2f}")
    text = said(machine("prove", view="find", sel="L1"))
    assert "All readings are within tolerance" in text
    assert "Check every other accessory" not in text and "almost certain" not in text


def test_a_circuit_is_proved_once_everything_of_it_is_in_order_and_no_longer_when_the_plan_changes(machine):
    plan = known.plan_of_analysis(store.load(machine.row).analysis)
    for s in plan:
        if "L2" in s.proves:
            read(machine, s.key, "OL" if s.expects.value == float("inf") else f"{s.expects.value:.4f}")
    text = said(machine("prove", view="result"))
    assert "1 of 2 circuits proved" in text
    page = said(machine("handover"))
    assert page.count("✓ pass") == page.count("not measured yet") == 1
    store.edit(machine.row, machine.shop.technician, 1, SetWire(id="W10", values={"length_m": 9.0}))
    assert "0 of 2 circuits proved" in said(machine("prove", view="result"))
    assert "✓ pass" not in said(machine("handover"))
    assert "read on an older plan" in said(machine("prove", view="result"))


def test_a_reading_may_be_taken_from_the_meter_on_its_socket_that_knows_the_plan(machine, settings):
    with MeterServer(demo_machine()) as server:
        import threading
        threading.Thread(target=server.serve_forever, daemon=True).start()
        settings.METER = f"127.0.0.1:{server.server_address[1]}"
        answer = machine.act("prove", "read", view="plan", step="posts.parked", **{"from": "meter"})
        assert answer.status_code == 200
        kept = ProofReading.objects.get()
        assert kept.value == pytest.approx(kept.expected, abs=0.1) and kept.instrument == "Loadstar, simulated meter"
        machine.act("prove", "read", view="plan", step="back.L1", **{"from": "meter"})
        assert ProofReading.objects.last().value == pytest.approx(0.08, abs=0.2)
        server.shutdown()
    answer = machine.act("prove", "read", view="plan", step="posts.idle", **{"from": "meter"})
    assert answer.status_code == 502 and "does not answer" in said(answer) and ProofReading.objects.count() == 2


@pytest.mark.parametrize(("step", "typed"), [("standing", "OL"), ("posts.parked", "open"), ("at.L1.idle", "inf")])
def test_only_a_resistance_can_be_open(machine, step, typed):
    answer = read(machine, step, typed)
    assert answer.status_code == 422 and "is no number of" in said(answer) and not ProofReading.objects.exists()


def test_an_unplugged_winding_s_volts_are_ac_and_not_of_the_machine_s_supply(machine, settings):
    """40 V is beyond anything of a 12 V machine, and usual on a parted winding; the meter's machine has none."""
    plan, kind = begun(Plan(name="new stator"), Wish("touring motorcycle", "middle")), INTENTS["renew generator"]
    typed = {"high_w": 430, "winding": LEADS[plan.generator.phases], "plug_at": plan.places[0].id}
    plan = apply(plan, carried_out(plan, kind.model_validate({**kind.usual(plan), **typed})))
    row = store.begin(machine.shop.workshop, machine.shop.technician, plan)
    steps = known.plan_of_analysis(store.load(row).analysis)
    n, ac = next((n, s) for n, s in enumerate(steps) if s.apart and s.quantity == "V")
    settings.METER = "127.0.0.1:1"
    args = [machine.shop.workshop.slug, row.pk, "prove"]
    page = machine.client.get(reverse("station", args=args), {"view": "plan", "n": n}).content.decode()
    assert "AC volts" in page and "Read from the meter" not in page

    def sent(**values):
        return machine.client.post(f"{reverse('act', args=[*args, 'read'])}?view=plan",
                                   {"base": "1", "step": ac.key, **values})

    assert sent(**{"from": "meter"}).status_code == 404 and not ProofReading.objects.exists()
    assert sent(value="40 V").status_code == 302 and ProofReading.objects.get().value == 40.0


def test_a_reading_off_by_a_thousand_is_asked_about_once(machine):
    """12.6 mV where 12.6 V are expected: another unit, or it is so."""
    typed = "12.6 mV"
    answer = read(machine, "posts.parked", typed)
    assert answer.status_code == 422 and "12.6 mV? 12.62\u00a0V is expected. If it is so" in said(answer)
    assert f'name="sure" value="{typed}"' in answer.content.decode() and not ProofReading.objects.exists()
    read(machine, "posts.parked", typed, sure="another")
    assert not ProofReading.objects.exists()
    read(machine, "posts.parked", typed, sure=typed)
    assert ProofReading.objects.get().value == pytest.approx(0.0126)
    read(machine, "posts.parked", "1.26")  # a tenth is no other unit: it is judged
    assert ProofReading.objects.count() == 2


def test_what_is_on_is_said_and_the_prediction_follows(machine):
    """With the lamp off the posts are higher; the reading is kept with it, and judged by it."""
    analysis = store.load(machine.row).analysis
    plan = known.plan_of_analysis(analysis)
    n, step = next((n, s) for n, s in enumerate(plan) if s.key == "posts.idle")
    on = [p.id for p in on_then(analysis, step)]
    assert on and all(analysis.plan.part(p).name in said(machine("prove", n=n)) for p in on)
    other = with_off(analysis, step, on[:1])
    assert other.expects.value > step.expects.value
    page = machine("prove", n=n, said=1, on=on[1:])
    assert f"{other.expects.value:.2f}" in said(page) and f'name="off" value="{on[0]}"' in page.content.decode()
    read(machine, step.key, f"{other.expects.value:.3f}", off=on[0])
    kept = ProofReading.objects.get()
    assert kept.off == on[0] and kept.expected == pytest.approx(other.expects.value)
    assert kept.plain == pytest.approx(step.plain)
    assert f"{analysis.plan.part(on[0]).name} off" in said(machine("prove"))


def test_a_pulled_fuse_is_no_short(machine):
    """More ohms than expected behind a fuse, or none at all, are in order; next to none are a short."""
    step = next(s for s in known.plan_of_analysis(store.load(machine.row).analysis) if s.key.startswith("short."))
    for typed, verdict in (("OL", "in"), ("400", "in"), ("0.2", "out")):
        read(machine, step.key, typed)
        assert records.readings(machine.row)[-1].verdict == verdict


def test_what_is_read_at_the_supply_is_taken_into_the_survey_by_one_press(machine):
    """With who read it; a second time there is nothing more to take."""
    read(machine, "posts.parked", "12.55")
    read(machine, "standing", "4 mA")
    page = " ".join(said(machine("prove", view="result")).split())
    assert "Read at the supply, and not yet in the survey: 12.55 V" in page and "4.0 mA" in page
    machine.act("prove", "told", view="result")
    machine.row.refresh_from_db()
    plan = store.load(machine.row).plan
    assert [(r.element, r.quantity, r.state, r.value) for r in plan.readings[-2:]] == [
        (plan.supply.id, "V", "key_off", 12.55), (plan.supply.id, "A", "key_off", 0.004)]
    assert "not yet in the survey" not in said(machine("prove", view="result"))
    again = machine.act("prove", "told", view="result")
    assert again.status_code == 422 and "has all of it" in said(again)


def test_packs_too_far_apart_close_what_comes_after(shop, client):
    """Until they are read again, and closer."""
    row = store.begin(shop.workshop, shop.technician, from_json((JOBS / "21-packs-in-parallel.json").read_bytes()))
    client.force_login(shop.technician)
    base = reverse("station", args=[shop.workshop.slug, row.pk, "prove"])
    act = reverse("act", args=[shop.workshop.slug, row.pk, "prove", "read"])
    gate = next(s for s in known.plan_of_analysis(store.load(row).analysis) if s.gate)
    for value, closed in ((3 * gate.expects.spread, True), (0.0, False)):
        client.post(f"{act}?view=plan", {"base": 1, "step": gate.key, "value": f"{value:.3f}"})
        page = said(client.get(base))
        assert ("further apart than may be joined" in page) is closed
        assert (f'value="{gate.key}"' in client.get(base).content.decode()) is closed


def test_a_point_that_reads_differently_each_time_is_said_to_come_and_go(machine):
    for value in ("12.3", "9.1"):
        machine.act("prove", "probe", view="find", load="L1", quantity="V", row="idle", red="L1.pos", black="BT1.neg",
                    value=value)
    text = " ".join(said(machine("prove", view="find", sel="L1")).split())
    assert "showed 9.10 V and 12.30 V: an intermittent fault" in text
    machine.act("prove", "mended", view="find", load="L1")
    assert "an intermittent fault" not in said(machine("prove", view="find", sel="L1"))


def test_a_reading_of_a_plan_that_has_changed_is_in_order_nowhere(machine):
    """Read at a lamp, then the lamp is made to draw three times as much: page and count ask for it again."""
    load = store.load(machine.row).plan.loads[0]
    machine.act("prove", "read", view="plan", step=f"at.{load.id}.idle", value=f"{machine.usual_v(load.id):.2f}")
    line = said(machine("prove", view="plan"))
    assert "the plan has changed: read again" not in line
    machine.row.refresh_from_db()
    before = machine.row.summary.proof_read
    store.edit(machine.row, machine.shop.technician, store.load(machine.row).number,
               ChangeElement(id=load.id, values={"amount": load.amount * 3}))
    assert "the plan has changed: read again" in said(machine("prove", view="plan"))
    other = store.load(machine.row).plan.loads[1]
    machine.act("prove", "read", view="plan", step=f"dead.{other.id}", value="0")
    machine.row.refresh_from_db()
    assert before == 1 and machine.row.summary.proof_read == 1
