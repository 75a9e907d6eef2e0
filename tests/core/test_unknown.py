"""What to measure next: the ranking against a brute-force run, the one that decides first, bands, and what is said."""

import random
from dataclasses import replace
from math import inf, isfinite

import pytest
from sweeps import seeds

from loadstar.core import limits
from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.edits import ChangeElement, SetWire, Several, TakeReadings, Vouch, apply
from loadstar.core.edits.standing import set_figure
from loadstar.core.errors import PlanError
from loadstar.core.headline import headline
from loadstar.core.materials.accessories import offered
from loadstar.core.materials.typical import SIZES
from loadstar.core.plan.model import Plan
from loadstar.core.plan.standing import resting_on, unknowns
from loadstar.core.survey.measures import MEASURES, figure_words, measure_of
from loadstar.core.whatif.likely import STOPS, crossings
from loadstar.core.whatif.unknown import Outlooks, measurable

GRAVE = ("stop", "caution")


def plan_of(kind="touring motorcycle", size="middle", *wanted):
    return begun(Plan(name="begun"), Wish(kind, size, "", wanted))


def settled(plan, leave=()):
    """Every figure stated, but those named ("G1.rating1_w")."""
    owners = {}
    for element, field, _ in resting_on(plan):
        if f"{element}.{field}" not in leave:
            owners.setdefault(element, []).append(field)
    plan = apply(plan, Several(edits=tuple(Vouch(id=e, fields=tuple(f)) for e, f in owners.items())))
    taps = [ChangeElement(id=t.id, values={"standing": "found"}) for t in plan.taps]
    return apply(plan, Several(edits=tuple(taps)))


# -- brute force: every edit made anew, every plan analysed whole, the weights worked out here -------------------------


def held_by_edits(plan):
    """Every size and rating fixed as it stands, by the edits that a person would make."""
    analysis = analyse(plan)
    edits = [SetWire(id=w.id, values={"area_mm2": analysis.wires[w.id].area_mm2}) for w in plan.wires
             if w.area_mm2 is None]
    chosen = {**analysis.sized.contact_a, **analysis.ratings.rated}
    edits += [ChangeElement(id=p.id, values={p.CHOSEN: chosen[p.id]}) for p in plan.parts
              if p.CHOSEN and not p.by_hand and p.id in chosen]
    return apply(plan, Several(edits=tuple(edits)))


def at_end(plan, unknown, end):
    value = getattr(unknown.band, end)
    reading = {"element": unknown.element, "quantity": "figure", "field": unknown.field, "value": value}
    try:
        found = analyse(apply(plan, TakeReadings(readings=(reading,))))
    except PlanError:
        return None
    return found if found.generator_fault is None else None


def weight(base, ends, state):
    def grave(analysis):
        return {f.key: f.severity for f in analysis.findings if f.severity in GRAVE}
    flipped = {}
    for found in ends:
        here, there = grave(base), grave(found)
        for key in here.keys() ^ there.keys():
            severity = here.get(key) or there.get(key)
            flipped[key] = "stop" if "stop" in (severity, flipped.get(key)) else severity
    moved = 0.0
    heads = [headline(a, state) for a in (base, *ends)]
    for i, head in enumerate(heads[0]):
        values = [h[i].value for h in heads if h[i].value is not None]
        if head.value is None or len(values) < 2:
            continue
        spread = max(values) - min(values)
        if not isfinite(spread):
            moved += 1000.0 if min(values) < inf else 0.0
            continue
        room = abs(head.value - head.limit) if head.limit is not None else abs(head.value)
        moved += min(spread / max(room, 0.05 * max(abs(head.value), abs(head.limit or 0), 1e-9)), 1000.0)
    stops = sum(1 for s in flipped.values() if s == "stop")
    return stops, len(flipped) - stops, moved


SEEDS = seeds(8)
SMALL = [(kind, size) for kind, sizes in SIZES.items() for size in sizes]


