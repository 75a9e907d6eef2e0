"""The order list, against a count by hand."""

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import CutWire, apply
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.order import order

# Counted by hand from the plan's drawing: every wire's two ends, by what they go to and their size.
WINTER = {
    # into the block: 2 fuses out, relay 30, 87, 85, 86 and the bus behind the relay
    "blade receptacle 6.3, 0.5 to 1.5 mm²": (7, 9),
    # the found wire, and both leads of the grips and of the charger
    "red butt splice, 0.35 to 1.5 mm²": (5, 7),
    "ring M4, 0.35 to 1.5 mm²": (4, 6),  # return bar: to the battery, coil, grips, charger
    "ring M5, 0.35 to 1.5 mm²": (2, 4),  # the block's stud: from the fuse, to the relay
    "ring M6, 0.35 to 1.5 mm²": (2, 4),  # the battery's posts
    "terminal of a blade-fuse holder, 0.5 to 2.5 mm²": (2, 4),
    "blade fuse 2 A": (1, 2), "blade fuse 3 A": (1, 2), "blade fuse 5 A": (1, 2),
    "holder for blade fuse, in line": (1, 1),
    "relay with its socket, ISO 7588 pattern": (1, 1)}
TIDE_RACE = {
    # both halves at the coil's two leads, the switch's two and the headlamp's two (1.5 and 2 mm²): 12; at the tail
    # lamp's two and the coil's earth (0.5 mm²): 6
    "yellow butt splice, 2.5 to 6 mm²": (1, 3),  # the splice at the middle: 1.5 + 1.5 + 0.5 mm²
    "bullet 3.9, 1 to 2.1 mm²": (12, 14), "bullet 3.9, 0.5 to 1 mm²": (6, 8)}


FIT_OUT = {
    "red butt splice, 0.35 to 1.5 mm²": (15, 17),  # the found wire, and both leads of seven accessories
    "blade receptacle 6.3, 0.5 to 1.5 mm²": (7, 9),  # five fuses out (the vest's wire is too thin), the relay's coil
    "blade receptacle 6.3, 1.5 to 2.5 mm²": (3, 5),  # the relay's contacts, the bus behind it
    "ring M4, 0.35 to 1.5 mm²": (7, 9), "ring M4, 1.5 to 2.5 mm²": (1, 3), "ring M5, 1.5 to 2.5 mm²": (2, 4),
    "ring M6, 0.35 to 1.5 mm²": (2, 4), "ring M6, 1.5 to 2.5 mm²": (2, 4),
    "terminal of a blade-fuse holder, 0.5 to 2.5 mm²": (4, 6)}
FERRY_RUNNER = {  # three switches and lamps with two leads each, the coil's lead to each switch; three frame joints
    "red butt splice, 0.35 to 1.5 mm²": (15, 17), "ring M6, 0.35 to 1.5 mm²": (3, 5)}
MUD_HOPPER = {
    "red butt splice, 0.35 to 1.5 mm²": (10, 12),  # the found wire's three and its return, three accessories
    "blade receptacle 6.3, 0.5 to 1.5 mm²": (8, 10),  # two relays
    "ring M6, 0.35 to 1.5 mm²": (6, 8), "terminal of a blade-fuse holder, 0.5 to 2.5 mm²": (6, 8)}
TIDE_HAULER = {
    "red butt splice, 0.35 to 1.5 mm²": (16, 18),  # the box's six, three accessories, two switches
    "sealed small pin, 0.5 to 1.25 mm²": (2, 4),  # into the light port
    "two-pole high-current, soldered cup, 0.5 to 2.5 mm²": (4, 6),  # both packs' plus, combiner a, box minus
    "two-pole high-current, soldered cup, 2.5 to 6 mm²": (4, 6),  # minus to minus, combiner b and out
    "terminal of a blade-fuse holder, 0.5 to 2.5 mm²": (4, 6), "terminal of a blade-fuse holder, 2.5 to 6 mm²": (2, 4)}
AS_FOUND = {"ring M6, 0.35 to 1.5 mm²": (2, 4), "ring M5, 0.35 to 1.5 mm²": (1, 3), "ring M4, 0.35 to 1.5 mm²": (1, 3),
            "terminal of a blade-fuse holder, 0.5 to 2.5 mm²": (2, 4)}
LIGHTS_AND_HORN = {
    "red butt splice, 0.35 to 1.5 mm²": (25, 28),  # the found wire, switches 3 + 6 + 2 + 5, lamps 4 + 2, horn 2
    "blade receptacle 6.3, 0.5 to 1.5 mm²": (16, 18),  # two relays 8, fuses 5, the bus, the flasher 2
    "sealed small pin, 0.5 to 1.25 mm²": (8, 10),  # four indicators
    "ring M4, 0.35 to 1.5 mm²": (11, 13), "ring M5, 0.35 to 1.5 mm²": (2, 4), "ring M6, 0.35 to 1.5 mm²": (2, 4),
    "terminal of a blade-fuse holder, 0.5 to 2.5 mm²": (2, 4)}
