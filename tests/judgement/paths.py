"""More of the judge's plans: every way that a fault can take past a fuse, and parts the wrong way round."""

from builders import Bench
from judgement.benches import BOX, GRIPS, LAMP, SMALL, TWO, Case, bench
from judgement.plans import e_bike

from loadstar.core.edits import AddElement, AddWire, MoveEnd, RemoveWire, apply
from loadstar.core.intents import INTENTS, carried_out
from loadstar.core.plan.model import Plan

ALWAYS = {"live": "always", "reason_always": "agreed", "minutes_per_hour": 0}


def lay(plan: Plan, a: str, z: str, area_mm2: float | None = None, length_m: float = 0.5) -> Plan:
    """A wire laid by hand."""
    return apply(plan, AddWire(a=a, b=z, values={"colour": "RD", "length_m": length_m, "area_mm2": area_mm2}))


def two_loads() -> Bench:
    """A lamp and grips on a block."""
    b = bench()
    for load in (LAMP, GRIPS):
        b.load(**load)
    return b


def second_feed(area_mm2: float, rating_a: float | None = None, length_m: float = 0.8) -> Plan:
    """The block fed a second time from the battery, with a fuse of its own or without."""
    b = two_loads()
    begin = f"{b.battery}.pos"
    if rating_a is not None:
        fuse = b.add("fuse", name="second feed fuse", place=b.box, rating_a=rating_a)
        b.plan = lay(b.plan, begin, f"{fuse}.a", area_mm2, 0.2)
        begin = f"{fuse}.b"
    return lay(b.plan, begin, f"{b.block}.in", area_mm2, length_m)


def bridged(plan: Plan, length_m: float = 0.1) -> Plan:
    """The first fuse of a plan bridged."""
    fuse = plan.of_kind("fuse")[0]
    return lay(plan, f"{fuse.id}.a", f"{fuse.id}.b", 2.5, length_m)


def module_fed_twice(fused_a: float | None) -> Plan:
    """A distribution module with a second lead to its input."""
    b = bench()
    module = b.add("module", name="module", place=b.box)
    b.load(**{**GRIPS, "feed": module})
    begin = f"{b.battery}.pos"
    if fused_a:
        fuse = b.add("fuse", name="second", place=b.box, rating_a=fused_a)
        b.plan = lay(b.plan, begin, f"{fuse}.a", 4.0, 0.1)
        begin = f"{fuse}.b"
    return lay(b.plan, begin, f"{module}.in", 4.0, 1.0)


def in_parallel(one_a: float, other_a: float, area_mm2: float | None) -> Plan:
    """A pump fed through two fuses side by side."""
    b = bench()
    pump = b.load(**{"name": "pump", "amount": 60, "feed": b.battery, **ALWAYS})
    b.change(b.fuse_of(pump), rating_a=one_a)
    other = b.add("fuse", name="second fuse", place=b.box, rating_a=other_a)
    plan = lay(b.plan, f"{b.battery}.pos", f"{other}.a", 4.0, 0.2)
    return lay(plan, f"{other}.b", f"{pump}.pos", area_mm2, 1.2)


def in_pieces(count: int, each_m: float) -> Plan:
    """The way to a fuse in so many pieces, joined by splices."""
    b = bench()
    pump = b.load(**{"name": "pump", "amount": 60, "feed": b.battery, **ALWAYS})
    fuse = b.fuse_of(pump)
    b.plan = apply(b.plan, RemoveWire(id=next(w.id for w in b.plan.wires if w.b == f"{fuse}.a")))
    at = f"{b.battery}.pos"
    for n in range(count - 1):
        splice = b.add("junction", name=f"splice {n}", place=b.box, form="splice")
        b.plan = lay(b.plan, at, f"{splice}.t", 4.0, each_m)
        at = f"{splice}.t"
    return lay(b.plan, at, f"{fuse}.a", 4.0, each_m)


def at_the_solenoid() -> Plan:
    """A fuse at the end of the starter's lead: custom leaves that lead without one."""
    b = bench(cranking_a=80)
    solenoid_at = b.add("junction", name="starter stud", place=b.box, form="stud")
    motor = b.add("starter", name="starter", place=b.nose)
    plan = b.plan
    feed = next(w for w in plan.wires if f"{motor}.pos" in (w.a, w.b))
    plan = apply(plan, MoveEnd(id=feed.id, end="a", to=f"{solenoid_at}.t"))
    b.plan = plan
    b.load(**{**LAMP, "feed": solenoid_at, **ALWAYS})
    return b.plan


