"""Still more of the judge's plans: contacts and wires by volts, connectors by the fuse before them, sources that lie
side by side, coils the wrong way round, and jobs as Loadstar makes them."""

from builders import Bench
from judgement.benches import BOX, GRIPS, LAMP, SMALL, TWO, Case, bench
from judgement.paths import ALWAYS, changed_over, lay
from judgement.plans import e_bike

from loadstar.core.begin import Wish, begun
from loadstar.core.edits import CutWire, SetWire, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.intents import INTENTS, carried_out
from loadstar.core.plan.model import Plan

HIGH_BOX = {"window_low_v": 40, "window_high_v": 90}


def tall(voltage_class: str | None = None, *, fixed: bool = False, series: int = 20) -> Plan:
    """A converter on a tall pack, its input wires of a stated class, or of a stated size and nobody has read more."""
    plan = e_bike(pack={"series": series}, converter={**BOX, **HIGH_BOX}, load=SMALL)
    box = plan.of_kind("converter")[0].id
    for wire in plan.wires:
        if box in (wire.b.part, wire.a.part) and {wire.a.name, wire.b.name} & {"inp", "inn"}:
            values = {"voltage_class": voltage_class, **({"area_mm2": 1.5} if fixed else {})}
            plan = apply(plan, SetWire(id=wire.id, values=values))
    return plan


def switched_box(**switch) -> Plan:
    """A converter behind a switch on a 48 V pack, as an intent makes it."""
    plan = e_bike(drive={})
    place = plan.places[0].id
    intent = INTENTS["converter"](converter_at=place, switch_at=place)
    plan = apply(plan, carried_out(plan, intent))
    b = Builder(plan.name, plan)
    if switch:
        b.change(plan.of_kind("selector")[0].id, **switch)
    return b.plan


def outlet(fuse_a: float | None, rated_a: float = 10) -> Plan:
    """An outlet with its fuse at the battery."""
    b = bench()
    lead = b.add("lead", name="socket", place=b.nose, feed=b.battery, live="always", rated_a=rated_a, covered=True)
    b.load(**{"name": "what is put in", "amount": 3, "unit": "A", "behaviour": "current", "at_v": 13.5,
              "window_low_v": 0, "feed": lead, **ALWAYS})
    if fuse_a:
        b.change(b.fuse_of(lead), rating_a=fuse_a)
    return b.plan


def through_connector(rated_a: float, fuse_a: float) -> Plan:
    """Grips through a connector in the harness, behind a fuse of a stated rating."""
    b = bench()
    grips = b.load(**{**GRIPS, "feed": b.battery, **ALWAYS})
    b.change(b.fuse_of(grips), rating_a=fuse_a)
    b.wire(b.feed_wire(grips), area_mm2=4.0)
    made = Builder("cut", b.plan)
    made.do(CutWire(id=b.feed_wire(grips), place=b.nose))
    made.change(made.plan.of_kind("coupling")[0].id, rated_a=rated_a, ways=1)
    return made.plan


def two_boxes(joined: bool) -> Plan:
    """Two converters; their outputs each with a lamp of its own, or tied together."""
    plan = e_bike(converter=BOX, load=SMALL)
    b = Builder(plan.name, plan)
    first = plan.of_kind("converter")[0].id
    other = b.add("converter", name="other box", place=plan.places[0].id, window_low_v=36, window_high_v=60, rated_a=8,
                  idle_w=0.1)
    b.add("load", name="other lamp", category="other", amount=12, at_v=12, window_low_v=9, place=plan.places[1].id,
          feed=other, live="key")
    return lay(b.plan, f"{first}.pos", f"{other}.pos", 1.5, 0.2) if joined else b.plan


def two_packs(joined: bool) -> Plan:
    """Two packs behind a combiner, or one on the other's posts."""
    if not joined:
        return e_bike(drive={}, second=TWO, combiner={}, converter=BOX, load=SMALL)
    plan = e_bike(drive={}, second=TWO, converter=BOX, load=SMALL)
    one, two = (p.id for p in plan.packs)
    plan = lay(plan, f"{one}.pos", f"{two}.pos", 6.0, 0.2)
    return lay(plan, f"{one}.neg", f"{two}.neg", 6.0, 0.2)


def two_packs_fused() -> Plan:
    """Two packs, each behind a fuse of its own, on one rail with nothing else between."""
    b = Builder("bike", e_bike(drive={}, second=TWO, converter=BOX, load=SMALL))
    one, two = b.plan.packs
    fuse = b.add("fuse", name="second pack fuse", place=two.place, volts_v=58, rating_a=15)
    first = next(f for f in b.plan.of_kind("fuse") if f.id != fuse)
    plan = lay(b.plan, f"{two.id}.pos", f"{fuse}.a", 4.0, 0.1)
    plan = lay(plan, f"{fuse}.b", f"{first.id}.b", 4.0, 0.5)
    return lay(plan, f"{one.id}.neg", f"{two.id}.neg", 4.0, 0.5)