@pytest.mark.sweep
@pytest.mark.parametrize("seed", SEEDS)
def test_the_order_is_that_of_a_brute_force_run(seed):
    dice = random.Random(seed)
    kind, size = SMALL[seed % len(SMALL)]
    every = [u.key for group in offered(size.system).values() for u in group if not u.own]
    plan = plan_of(kind, size.key, *dice.sample(every, min(len(every), dice.randint(1, 2))))
    # some of it has been found out already, so that the plans differ in what is left
    known = [u for u in unknowns(plan) if dice.random() < 0.5]
    plan = apply(plan, Several(edits=tuple(Vouch(id=u.element, fields=(u.field,)) for u in known)))
    seen = Outlooks(analyse(plan)).outlook()
    assert not seen.untried
    held = held_by_edits(plan)
    base = analyse(held)
    state = base.source.usual_state
    tried = {}
    for unknown in measurable(plan):
        ends = [at_end(held, unknown, end) for end in ("low", "high")]
        tried[unknown.key] = weight(base, [e or base for e in ends], state)
    wanted = sorted(tried, key=lambda key: (*(-round(w, 3) for w in tried[key]), key))
    assert [h.unknown.key for h in seen.ranked] == wanted
    for hangs in seen.ranked:
        assert hangs.weight == pytest.approx(tried[hangs.unknown.key], abs=0.0006)


@pytest.mark.parametrize(("kind", "size", "seed"), [
    ("scooter", "small", 10), ("utility bike", "starter", 11), ("trail e-bike", "52 v", 5)])
def test_what_is_tried_first_are_those_that_bring_or_mend_something(kind, size, seed):
    """By every figure tried to the end: a first look sees them beforehand, but for what comes by ways of its own."""
    dice = random.Random(seed)
    system = next(s.system for s in SIZES[kind] if s.key == size)
    every = [u.key for group in offered(system).values() for u in group if not u.own]
    tries = Outlooks(analyse(plan_of(kind, size, *dice.sample(every, 8))))
    crossed = tries.crossed
    assert {u.key for u in tries.outlook(seconds=0.0).likely} == set(crossed)
    whole = tries.outlook()
    flips = {h.unknown.key: h.flips for h in whole.ranked if h.flips}
    drawn = {key for key, found in flips.items()
             if key.endswith("amount") and {f.finding.rule for f in found} & {"load.drop", "fuse.share"}}
    assert drawn <= set(crossed) and len(drawn) > 4
    assert len(set(flips) - set(crossed)) <= 1 and len(set(crossed) - set(flips)) <= 2
    stops = {key for key, found in flips.items() if any(f.finding.severity == "stop" for f in found)}
    assert {key for key, n in crossed.items() if n >= STOPS} <= stops
    first = [u.key for u in tries.in_turn[:len(crossed)]]
    assert set(first) == set(crossed) and crossed[first[0]] == max(crossed.values())
    assert whole.likely == ()


@pytest.mark.parametrize(("element", "field", "high", "rule"), [
    ("BT1", "internal_mohm", 40.0, "budget.crank"), ("G1", "rating1_w", 300.0, "budget.short")])
def test_the_budget_is_looked_at_beforehand_too(element, field, high, rule):
    """A figure at whose end the battery no longer cranks, or no longer pays at idle: by the rules on the whole plan."""
    plan = plan_of("motorcycle", "large", "usb")
    plan = apply(plan, ChangeElement(id="G1", values={"rating1_w": 182.0}, marks={"rating1_w": "typical"}))
    tries = Outlooks(analyse(plan))
    unknown = next(u for u in measurable(tries.plan) if u.key == f"{element}.{field}")
    other = set_figure(tries.plan, element, field, high, "typical")
    now, then = ({f.key for f in analyse(p).findings if f.rule == rule} for p in (tries.plan, other))
    assert now != then
    wide, none = (replace(unknown, band=replace(unknown.band, low=unknown.value, high=v))
                  for v in (high, unknown.value))
    assert crossings(tries.base, [wide])[unknown.key] >= 1
    assert crossings(tries.base, [none]) == {}