def ring(a_a: float, b_a: float, area_mm2: float) -> Plan:
    """A ring fed at both ends from the battery, with a fuse at either, and a lamp in its middle."""
    b = bench()
    lamp = b.load(**{**LAMP, "feed": b.battery, **ALWAYS})
    middle = b.feed_wire(lamp)
    b.change(b.fuse_of(lamp), rating_a=a_a)
    b.wire(middle, area_mm2=area_mm2)
    other = b.add("fuse", name="other end", place=b.box, rating_a=b_a)
    plan = lay(b.plan, f"{b.battery}.pos", f"{other}.a", 4.0, 0.1)
    splice = AddElement.model_validate({"what": "junction", "values": {"name": "far joint", "place": b.nose,
                                                                       "form": "splice"}})
    plan = apply(plan, splice)
    joint = plan.of_kind("junction")[-1].id
    plan = lay(plan, f"{other}.b", f"{joint}.t", area_mm2, 1.2)
    return lay(plan, f"{joint}.t", f"{lamp}.pos", area_mm2, 1.2)


def changed_over(plan: Plan, part: str, plus: str = "pos", minus: str = "neg") -> Plan:
    """A part's two leads the other way round."""
    over = {f"{part}.{plus}": f"{part}.{minus}", f"{part}.{minus}": f"{part}.{plus}"}
    for wire in plan.wires:
        for end, at in (("a", wire.a), ("b", wire.b)):
            if at in over:
                plan = apply(plan, MoveEnd(id=wire.id, end=end, to=over[at]))
    return plan


def on_leads(*poles: str) -> Plan:
    """A generator on leads of its own, behind a fuse at the battery; only these poles are joined."""
    b = bench()
    b.add("load", **{**LAMP, "place": b.nose, "feed": b.block, "live": "key"})
    generator, plan = b.plan.generator.id, b.plan
    if "pos" in poles:
        plan = apply(plan, AddElement.model_validate({"what": "fuse", "values": {
            "name": "regulator fuse", "place": b.box, "rating_a": 40}}))
        fuse = plan.of_kind("fuse")[-1].id
        plan = lay(plan, f"{generator}.pos", f"{fuse}.b", 6.0, 1.0)
        plan = lay(plan, f"{fuse}.a", f"{b.battery}.pos", 6.0, 0.2)
    return lay(plan, f"{generator}.neg", f"{b.battery}.neg", 6.0, 1.0) if "neg" in poles else plan


def two_batteries(joined_by: str) -> Plan:
    """A second battery."""
    b = two_loads()
    b.add("second_battery", name="second", place=b.nose, joined_by=joined_by, capacity_ah=10)
    return b.plan


def packs(**more) -> Plan:
    """An e-bike with two packs, drive and converter."""
    return e_bike(drive={}, second=TWO, combiner={}, converter=BOX, load=SMALL, **more)


def drive_on_leads() -> Plan:
    """A drive whose leads are drawn, from behind the pack's fuse."""
    plan = e_bike(drive={"full_w": 300, "limit_a": 8}, converter=BOX, load=SMALL)
    rail = next(f for f in plan.of_kind("fuse"))
    plan = apply(plan, AddElement.model_validate({"what": "fuse", "values": {
        "name": "drive fuse", "place": rail.place, "volts_v": 58, "rating_a": 15}}))
    fuse, drive, pack = plan.of_kind("fuse")[-1].id, plan.of_kind("drive")[0].id, plan.packs[0].id
    plan = lay(plan, f"{pack}.pos", f"{fuse}.a", 4.0, 0.2)
    plan = lay(plan, f"{fuse}.b", f"{drive}.pos", 4.0, 0.5)
    return lay(plan, f"{drive}.neg", f"{pack}.neg", 4.0, 0.5)


