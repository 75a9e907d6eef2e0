"""At the machine: ticks that outlive a lost connection, a wrong reading followed to its fault, a go at practice; with a
finger on a window as wide as a tablet."""

import threading

import pytest
from conftest import make_shop
from playwright.sync_api import expect

from loadstar import demo
from loadstar.core.plan.model import Plan
from loadstar.core.prove.trainer import at_load
from loadstar.standins.machines import demo_machine
from loadstar.standins.meter import MeterServer
from loadstar.web.evidence import proving as known
from loadstar.web.evidence.sheet import made
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store
from loadstar.web.records.machine import records_of
from loadstar.web.records.models import BuildEntry, ProofReading, TrainerRun

pytestmark = pytest.mark.django_db(transaction=True)


def build_from_paper(someone, base: str, row) -> None:
    """Every go ticked."""
    page = someone.page
    someone.goto(f"{base}build/?view=list")
    for box in page.locator("#ticks input[type=checkbox]").all():
        box.check()
    someone.redraw(lambda: page.locator("#tick-those").click())


def probe_until_named(someone, d, fault: int) -> None:
    """Where the page advises, with what that fault shows there, until one cause is almost certain."""
    page = someone.page
    for _ in range(10):
        if page.get_by_text("One cause is almost certain").count():
            return
        red, black, quantity = (page.locator(f"#id_{name}").input_value() for name in ("red", "black", "quantity"))
        probe = next(p for p in d.probes(d.usual) if (p.red, p.black, p.quantity) == (red, black, quantity))
        page.locator("#id_shows").fill(f"{float(d.shown(probe)[fault]):.3f}")
        someone.redraw(lambda: page.locator("#probe-enter").click())
    raise AssertionError("nothing is certain after ten probes")


def tick_without_a_line(someone, goes) -> None:
    """Two ticks with no line to the server: kept here, said so, sent when it is back; none lost, none twice."""
    page = someone.page
    someone.redraw(lambda: page.locator("#done").tap())
    someone.context.set_offline(True)
    first, second = ([o.key for o in go.operations] for go in goes[:2])
    for waiting in (1, 2):
        page.locator("#done").tap()
        expect(page.locator("#unsent")).to_contain_text(f"{waiting} not sent yet")
    assert [e.operation for e in BuildEntry.objects.order_by("pk")] == first
    someone.context.set_offline(False)
    expect(page.locator("#unsent")).to_be_hidden(timeout=12_000)
    assert [e.operation for e in BuildEntry.objects.order_by("pk")] == [*first, *second]
    someone.errors[:] = [e for e in someone.errors if "ERR_INTERNET_DISCONNECTED" not in e]


def practise(someone, base: str) -> None:
    """A fault hidden, probed and named, by finger."""
    page = someone.page
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


def test_a_whole_build_and_proof_by_finger_with_the_server_out_of_reach_for_a_while(walk, shop):
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])
    someone = walk(shop.technician, has_touch=True)
    page = someone.page
    page.set_viewport_size({"width": 800, "height": 1280})
    base = f"/w/{shop.workshop.slug}/p/{row.pk}/"
    someone.goto(base + "build/")
    goes = made(store.load(row).analysis).goes

    tick_without_a_line(someone, goes)
    build_from_paper(someone, base, row)
    expect(page.locator("#work-done")).to_contain_text(f"{len(goes)} of {len(goes)} done")

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
    probe_until_named(someone, d, fault)
    expect(page.locator("#find-fault .notice")).to_contain_text("W9 or a crimp of it")
    assert ProofReading.objects.filter(load="L1").count() <= 8

    practise(someone, base)



def test_what_is_pressed_while_something_is_sent_is_not_lost(walk, shop):
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])
    someone = walk(shop.technician)
    page = someone.page
    address = f"/w/{shop.workshop.slug}/p/{row.pk}/build/"
    someone.goto(address)
    keys = made(store.load(row).analysis).keys

    # A note pressed while a tick is on its way: it was overwritten, and gone.
    held = []
    page.route("**/build/tick/**", lambda route: held.append(route), times=1)
    page.locator("#done").click()
    page.locator("details.more summary").first.click()
    page.fill("#id_note", "strand beside the wings")
    page.get_by_role("button", name="Only a note").click()
    expect(page.locator("#unsent")).to_contain_text("2 not sent yet")
    held[0].continue_()
    expect(page.locator("#unsent")).to_be_hidden(timeout=12_000)
    assert [(e.what, e.operation) for e in BuildEntry.objects.order_by("pk")] == [("done", keys[0]), ("note", keys[0])]