def test_where_nothing_can_be_seen_beforehand_nothing_is_said_of_it():
    tries = Outlooks(analyse(plan_of("small motorcycle", "magneto 6")))
    assert tries.crossed is None and tries.outlook(seconds=0.0).likely is None and not tries.outlook().untried


# -- plans of which is known what decides ----------------------------------------------------------------------------


def test_the_one_figure_that_a_verdict_flips_with_comes_first():
    """The generator at idle alone decides whether the battery pays: by hand, 12.8 A asked of 107 to 225 W."""
    plan = plan_of("motorcycle", "large", "usb")
    plan = apply(plan, ChangeElement(id="G1", values={"rating1_w": 182.0}, marks={"rating1_w": "typical"}))
    plan = settled(plan, leave=("G1.rating1_w", "R1.length_m", "R2.length_m"))
    found = Outlooks(analyse(plan)).outlook()
    assert found.ranked[0].unknown.key == "G1.rating1_w" and found.ranked[0].flips
    assert not any(h.flips for h in found.ranked[1:])
    assert {f.finding.rule for f in found.ranked[0].flips} == {"budget.short"}


def test_a_plan_of_which_everything_was_stated_has_nothing_left():
    plan = settled(plan_of("motorcycle", "large", "usb"))
    assert measurable(plan) == ()
    assert Outlooks(analyse(plan)).outlook().ranked == ()


def test_where_within_its_band_a_finding_goes():
    """By brute force: just within the threshold the finding still stands, and at the end of the band it does not."""
    plan = settled(plan_of("touring motorcycle", "middle", "grips", "lamp pair"), leave=("G1.rating1_w",))
    tries = Outlooks(analyse(plan))
    hangs = tries.outlook().ranked[0]
    flip = next(f for f in hangs.flips if not f.appears)
    at = tries.threshold(hangs, flip)
    assert hangs.unknown.value <= at < hangs.unknown.band.high
    step = (hangs.unknown.band.high - hangs.unknown.value) / 16

    def stands(watts):
        changed = apply(held_by_edits(plan), ChangeElement(id="G1", values={"rating1_w": watts}))
        return flip.finding.key in {f.key for f in analyse(changed).findings}
    assert stands(at) and not stands(at + step * 1.01)


def test_the_bands_hold_every_value_that_was_tried_and_the_plan_s_own():
    plan = plan_of("scooter", "small", "grips")
    analysis = analyse(plan)
    found = Outlooks(analysis).outlook()
    state = analysis.source.usual_state
    for head, span in zip(headline(analysis, state), found.bands[state], strict=True):
        assert span.low - 1e-6 <= head.value <= span.high + 1e-6, head.label
    assert found.bands[state][0].is_open  # the margin


def test_what_was_tried_is_kept_and_the_next_look_goes_on():
    plan = plan_of("scooter", "small", "grips")
    tries = Outlooks(analyse(plan))
    first = tries.outlook(seconds=0.0)
    assert first.ranked == () and len(first.untried) == len(measurable(plan))
    some = dict(list(tries.seen.items()))
    whole = Outlooks(analyse(plan), some).outlook()
    assert not whole.untried and whole.ranked == tries.outlook().ranked


def test_what_is_too_large_to_try_is_told_and_not_tried_again(monkeypatch):
    plan = plan_of("scooter", "small", "grips")
    tries, asked = Outlooks(analyse(plan)), []

    def too_large(*settings):
        asked.append(settings)
        raise limits.TooLarge
    monkeypatch.setattr(tries, "at", too_large)
    for _ in range(2):
        found = tries.outlook()
        assert found.ranked == () and found.untried == () and len(found.in_vain) == len(measurable(plan))
    assert len(asked) == len(measurable(plan))