PATHS: dict[str, Case] = {
    # -- good -----------------------------------------------------------------------------------------------------
    "a second feed with a fuse of its own": Case("2.5 mm2 behind 7.5 A.", lambda: second_feed(2.5, 7.5)),
    "a module fed twice, both fused": Case("4 mm2 behind 10 A.", lambda: module_fed_twice(10)),
    "a pump behind two equal fuses": Case("Each of 2.5 mm2.", lambda: in_parallel(15, 15, 2.5)),
    "a stub of three pieces": Case("0.27 m in all.", lambda: in_pieces(3, 0.09)),
    "a stub of one piece": Case("0.29 m.", lambda: in_pieces(1, 0.29)),
    "a fuse at the starter's stud": Case("As factories do it.", at_the_solenoid),
    "a ring with a fuse at both ends": Case("2.5 mm2, twice 7.5 A.", lambda: ring(7.5, 7.5, 2.5)),
    "a generator behind its fuse": Case("Both leads drawn.", lambda: on_leads("pos", "neg")),
    "a second battery behind a diode": Case("Charged by it.", lambda: two_batteries("diode")),
    "a drive on leads": Case("Behind a fuse of its own.", drive_on_leads),
    # -- bad ------------------------------------------------------------------------------------------------------
    "a second feed of 0.5 mm2": Case("Straight from the battery.", lambda: second_feed(0.5), (
        ("fuse.bypassed", "stop", "where nothing opens"),)),
    "a second feed of 6 mm2": Case("Straight from the battery: everything behind it hangs on nothing.",
                                   lambda: second_feed(6.0), (("fuse.bypassed", "stop", "go on past it by"),)),
    "a bridged main fuse": Case("By a wire across it.", lambda: bridged(two_loads().plan), (
        ("fuse.bypassed", "stop", "W12"),), ("wire.not-protected",)),
    "a bridged pack fuse": Case("By a wire across it.",
                                lambda: bridged(e_bike(drive={}, converter=BOX, load=SMALL)),
                                (("fuse.bypassed", "stop", "A go on past it"),)),
    "a module with a second feed": Case("Unfused.", lambda: module_fed_twice(None),
                                        (("fuse.bypassed", "stop", "nothing opens"),)),
    "a pump behind 15 A and 30 A": Case("1.5 mm2 behind the 30 A.", lambda: in_parallel(15, 30, 1.5), (
        ("wire.not-protected", "stop", "second fuse (30 A)"),)),
    "a stub of five pieces": Case("Each as short as the house rule has it.", lambda: in_pieces(5, 0.29),
                                  (("wire.no-fuse", "stop", "1.45 m"),)),
    "a stub of two pieces": Case("Half a metre.", lambda: in_pieces(2, 0.25), (("wire.no-fuse", "stop", "0.50 m"),)),
    "a ring with 40 A at its other end": Case("1 mm2: what the small fuse leaves, the large one feeds.",
                                              lambda: ring(7.5, 40, 1.0), (
                                                  ("wire.not-protected", "stop", "other end (40 A)"),)),
    "a generator changed over": Case("Its rectifier shorts the battery.", lambda: changed_over(
        on_leads("pos", "neg"), "G1"), (("source.reversed", "stop", "burn"),), ("budget.short", "wire.too-hot")),
    "a generator without a way back": Case("One lead only.", lambda: on_leads("pos"),
                                           (("source.open", "stop", "no way back"),), ("budget.short",)),
    "a second battery changed over": Case("Both drive a short.", lambda: changed_over(
        two_batteries("diode"), "BB1"), (("source.reversed", "stop", "short through each other"),),
        ("wire.too-hot", "fuse.share", "load.not-carried", "second.cranks")),
    "a second pack changed over": Case("Both drive a short.", lambda: changed_over(packs(), "PK2"),
                                       (("source.reversed", "stop", "Second pack"),), ("wire.no-fuse",)),
    "the first of two packs changed over": Case("Both drive a short.", lambda: changed_over(packs(), "PK1"),
                                                (("source.reversed", "stop", "First pack"),)),
    "a converter's input changed over": Case("Dead at once.", lambda: changed_over(
        e_bike(drive={}, converter=BOX, load=SMALL), "CV1", "inp", "inn"),
        (("source.reversed", "stop", "input is destroyed"),), ("load.not-live",)),
    "a drive changed over": Case("Dead at once.", lambda: changed_over(drive_on_leads(), "D1"),
                                 (("source.reversed", "stop", "controller is destroyed"),)),
}


def starts(cranking_a: float = 110, coil_ohm: float = 4, leads_mm2: float | None = None, **fixed) -> Plan:
    """A starter with solenoid, button and safety switch; `fixed`: of the solenoid, the button, the coil's fuse."""
    b = bench(cranking_a=cranking_a)
    motor = b.add("starter", name="starter", place=b.box)
    intent = INTENTS["starter"](solenoid_at=b.box, button_at=b.nose, starter_at=b.box, feed=b.block, safety_at=b.box,
                              coil_ohm=coil_ohm)
    b.plan = apply(b.plan, carried_out(b.plan, intent))
    solenoid = b.plan.of_kind("solenoid")[0].id
    if "solenoid_a" in fixed:
        b.change(solenoid, contact_a=fixed["solenoid_a"])
    if "button_a" in fixed:
        button = next(p for p in b.plan.of_kind("selector") if p.use == "button")
        b.change(button.id, contact_a=fixed["button_a"])
    if "fuse_a" in fixed:
        b.change(next(p.id for p in b.plan.of_kind("fuse") if p.made_for != b.block), rating_a=fixed["fuse_a"])
    for wire in b.plan.wires:
        if leads_mm2 and {wire.a, wire.b} & {f"{motor}.pos", f"{motor}.neg", f"{solenoid}.a"}:
            b.wire(wire.id, area_mm2=leads_mm2)
    return b.plan