def coil(suppression: str, *, turned: bool) -> Plan:
    """A lamp on a relay, its coil one way round or the other."""
    b = bench()
    b.add("tap", name="brake wire", place=b.box, live="brake", rated_a=5, fused_a=5, source_mohm=40)
    b.load(**{**LAMP, "feed": b.battery, "live": "brake"})
    relay = b.plan.of_kind("relay")[0].id
    b.change(relay, suppression=suppression)
    return changed_over(b.plan, relay, "86", "85") if turned else b.plan


def six_volts(**relay) -> Plan:
    """A horn behind a relay on a machine of 6 V, as Loadstar makes the relay or with another."""
    b = Bench(generator=False)
    b.machine(system_v=6)
    b.change(b.battery, nominal_v=6)
    b.add("tap", name="brake wire", place=b.box, live="brake", rated_a=5, fused_a=5, source_mohm=40)
    b.load(name="lamp", category="lamp", amount=10, at_v=6, window_low_v=4, window_high_v=8, feed=b.battery,
           live="brake")
    if relay:
        b.change(b.plan.of_kind("relay")[0].id, **relay)
    return b.plan


def as_begun(kind: str, size: str, *wanted: str) -> Plan:
    """A machine as it is begun, with accessories from the list."""
    return begun(Plan(), Wish(kind, size, wanted=wanted))


LIMITS: dict[str, Case] = {
    "14 cells, wires of 60 V": Case("58.8 V.", lambda: tall("60 V", series=14)),
    "a converter behind a switch": Case("The switch is Loadstar's to name.", switched_box),
    "a switch for 60 V DC": Case("Stated.", lambda: switched_box(contact_a=10, breaks_v=60)),
    "an outlet left to Loadstar": Case("3 A on 10 A contacts.", lambda: outlet(None)),
    "an outlet of 10 A behind 15 A": Case("Warm, and stands it.", lambda: outlet(15)),
    "a connector of 10 A behind 10 A": Case("As it should be.", lambda: through_connector(10, 10)),
    "two converters, each with its own": Case("Side by side.", lambda: two_boxes(joined=False)),
    "two packs behind a combiner": Case("Each by its diode.", lambda: two_packs(joined=False)),
    "a coil with a diode": Case("86 is fed.", lambda: coil("diode", turned=False)),
    "a coil with a resistor, turned": Case("A plain coil pulls in either way round.",
                                           lambda: coil("resistor", turned=True)),
    "a relay on 6 V": Case("With a coil for 6 V.", six_volts),
    "a magneto machine as it is begun": Case("Its lamps, nobody measured anything.", lambda: as_begun(
        "small motorcycle", "magneto 6", "magneto stop")),
    "20 cells, wires left to Loadstar": Case("Only dangerous to touch: the order says 600 V class.", tall, (
        ("pack.dangerous-to-touch", "caution", "84.0 V"),), ("wire.voltage-class",)),
    "20 cells, wires of 60 V": Case("84 V on them.", lambda: tall("60 V"), (
        ("wire.voltage-class", "stop", "84.0 V"),)),
    "20 cells, wires that are there": Case("Nobody has read them.", lambda: tall(fixed=True), (
        ("wire.voltage-class", "caution", "read the voltage class"),)),
    "an ordinary switch on a pack": Case("28 V DC in front of 54.6 V.",
                                         lambda: switched_box(contact_a=10, breaks_v=28),
                                         (("contact.volts", "stop", "54.6 V"),)),
    "a switch that nobody has read": Case("10 A is all that is known.", lambda: switched_box(contact_a=10), (
        ("contact.volts", "caution", "Breaks up to"),)),
    "an outlet of 10 A behind 20 A": Case("Its contacts get as hot as a heater.", lambda: outlet(20), (
        ("connector.fuse", "caution", "20 A"),)),
    "a connector of 5 A behind 10 A": Case("Twice its rating for good.", lambda: through_connector(5, 10), (
        ("connector.fuse", "caution", "made for 5 A"),)),
    "two converters on one wire": Case("One carries all.", lambda: two_boxes(joined=True), (
        ("source.joined", "stop", "lie on one wire"),)),
    "two packs on one wire": Case("What is fuller fills the other.", lambda: two_packs(joined=True), (
        ("source.joined", "stop", "For each volt between them"),)),
    "two packs on one rail, each behind its fuse": Case("The fuses part nothing.", two_packs_fused, (
        ("source.joined", "stop", "For each volt between them"),)),
    "a coil with a diode, turned": Case("It shorts its trigger.", lambda: coil("diode", turned=True), (
        ("relay.diode-reversed", "stop", "85 is fed"),)),
    "a 12 V relay on 6 V": Case("It never pulls in.", lambda: six_volts(pull_in_v=8, coil_ohm=90), (
        ("load.not-live", "stop", "relay is not pulled in"),)),
}
