"""The plan of measurement: what is read on a finished machine, in which order, what it should show, what it proves.

A generator's winding by itself first; then nothing powered, then with the key off, then each state with everything as
it is ridden: by state and by place, so that key and probes are moved as little as can be. Volts at a load under its own
current prove its whole way, so that no wire of it is beeped through on its own.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from ..doc.states import STATE_NAMES
from ..figures.figures import Figures
from ..figures.mains import LEAST_A
from ..parts.fuse import FusePart
from ..parts.inside import FRAME
from ..parts.load import LoadPart
from ..parts.tap import Tap
from ..refs import TerminalRef
from ..wiring.results import StateResult
from . import alone
from .points import ground
from .predict import STANDING_OFF, STANDING_OFF_A, Prediction, Predictor, Quantity
from .readings import UNPOWERED, row_key
from .shorts import shorts
from .winding import checks, coil_checks

RUNNING = ("idle", "town", "cruise", "rev")
UNPLUGGED, LEAD_OFF = "Generator unplugged", "Coil with its lead off"
NOTHING, KEY_OFF = "Nothing powered", "Everything off"
SMALL_A = 0.4  # what a meter's milliamp range takes
STANDING_A = 1e-4  # so little through a fuse is nothing to look for
LEAST_DROP_V = 0.15  # a way that loses less needs no reading of its own
RIPPLE_V = 0.5  # AC at a battery's posts: rule of thumb of workshops, no standard says it
DEAD_BAND_V = 0.3  # up to so much a meter shows at a point that is dead


@dataclass(frozen=True)
class Step:
    """One reading: its key, the part of the work it belongs to, where the two probes go, which range, what it should
    show, the circuits that it proves, and what can go wrong. `row` is the state's row ("": unpowered). `apart`: with
    something unplugged or put out of use, so that it is not of the plan's network as a state has it; `ac`: with the
    meter on AC."""

    key: str
    stage: str
    quantity: Quantity
    row: str
    red: TerminalRef
    black: TerminalRef
    expects: Prediction
    proves: tuple[str, ...]
    what: str
    beware: str = ""
    apart: bool = False
    ac: bool = False
    plain: float = math.nan  # the same as if nothing had been measured yet; by it is seen whether the plan has changed
    off: tuple[str, ...] = ()  # what is switched off for it, though the state has it on

    @property
    def gate(self) -> bool:
        """Whether nothing after it may be done before it is in order."""
        return self.key.startswith("gate.")

    @property
    def unit(self) -> str:
        """What the meter shows it in: small currents in milliamps."""
        small = self.quantity == "A" and abs(self.expects.value) + self.expects.spread < SMALL_A
        return "mA" if small else {"V": "V", "ohm": "Ω", "A": "A"}[self.quantity]


def steps(figures: Figures, posts_v: dict[str, float] | None = None) -> tuple[Step, ...]:
    """Every reading of the plan, in order. `posts_v`: volts at the posts as measured, by state: what is read elsewhere
    in it then goes by those, the posts themselves never. Nothing of a plan that is not solved."""
    if not figures.is_solved:
        return ()
    predictor, known, at = Predictor(figures), posts_v or {}, _terminals(figures)
    made = [*_winding(figures), *_unpowered(figures, predictor), *_everything_off(figures, predictor, known)]
    done: set[str] = set()  # the fuses whose users were tried alone
    for state, row in figures.states.items():
        if row.solution is None or state in ("parked", "charging"):
            continue
        made += (_cranking(figures, predictor, row) if state == "cranking" else
                 _live(figures, predictor, row, known, at, done))
    if figures.source.key == "magneto":
        made = [replace(s, ac=s.quantity == "V") for s in made]
    if not known:
        return tuple(replace(s, plain=s.expects.value) for s in made)
    plain = {s.key: s.plain for s in steps(figures)}
    return tuple(replace(s, plain=plain.get(s.key, math.nan)) for s in made)


def _complete(figures: Figures) -> list[LoadPart]:
    return [p for p in figures.plan.loads if figures.path(p.id).complete]


def _unpowered(figures: Figures, predictor: Predictor) -> Iterator[Step]:
    """No short from feed to return behind any fuse, every return reaches the supply, what floats does."""
    black = ground(figures)
    yield from (Step(s.key, NOTHING, "ohm", UNPOWERED, s.red, black, s.expects, s.proves, s.what, s.beware)
                for s in shorts(figures, black))
    asked: list[tuple[str, TerminalRef, tuple[str, ...], str]] = []
    for load in _complete(figures):
        red = load.at("neg")
        if figures.topology.node(red) != figures.topology.node(black) and (
                figures.path(load.id).root.part == _main(figures)):
            asked.append((f"back.{load.id}", red, (load.id,), f"{load.name}: return connected, polarity correct"))
    if figures.plan.machine.chassis == "floating" and figures.topology.uses_frame:
        asked.append(("floats", TerminalRef(FRAME), (), "Frame is isolated"))
    expected = predictor.all_ohms([(red, black) for _, red, _, _ in asked])
    for (key, red, proves, what), expects in zip(asked, expected, strict=True):
        yield Step(key, NOTHING, "ohm", UNPOWERED, red, black, expects, proves, what,
                   "Disconnect the supply. Otherwise the meter's fuse blows.")


def _winding(figures: Figures) -> Iterator[Step]:
    """The winding that feeds it all with nothing on it, before anything is joined to it."""
    for stage, parted, made in ((UNPLUGGED, "the generator's connector parted", checks(figures)),
                                (LEAD_OFF, "the coil's lamp lead off", coil_checks(figures))):
        for check in made:
            beware = (f"Only the meter is on it, set to AC volts, {parted}: leads apart, fingers off." if check.state
                      else f"Engine off, {parted}.")
            yield Step(check.key, stage, check.expects.quantity, check.state or UNPOWERED, check.red, check.black,
                       check.expects, (), check.what, beware, apart=True, ac=check.expects.quantity == "V")


def _main(figures: Figures) -> str:
    return figures.plan.supply.id if figures.plan.supply else ""


def _everything_off(figures: Figures, predictor: Predictor, known: dict[str, float]) -> Iterator[Step]:
    """The supply's volts, what it gives with everything off, and that nothing lives that should not."""
    row = figures.states.get("parked")
    if row is None or row.solution is None or figures.source.key == "magneto":
        return
    yield from _near_together(figures)
    red, black = figures.source.ends
    at_rest = predictor.volts(row, red, black)  # by the plan: no reading is its own prediction
    yield Step("posts.parked", KEY_OFF, "V", "parked", red, black, at_rest, (),
               "At the supply: reference for all later readings")
    yield Step("standing", KEY_OFF, "A", "parked", black, black, predictor.standing(row), (),
               "In the supply's negative lead, everything off",
               "Start in the 10 A range. Switch nothing on meanwhile: the meter's fuse blows.")
    yield from _branches(figures, row)
    for load in _complete(figures):
        if "parked" in figures.plan.lives_in(load):
            yield _at_load(figures, predictor, load, row, KEY_OFF, known)
        else:
            pos, neg = load.at("pos"), load.at("neg")
            expects = predictor.volts(row, pos, neg, known.get("parked"))
            yield Step(f"dead.{load.id}", KEY_OFF, "V", "parked", pos, neg,
                       Prediction("V", expects.value, max(expects.spread, DEAD_BAND_V)), (load.id,),
                       f"{load.name} is dead")