PATHS |= {
    "a starter with all left to Loadstar": Case("110 A, 4 ohm coil.", starts),
    "a starter on 16 mm2": Case("110 A.", lambda: starts(leads_mm2=16)),
    "a starter with a 70 A solenoid": Case("Twice its rating for five seconds.", lambda: starts(solenoid_a=70)),
    "a button that just carries the coil": Case("3 A on 2 A for seconds.", lambda: starts(button_a=2)),
    "starter leads of 1 mm2": Case("140 A.", lambda: starts(140, leads_mm2=1.0), (
        ("wire.cranking", "stop", "while the starter turns"),)),
    "starter leads of 2.5 mm2": Case("110 A.", lambda: starts(leads_mm2=2.5), (("wire.cranking", "stop", "2.5 mm²"),)),
    "a 40 A solenoid for 140 A": Case("It welds.", lambda: starts(140, solenoid_a=40), (
        ("contact.cranking", "stop", "80 A"),)),
    "a 1 A button for a 4 ohm coil": Case("3 A.", lambda: starts(button_a=1), (("contact.cranking", "stop", "1 A"),)),
    "a 2 A fuse for a 1.5 ohm coil": Case("8 A.", lambda: starts(coil_ohm=1.5, fuse_a=2), (
        ("fuse.cranking", "stop", "may open then"),)),
}


def own_lead(fuse_a: float | None, lead_mm2: float = 0.35) -> Plan:
    """A lamp with a thin lead of its own on a longer wire from the battery."""
    b = bench()
    lamp = b.load(**{**LAMP, "feed": b.battery, "lead_mm2": lead_mm2, **ALWAYS})
    if fuse_a:
        b.change(b.fuse_of(lamp), rating_a=fuse_a)
    return b.plan


def other_kind() -> Plan:
    """A lithium battery beside a lead one, joined while the engine runs."""
    b = two_loads()
    b.add("second_battery", name="second", place=b.nose, joined_by="isolator", capacity_ah=10, chemistry="lfp")
    return b.plan


def coil_on(rated_a: float) -> Plan:
    """A starter's coil on a found wire, through a button."""
    b = bench(cranking_a=110)
    b.add("starter", name="starter", place=b.box)
    tap = b.add("tap", name="lamp wire", place=b.box, live="key", rated_a=rated_a, fused_a=7.5)
    intent = INTENTS["starter"](solenoid_at=b.box, button_at=b.nose, starter_at=b.box, feed=tap,
                                safety_at=b.box, coil_ohm=3.6)
    return apply(b.plan, carried_out(b.plan, intent))


PATHS |= {
    "a thin lead behind 2 A": Case("0.35 mm2, as its maker has it.", lambda: own_lead(2)),
    "a thin lead left to Loadstar": Case("0.35 mm2.", lambda: own_lead(None)),
    "a lithium battery beside a lead one": Case("Joined while the engine runs.", other_kind),
    "a second pack of 14 cells on a changeover": Case("Each fuse breaks its own pack.", lambda: e_bike(
        drive={}, converter={**BOX, "window_high_v": 70}, second={"series": 14, "parallel": 4, "name": "tall pack"},
        combiner={"way": "changeover"}, load=SMALL)),
    "a starter's coil on a wire for 5 A": Case("3.4 A.", lambda: coil_on(5)),
    "a thin lead behind 15 A": Case("0.35 mm2 at the end of a thicker wire.", lambda: own_lead(15), (
        ("load.lead-thin", "stop", "0.35 mm²"),)),
    "a starter's coil on a wire for 1 A": Case("3.4 A through a button.", lambda: coil_on(1), (
        ("feed.trigger-overloaded", "caution", "taken as good for 1 A"),)),
}


def idle_fuse() -> Plan:
    """A thick unfused feed beside a 30 A fuse on a long thin wire, which carries so little of a fault that it never
    opens."""
    b = two_loads()
    main = next(p.id for p in b.plan.of_kind("fuse") if p.made_for == b.block)
    b.change(main, rating_a=30)
    b.wire(next(w.id for w in b.plan.wires if w.a == f"{main}.b"), area_mm2=0.5, length_m=4.0)
    return lay(b.plan, f"{b.battery}.pos", f"{b.block}.in", 16, 0.8)


PATHS |= {"a fuse that sees too little of a fault": Case("30 A beside 16 mm2.", idle_fuse, (
    ("wire.no-fuse", "stop", "no fuse before it"),), ("wire.not-protected",))}