ONE_PLUG = {
    # box 4, cooler and its switch 4, lamp and horn 4, four 5 V users 8, lines at both ends 16, the controller's cut-off
    # 2, levers 4 + 2: 44; three small splices of 1.5 mm²; two of four wires
    "red butt splice, 0.35 to 1.5 mm²": (47, 52), "blue butt splice, 1.5 to 2.5 mm²": (2, 4),
    "ring M6, 0.35 to 1.5 mm²": (2, 4), "ring M6, 1.5 to 2.5 mm²": (1, 3),  # the pack's posts
    "tube lug M6, 6 to 10 mm²": (1, 3),  # three negative leads in one barrel: 6 + 1.5 + 0.5 mm²
    "sealed round pin 1.5, 0.22 to 0.5 mm²": (28, 31),  # fourteen ways, both sides
    "sealed small pin, 0.5 to 1.25 mm²": (7, 9),  # into the controller's 12 V and 5 V
    "two-pole high-current, soldered cup, 0.5 to 2.5 mm²": (2, 4),  # the controller, the main connector
    "two-pole high-current, soldered cup, 2.5 to 6 mm²": (4, 6),
    "terminal of a blade-fuse holder, 0.5 to 2.5 mm²": (3, 5), "terminal of a blade-fuse holder, 2.5 to 6 mm²": (1, 3)}
BY_HAND = {"fit_out": FIT_OUT, "winter": WINTER, "ferry_runner": FERRY_RUNNER, "tide_race": TIDE_RACE,
           "mud_hopper": MUD_HOPPER, "tide_hauler": TIDE_HAULER, "as_found": AS_FOUND,
           "lights_and_horn": LIGHTS_AND_HORN, "one_plug": ONE_PLUG}


def counted(plan) -> dict[str, tuple[float, float]]:
    return {i.what: (i.need, i.order) for i in order(analyse(plan)).items if not i.unit}


@pytest.mark.parametrize("make", demo.PLANS, ids=lambda m: m.__name__)
def test_pieces_are_those_counted_by_hand(make):
    by_hand, found = BY_HAND[make.__name__], counted(make()[0])
    assert {what: found.get(what) for what in by_hand} == by_hand
    assert {what for what in found if "mm²" in what} == {what for what in by_hand if "mm²" in what}


def test_wire_is_ordered_with_a_tenth_more_in_steps_of_ten_centimetres():
    a = analyse(demo.winter()[0])
    black = next(i for i in order(a).items if i.what == "0.5 mm² BK")
    by_hand = sum(a.loom.cut_m[w.id] for w in a.plan.wires if (w.colour, w.stripe) == ("BK", ""))
    assert black.need == pytest.approx(by_hand)
    assert black.order == pytest.approx(2.8)  # 2.48 m and a tenth
    assert sum(i.need for i in order(a).items if i.group == "Wire") == pytest.approx(sum(a.loom.cut_m.values()))


def test_ends_that_take_nothing_are_said_and_not_ordered():
    found = order(analyse(demo.fit_out()[0]))
    assert [e.key for e in found.unknown] == ["W18.a"]


def test_connectors_with_locks_seals_and_plugs_for_ways_left_open():
    b = Bench()
    b.lamp(10)
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    coupling = b.plan.of_kind("coupling")[-1].id
    found = counted(b.plan)
    assert found["sealed small connector, 2-way, both halves with locks"] == (1, 1)
    assert found["seal, sealed small, wires 1.5 to 2.4 mm"] == (2, 4)
    assert found["plug for an unused way, sealed small"] == (2, 4)
    b.change(b.nose, water="dry")  # its other ways are closed only with it
    assert "plug for an unused way, sealed small" in counted(b.plan)
    b.change(coupling, keying="B")
    assert "sealed small connector, 2-way, both halves with locks, keying B" in counted(b.plan)


def test_what_joins_an_accessory_s_own_lead_is_ordered_for_both_halves():
    b = Bench()
    b.lamp(10)
    b.rules(leads="bullet 3.9")
    assert counted(b.plan)["bullet 3.9, 0.5 to 1 mm²"][0] == 4
    b.rules(leads="sealed small")
    found = counted(b.plan)
    assert found["sealed small connector, 2-way, both halves"] == (1, 1)
    assert found["seal, sealed small, wires 1.5 to 2.4 mm"][0] == 4


def test_what_is_sold_with_a_sealed_plug_wants_the_other_half():
    found = counted(demo.lights_and_horn()[0])
    assert found["sealed small connector, 2-way, one half"] == (4, 4)
    assert found["seal, sealed small, wires 1.5 to 2.4 mm"] == (8, 10)


def test_joints_that_are_soldered_take_no_terminal_but_shrink_tube():
    b = Bench()
    b.lamp(10)
    crimped = order(analyse(b.plan))
    b.rules(joints="solder splice")
    soldered = order(analyse(b.plan))
    assert any("butt splice" in i.what for i in crimped.items)
    assert not any("butt splice" in i.what for i in soldered.items)
    tubes = [[i.need for i in one.items if i.group == "Boots and shrink tube"] for one in (crimped, soldered)]
    assert tubes[0] == tubes[1] != []
    assert {e.name for e in analyse(b.plan).ends.every if e.soldered} == {"soldered joint"}