def test_what_is_pressed_while_nobody_is_signed_in_is_not_lost(walk, shop, client):
    """The answer was a sign-in page with 200, and the tick was taken for sent."""
    row = store.begin(shop.workshop, shop.technician, demo.winter()[0])
    someone = walk(shop.technician)
    page = someone.page
    address = f"/w/{shop.workshop.slug}/p/{row.pk}/build/"
    keys = made(store.load(row).analysis).keys
    someone.goto(address)
    someone.context.clear_cookies()
    page.locator("#done").click()
    expect(page.locator("#unsent")).to_contain_text("1 not sent yet")
    page.goto("/sign-in/")
    expect(page.locator("#unsent")).to_contain_text("1 of somebody else waits here")
    assert BuildEntry.objects.count() == 0
    for person, waits in ((shop.owner, True), (shop.technician, False)):
        client.force_login(person)
        someone.context.add_cookies([{"name": "sessionid", "value": client.cookies["sessionid"].value,
                                      "url": someone.base}])
        someone.goto(address)
        if waits:
            expect(page.locator("#unsent")).to_contain_text("1 of somebody else")
        else:
            expect(page.locator("#unsent")).to_be_hidden(timeout=12_000)
    entry = BuildEntry.objects.latest("pk")
    assert (BuildEntry.objects.count(), entry.operation, entry.by) == (1, keys[0], shop.technician)

    # What is refused is said until it has been read, and kept no longer.
    store.put_away(row)
    page.locator("#done").click()
    expect(page.locator("#unsent")).to_contain_text("Not taken")
    page.get_by_role("button", name="I have read it").click()
    expect(page.locator("#unsent")).to_be_hidden()
    someone.errors[:] = [e for e in someone.errors if "403" not in e]


def begin_with_grips(page, home: str) -> None:
    """A touring motorcycle on which heated grips are wanted."""
    page.goto(home)
    page.locator("#begin-plan").click()
    page.locator("input[value='touring motorcycle/middle']").check()
    page.locator("input[name=wanted][value='grips']:visible").check()
    page.locator("#begin-send").click()
    page.wait_for_url("**/circuits/**")


def read_by_meter(someone, base: str, settings) -> None:
    """One reading from the meter on its socket."""
    with MeterServer(demo_machine()) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        settings.METER = f"127.0.0.1:{server.server_address[1]}"
        someone.goto(base + "prove/")
        someone.redraw(lambda: someone.page.locator("#read-meter").click())
        server.shutdown()


def take_in(page, shop, file) -> PlanHead:
    """A machine's file taken in by a workshop; the plan that it becomes there."""
    page.goto(f"/w/{shop.workshop.slug}/")
    page.locator("#id_file").set_input_files(file)
    page.get_by_role("button", name="Import").click()
    page.wait_for_url("**/loads/**")
    return PlanHead.objects.filter(workshop=shop.workshop).latest("pk")


def test_the_whole_story_from_an_empty_workshop_into_another_one(walk, shop, tmp_path, settings):
    """Begun, a pin read by the simulated meter, an accessory, every station, built, proved with a fault found, closed,
    its file taken in elsewhere."""
    empty = make_shop("Estuary", Plan())
    PlanHead.objects.filter(workshop=empty.workshop).delete()
    someone = walk(empty.owner)
    page, home = someone.page, f"/w/{empty.workshop.slug}/"
    begin_with_grips(page, home)
    row = PlanHead.objects.get(workshop=empty.workshop)
    base = f"{home}p/{row.pk}/"
    for station in ("survey", "loads", "budget", "circuits", "route", "ends", "build", "prove", "handover"):
        assert someone.goto(f"{base}{station}/").locator("h1").first.is_visible(), station

    # Built from paper, the first reading by the meter on its socket, which knows the plan.
    build_from_paper(someone, base, row)
    read_by_meter(someone, base, settings)
    assert ProofReading.objects.filter(plan=row).count() == 1

    # A load that reads too little, probed as advised until it is named.
    load = store.load(row).plan.loads[0].id
    d = known.diagnosis(store.load(row).analysis, load)
    wire = store.load(row).analysis.path(load).feed[-1].element
    fault = [f.key for f in d.faults].index(f"{wire} +0.8")
    someone.goto(f"{base}prove/?view=find&sel={load}")
    probe_until_named(someone, d, fault)
    expect(page.locator("#find-fault .notice")).to_contain_text(wire)
    someone.redraw(lambda: page.locator("#mended").click())

    # Closed as built, and its file taken in by the other workshop.
    someone.goto(base + "handover/")
    page.locator("#id_note").fill("tried on the sands")
    someone.redraw(lambda: page.locator("#close-built").click())
    expect(page.locator("#as-built")).to_contain_text("closed by")
    with page.expect_download() as download:
        page.locator("#machine-file a").click()
    file = tmp_path / "machine.zip"
    download.value.save_as(file)
    taken = take_in(walk(shop.owner).page, shop, file)
    assert store.load(taken).plan == store.load(row).plan and records_of(taken) == records_of(row)
