"""Plans wholly left to Loadstar: every supply and feed, five loads, four ways, three airs, two kinds of load."""

from itertools import product

from loadstar.core.analysis import analyse
from loadstar.core.edits.builder import Builder
from loadstar.core.plan.model import Plan

# Rules that speak about what Loadstar chooses itself: sizes, ratings, contacts, classes of fuse, ways of a return.
COMPLAINTS = frozenset({
    "wire.too-hot", "wire.not-protected", "wire.no-fuse", "wire.below-minimum", "wire.voltage-class",
    "fuse.share", "fuse.inrush",
    "fuse.selective", "fuse.never-opens", "fuse.voltage", "fuse.maker", "load.drop", "load.not-live", "load.no-circuit",
    "load.not-carried",
    "load.reversed", "load.lives-on", "feed.back-feed", "feed.module-way", "feed.ways", "contact.rating",
    "contact.kind", "contact.needs-relay",
    "relay.undecided", "relay.suppression", "converter.input", "converter.unprotected", "converter.unsteady",
    "network.short",
    "network.unsolved", "network.floating", "starter.drop", "load.in-series"})
BATTERY_FEEDS = ("battery", "block", "far block", "module", "bar", "plug")
PACK_FEEDS = ("pack", "converter", "changeover", "diode", "parallel", "port")
WATTS, RUNS_M, AIR_C = (5, 20, 60, 120, 300), (0.5, 1.5, 2.5, 4.0), (30, 60, 85)
KINDS = (("resistor", "heating"), ("power", "lamp"), ("current", "motor"))


def plans() -> list[tuple[str, Plan]]:
    """All of them with their names, in an order that mixes them."""
    found = []
    for feed, watts, run, air, (behaviour, category) in product(BATTERY_FEEDS + PACK_FEEDS, WATTS, RUNS_M, AIR_C,
                                                                KINDS):
        if (feed == "port" and watts > 120) or (feed in PACK_FEEDS and behaviour == "resistor") or (feed == "pack"
            and behaviour == "current"):
            continue
        found.append((feed, watts, run, air, behaviour, category))
    found.sort(key=lambda c: hash_of(str(c)))
    return [(" ".join(map(str, case)), _made(*case)) for case in found]


def stands(plan: Plan) -> list[str]:
    """What is wrong with the analysis of a plan that is wholly left to Loadstar: a stand of its switches that has no
    solution or does not balance, or a complaint about what Loadstar chose."""
    a = analyse(plan)
    wrong = [f"{row.words}: {row.failure}" for row in a.volts.rows if row.solution is None]
    wrong += [f"{row.words}: out of balance" for row in a.volts.rows if row.solution and row.solution.residual_a > 1e-8]
    return wrong + [f"{f.rule}: {f.sentence}" for f in a.findings
                    if f.rule in COMPLAINTS and f.severity != "note" and "No " not in f.sentence]


def hash_of(text: str) -> int:
    """A steady number from a text, to mix an order."""
    return sum(ord(c) * 31 ** (i % 7) for i, c in enumerate(text)) % 9973


def _made(feed: str, watts: float, run_m: float, air_c: float, behaviour: str, category: str) -> Plan:
    b = Builder(feed)
    if feed in PACK_FEEDS:
        b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    box, nose = (b.add("place", name=n, ambient_c=air_c) for n in ("box", "nose"))
    b.add("run", a=box, b=nose, length_m=run_m)
    source = _pack(b, feed, box, nose) if feed in PACK_FEEDS else _battery(b, feed, box, nose)
    volts = 48 if feed == "pack" else 12 if feed in PACK_FEEDS else 13.5
    for name, amount, kind in (("thing", watts, (behaviour, category)), ("other", 5, ("power", "electronics"))):
        b.add("load", name=name, behaviour=kind[0], category=kind[1], amount=amount, at_v=volts, place=nose,
              feed=source, live="key",
              window_low_v=5, window_high_v=100)
    return b.plan


def _battery(b: Builder, feed: str, box: str, nose: str) -> str:
    battery = b.add("battery", name="battery", place=box, capacity_ah=18, internal_mohm=12)
    b.add("generator", name="generator", place=box, rating1_w=300, rating1_rpm=1300, rating2_w=700, rating2_rpm=5000,
          phase_ohm=0.1)
    key = b.add("tap", name="key wire", place=box, live="key", rated_a=60, fused_a=60, source_mohm=5)
    if feed.endswith("block"):
        return b.add("block", name="block", place=nose if feed.startswith("far") else box)
    if feed == "module":
        return b.add("module", name="module", place=box, way_most_a=40, total_a=100)
    if feed == "bar":
        return b.add("junction", name="bar", place=box, form="bus bar")
    return key if feed == "plug" else battery


def _pack(b: Builder, feed: str, box: str, nose: str) -> str:
    pack = b.add("pack", name="pack", place=box, series=13, parallel=6, bms_continuous_a=40, bms_peak_a=60)
    b.add("drive", name="drive", place=box, full_w=500)
    if feed in ("changeover", "diode", "parallel"):
        b.add("pack", name="second", place=nose, series=13, parallel=5)
        b.add("combiner", name="joint", place=box, way=feed)
    if feed == "port":
        return b.add("port", name="port", place=box, enabled=True, limit_w=200)
    if feed == "pack":
        return pack
    return b.add("converter", name="converter", place=box, window_low_v=36, window_high_v=60, rated_a=40,
                 efficiency_frac=0.9)