def metres(plan) -> dict[str, tuple[float, float]]:
    return {i.what: (i.need, i.order) for i in order(analyse(plan)).items if i.unit == "m"}


@pytest.mark.parametrize("make", [demo.fit_out, demo.winter, demo.lights_and_horn], ids=lambda m: m.__name__)
def test_tube_is_cut_for_every_joint_and_for_both_cut_ends_of_every_braid(make):
    a = analyse(make()[0])
    cut_mm = {}
    for end in {(e.at if e.beside else e.key): e for e in a.ends.every}.values():
        if end.shrink:
            cut_mm.setdefault(end.shrink.supplied_mm, []).append(end.shrink_mm)
    for bundle in a.loom.bundles:
        if bundle.sleeve and bundle.shrink:
            cut_mm.setdefault(bundle.shrink.supplied_mm, []).append(2 * 30)
    found = {what: need for what, (need, _) in metres(a.plan).items() if what.startswith("shrink tube")}
    by_hand = {what: sum(mm) / 1000 for size, mm in cut_mm.items() for what in found if f" {size:g}/" in what}
    assert found == pytest.approx(by_hand) and len(found) == len(cut_mm) > 0


@pytest.mark.parametrize("covering", ["loom tape", "PVC tape", "braided sleeve"])
def test_covering_is_ordered_by_what_lies_on_the_runs(covering):
    """A run keeps its own covering; metres with a tenth more in steps of ten centimetres."""
    b = Bench()
    b.lamp(10)
    b.rules(covering=covering)
    rear = b.add("place", name="rear", ambient_c=40)
    b.add("run", a=b.box, b=rear, length_m=0.7, covering="PVC tape")
    b.load(name="tail", place=rear)
    a = analyse(b.plan)
    by_kind = {}
    for bundle in a.loom.bundles:
        if bundle.tape_m:
            by_kind[bundle.covering] = by_kind.get(bundle.covering, 0.0) + bundle.tape_m
    tape = {what.removesuffix(", 19 mm"): need for what, (need, _) in metres(b.plan).items() if "19 mm" in what}
    assert tape == pytest.approx(by_kind) and "PVC tape" in tape
    assert (covering in tape) == (covering != "braided sleeve")
    for need, ordered in metres(b.plan).values():
        assert need * 1.1 - 1e-9 <= ordered < need * 1.1 + 0.1 and ordered * 10 == pytest.approx(round(ordered * 10))


def test_blades_in_the_wet_have_boots_and_none_in_the_dry():
    """A block that is splashed: out to each lamp and from the main fuse."""
    b = Bench()
    for _ in range(2):
        b.lamp(10)
    for place in (b.box, b.nose):
        b.change(place, water="dry")
    assert not [what for what in counted(b.plan) if "boot" in what]
    b.change(b.box, water="splashed")
    blades = [e for e in analyse(b.plan).ends.every
              if e.chosen and e.chosen.shape in ("blade", "bullet") and not e.chosen.sealed
              and b.plan.part(e.at.part).place == b.box]
    found = {what: need for what, (need, _) in counted(b.plan).items() if "boot" in what}
    by_hand = {}
    for end in blades:
        by_hand[f"slip-on boot, {end.chosen.family}"] = by_hand.get(f"slip-on boot, {end.chosen.family}", 0) + 1
    assert found == by_hand and found


def test_a_plug_that_was_found_wants_one_half_by_what_its_pins_end_in():
    b = Bench()
    b.plan = apply(b.plan, PutPlug(values={"name": "seat plug", "place": b.nose, "ways": 4, "half": "receptacles"},
                                   pins=({"way": 1, "function": "feed", "live": "key", "rated_a": 8, "fused_a": 10},
                                         {"way": 2, "function": "ground"})))
    pins = [t.id for t in b.plan.taps if t.plug]
    for pin in pins:
        b.change(pin, termination="sealed 2.8")
    half = "sealed 2.8 connector, 4-way, one half with tabs and locks: fits seat plug"
    assert half not in counted(b.plan)  # nothing goes to it yet
    b.lamp(12, feed=pins[0])
    assert counted(b.plan)[half] == (1, 1)
    assert [what for what in counted(b.plan) if "sealed 2.8 connector" in what] == [half]  # and nothing beside it


def test_fuses_have_one_to_spare_and_those_in_a_block_no_holder():
    b = Bench()
    for watts in (10, 12, 60):
        b.lamp(watts)
    a = analyse(b.plan)
    fuses = [a.ratings.rating_a(p.id) for p in b.plan.of_kind("fuse")]
    found = counted(b.plan)
    for amps in fuses:
        assert found[f"blade fuse {amps:g} A"] == (fuses.count(amps), fuses.count(amps) + 1)
    assert found["holder for blade fuse, in line"] == (1, 1)  # the block's main fuse