def _near_together(figures: Figures) -> Iterator[Step]:
    """Before two packs are joined by a plain lead, how far they are apart."""
    joining, packs = figures.plan.combiner, figures.plan.packs
    found = figures.pack.joining if figures.pack else None
    if joining is not None and joining.way == "parallel" and found is not None:
        one, other = packs[:2]
        yield Step(f"gate.{joining.id}", KEY_OFF, "V", "parked", one.at("pos"), other.at("pos"),
                   Prediction("V", 0.0, found.may_join_v), (), f"{one.name} and {other.name} apart, at rest",
                   f"Negatives joined, positives not; both near full and rested. Beyond {found.may_join_v:.2f} V they "
                   "are not joined: charge the lower one.", apart=True)


def _branches(figures: Figures, row: StateResult) -> Iterator[Step]:
    """Which branch takes what with everything off, fuse by fuse; of one alone the whole says it."""
    behind, loads_of = figures.topology.protected_behind, figures.topology.loads_behind
    taking = [f for f in figures.plan.of(FusePart)
              if loads_of.get(f.id) and not behind.get(f.id) and abs(row.current(f.id)) > STANDING_A]
    for fuse in taking if len(taking) > 1 else ():
        amps = abs(row.current(fuse.id))
        yield Step(f"standing.{fuse.id}", KEY_OFF, "A", "parked", fuse.at("a"), fuse.at("b"),
                   Prediction("A", amps, STANDING_OFF_A + STANDING_OFF * amps), (), f"Through {fuse.name} alone",
                   "Its fuse out, the meter in its place.", apart=True)


def _at_load(figures: Figures, predictor: Predictor, load: LoadPart, row: StateResult, stage: str,
             known: dict[str, float]) -> Step:
    pos, neg = load.at("pos"), load.at("neg")
    key = row_key(row, figures.volts.rows)
    return Step(f"at.{load.id}.{key}", stage, "V", key, pos, neg,
                predictor.volts(row, pos, neg, known.get(row.state)), (load.id,), f"At {load.name}, on")


