"""At the machine: ticks that outlive a lost connection, a wrong reading followed to its fault, a go at practice; with a
finger on a window as wide as a tablet."""

import pytest
from playwright.sync_api import expect

from loadstar import demo
from loadstar.core.prove.trainer import at_load
from loadstar.web.plans import store
from loadstar.web.records.models import BuildEntry, ProofReading, TrainerRun
from loadstar.web.stations.build.sheet import made
from loadstar.web.stations.prove import known

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_whole_build_and_proof_by_finger_with_the_server_out_of_reach_for_a_while(walk, shop):
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])
    someone = walk(shop.technician, has_touch=True)
    page = someone.page
    page.set_viewport_size({"width": 800, "height": 1280})
    base = f"/w/{shop.workshop.slug}/p/{row.pk}/"
    someone.goto(base + "build/")
    keys = made(store.load(row).analysis).keys

    # Two ticks with no line to the server: kept here, said so, sent when it is back; none lost, none twice.
    someone.redraw(lambda: page.locator("#done").tap())
    someone.context.set_offline(True)
    page.locator("#done").tap()
    expect(page.locator("#unsent")).to_contain_text("1 not sent yet")
    page.locator("#done").tap()
    expect(page.locator("#unsent")).to_contain_text("2 not sent yet")
    assert BuildEntry.objects.count() == 1
    someone.context.set_offline(False)
    expect(page.locator("#unsent")).to_be_hidden(timeout=12_000)
    assert [e.operation for e in BuildEntry.objects.order_by("pk")] == list(keys[:2])
    someone.errors[:] = [e for e in someone.errors if "ERR_INTERNET_DISCONNECTED" not in e]

    # The rest from paper, sub-harness by sub-harness.
    for n in range(len(made(store.load(row).analysis).work.groups)):
        someone.goto(f"{base}build/?view=list&group={n}")
        for box in page.locator("#ticks input[type=checkbox]").all():
            box.check()
        someone.redraw(lambda: page.locator("#tick-those").tap())
    expect(page.locator("#work-done")).to_contain_text(f"{len(keys)} of {len(keys)} done")

    # Measured: the first readings in order, then one that is out leads to its fault.
    analysis = store.load(row).analysis
    d = known.diagnosis(analysis, "L1")
    fault = [f.key for f in d.faults].index("W9 +0.8")
    plan = known.plan_of_analysis(analysis)
    someone.goto(base + "prove/")
    for step in plan[:2]:
        page.locator("#id_value").fill(f"{step.expects.value:.2f}")
        someone.redraw(lambda: page.locator("#read-send").tap())
    someone.goto(f"{base}prove/?n={next(n for n, s in enumerate(plan) if s.key == 'at.L1.idle')}")
    page.locator("#id_value").fill(f"{float(d.shown(at_load(d, d.usual))[fault]):.2f}")
    someone.redraw(lambda: page.locator("#read-send").tap())
    someone.redraw(lambda: page.locator("#explain").tap())
    for _ in range(8):
        if page.get_by_text("One cause is all but certain").count():
            break
        red, black, quantity = (page.locator(f"#id_{name}").input_value() for name in ("red", "black", "quantity"))
        probe = next(p for p in d.probes(d.usual) if (p.red, p.black, p.quantity) == (red, black, quantity))
        page.locator("#id_shows").fill(f"{float(d.shown(probe)[fault]):.3f}")
        someone.redraw(lambda: page.locator("#probe-enter").tap())
    expect(page.locator("#find-fault .notice")).to_contain_text("W9 or a crimp of it")
    assert ProofReading.objects.filter(load="L1").count() <= 8

    # Practice, by finger too.
    someone.goto(base + "prove/?view=train")
    someone.redraw(lambda: page.locator("#go-turned").tap())
    page.locator("#id_t_red").select_option("L3.pos")
    page.locator("#id_t_black").select_option("L3.neg")
    someone.redraw(lambda: page.locator("#meter-read").tap())
    expect(page.locator("#meter-face")).to_contain_text("11.")
    page.locator("#id_about").select_option("turned L3")
    someone.redraw(lambda: page.locator("#name-form button").tap())
    expect(page.locator("#practice")).to_contain_text("100 points")
    assert TrainerRun.objects.get().found