def test_what_was_left_out_of_a_try_is_no_figure(monkeypatch):
    plan = plan_of("scooter", "small", "grips")
    tries = Outlooks(analyse(plan))
    monkeypatch.setattr(tries, "at", lambda *settings: replace(tries.base, left_out=("what flows in the wires",)))
    found = tries.outlook()
    assert found.ranked == () and len(found.in_vain) == len(measurable(plan))
    assert found.bands[tries.base.source.usual_state][0].low == found.bands[tries.base.source.usual_state][0].high


def test_sizes_stay_as_they_stand():
    """Chosen anew, no fuse would ever be too small for a lamp that draws more: what would be built is asked about."""
    plan = plan_of("touring motorcycle", "middle", "lamp pair")
    found = Outlooks(analyse(plan)).outlook()
    lamps = next(h for h in found.ranked if h.unknown.key == "L1.amount")
    assert any(f.finding.rule == "fuse.share" and f.appears and f.end == "high" for f in lamps.flips)


# -- how each is measured --------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("element", "field", "shown", "value"), [
    ("G1", "rating1_w", {"I": 11.0, "U": 13.0}, 143.0),
    ("BT1", "internal_mohm", {"U_0": 12.7, "U_1": 10.6, "I": 150.0}, 14.0),
    ("M1", "power_w", {"I_1": 9.0, "I_0": 2.0, "U": 12.0}, 84.0), ("machine", "cranking_a", {"I": 133.0}, 133.0),
    ("G1", "phase_ohm", {"R": 0.4}, 0.2), ("R1", "length_m", {"L": 0.42}, 0.42),
    ("BT1", "capacity_ah", {"x": 12.0}, 12.0)])
def test_a_figure_out_of_what_the_instrument_shows(element, field, shown, value):
    """Each by hand."""
    plan = plan_of()
    owner = plan.machine if element == "machine" else next(e for e in (*plan.runs, *plan.parts) if e.id == element)
    assert measure_of(plan, element, field).value(owner, shown) == pytest.approx(value)


def test_a_coil_s_figures_out_of_open_volts_and_short_circuit():
    """23.4 V open at 3000 rpm, 5.41 A shorted: Z = 4.33 ohm, X = sqrt(4.33^2 - 0.3^2) = 4.32 ohm, 1.44 mohm a turn a
    minute."""
    plan = plan_of("small motorcycle", "magneto 6")
    coil = plan.part("C1")
    assert measure_of(plan, "C1", "emf_mv_per_rpm").value(coil, {"U": 23.4, "n": 3000}) == pytest.approx(7.8)
    assert measure_of(plan, "C1", "reactance_mohm_per_rpm").value(
        coil, {"U": 23.4, "I": 5.41, "n": 3000}) == pytest.approx(1.438, abs=0.002)


def test_a_reading_of_nothing_is_refused_in_words():
    plan = plan_of()
    with pytest.raises(PlanError, match="With 0 here"):
        measure_of(plan, "BT1", "internal_mohm").value(plan.battery, {"U_0": 12.7, "U_1": 10.6, "I": 0.0})


@pytest.mark.parametrize("key", list(MEASURES), ids=lambda k: ".".join(k))
def test_every_measure_says_how_with_what_and_how_long(key):
    measure = MEASURES[key]
    assert len(measure.how) > 15 and measure.tool and 1 <= measure.minutes <= 10 and measure.shown
    assert measure.words[0].islower()


def test_words_name_whose_figure_it_is():
    plan = plan_of("touring motorcycle", "middle", "lamp pair")
    assert figure_words(plan, "L1", "amount") == "what LED lamp pair draws"
    assert figure_words(plan, "R1", "length_m") == "the way from battery to fuse box"
    assert figure_words(plan, "X9", "rating1_w") == "rating1"