def _live(figures: Figures, predictor: Predictor, row: StateResult, known: dict[str, float],
          at: dict[str, TerminalRef], done: set[str]) -> Iterator[Step]:
    """In a state: the posts, each fuse's users alone, volts at each load that is on, where most is lost on the way, and
    how long pins stay live."""
    stage = STATE_NAMES[row.state]
    red, black = figures.source.ends
    first = row.state == figures.source.usual_state or row.state in ("key_on", "on")
    if first or row.state in RUNNING:
        beware = "Fingers, leads and sleeves clear of belts and wheel." if row.state in RUNNING else ""
        what = "Charging volts at the posts" if row.state in RUNNING and figures.plan.generator else "At the supply"
        yield Step(f"posts.{row.state}", stage, "V", row.state, red, black, predictor.volts(row, red, black), (), what,
                   beware)
    if row.state == "cruise" and figures.plan.generator and figures.plan.battery:
        yield Step("ripple.cruise", stage, "V", row.state, red, black, Prediction("V", 0.0, RIPPLE_V), (),
                   "AC volts at the posts, lamps on, at a raised speed",
                   "More: a diode or a phase is out, or the battery no longer smooths it. A rule of thumb.",
                   apart=True, ac=True)
    yield from _alone(figures, predictor, row, done)
    yield from _mains(figures, predictor, row, known, done)
    if not first:
        return
    for load in _complete(figures):
        on = figures.volts.row(load.id, row.state)
        if on is None or on.solution is None or not figures.volts.lives(load, row.state) or not figures.volts.across_v(
                load.id, row.state):
            continue
        yield _at_load(figures, predictor, load, on, stage, known)
        yield from _drops(figures, predictor, load, on, stage, at)
    for tap in figures.plan.of(Tap):
        if tap.id in figures.plan.wired and tap.off_delay_s > 0 and row.state in ("key_on", "idle"):
            yield Step(f"delay.{tap.id}.{row.state}", stage, "V", "parked", tap.at("pin"), black,
                       Prediction("V", 0.0, DEAD_BAND_V), (), f"{tap.name} dead again after {tap.off_delay_s:g} s")


def _alone(figures: Figures, predictor: Predictor, row: StateResult, done: set[str]) -> Iterator[Step]:
    """Before everything is on together: each fuse's users alone, each pack alone."""
    for one in (*alone.by_pack(figures, row), *alone.by_fuse(figures, predictor, row, done)):
        yield Step(one.key, STATE_NAMES[row.state], "V", row.state, one.red, one.black, one.expects, (), one.what,
                   one.beware, apart=True)


def _mains(figures: Figures, predictor: Predictor, row: StateResult, known: dict[str, float],
           done: set[str]) -> Iterator[Step]:
    """Circuits that no accessory has, each in the first state in which anything flows in it: volts at what it feeds, or
    at what gives."""
    for main in figures.mains.values():
        if main.part.id not in done and main.amps(row) > LEAST_A:
            done.add(main.part.id)
            red, black = (main.part.at(end) for end in main.part.POLES or ("pos", "neg"))
            yield Step(f"main.{main.part.id}.{row.state}", STATE_NAMES[row.state], "V", row.state, red, black,
                       predictor.volts(row, red, black, known.get(row.state)), (),
                       f"At {main.part.name}, {main.words.lower()}")


def _cranking(figures: Figures, predictor: Predictor, row: StateResult) -> Iterator[Step]:
    """While the starter turns."""
    for one in alone.cranking(figures, predictor, row):
        yield Step(one.key, STATE_NAMES[row.state], "V", row.state, one.red, one.black, one.expects, (), one.what,
                   one.beware)


def _drops(figures: Figures, predictor: Predictor, load: LoadPart, row: StateResult, stage: str,
           at: dict[str, TerminalRef]) -> Iterator[Step]:
    """Feed and return under load, where they lose enough to be told from nothing; `at` is a terminal of each node."""
    path = figures.path(load.id)
    begins = {"feed": (path.feed[0].a, load.at("pos")), "return": (load.at("neg"), path.back[-1].b)}
    for way, (a, b) in begins.items():
        red, black = (at.get(a), b) if way == "feed" else (a, at.get(b))
        if red is None or black is None:
            continue
        expects = predictor.volts(row, TerminalRef(red), TerminalRef(black))
        if abs(expects.value) >= LEAST_DROP_V:
            yield Step(f"drop.{way}.{load.id}.{row.state}", stage, "V", row_key(row, figures.volts.rows),
                       TerminalRef(red), TerminalRef(black), expects, (load.id,), f"Lost on the {way} of {load.name}")


def _terminals(figures: Figures) -> dict[str, TerminalRef]:
    """A terminal of a part on each node, the first of the plan's."""
    found: dict[str, TerminalRef] = {}
    for terminal in (part.at(end) for part in figures.plan.parts for end in part.ends):
        found.setdefault(figures.topology.node(terminal), terminal)
    return found
