"""Rules about what guards a wire: does it act before the wire is damaged, alone and in a row with others?"""

from collections.abc import Iterator

from ..edits import ChangeElement, RemoveWire
from ..figures.figures import Figures
from ..figures.touches import stages
from ..figures.wires import WireResult
from ..findings import Finding, Proposal, Severity
from ..materials.fuses import BANDS, KINDS
from ..parts.fuse import FusePart
from ..sizing.argument import OVERLOAD_K, PROTECTION_SPARE_K, SHORT_TERM_K, Heated, damage_s
from ..sizing.openers import FUSES, Guard
from ..sizing.ratings import goes_dark
from .fuses import other_kinds
from .registry import Say, rule
from .wires import freed, only_class_helps
from .words import fuse, listed, named, opener, short_time, sized, verb, warm_over

LONG_S = 6 * 3600.0  # what a wire stands so long it stands


@rule(
    "wire.not-protected",
    meaning="What guards a wire lets a current through that damages the wire before it acts. A wire before its fuse "
            "is judged by the next fuse after it.",
    cure="A thicker wire or a smaller fuse.",
    source="The argument of docs/physics.md; ISO 8820-3, ISO 6722-1")
def not_protected(figures: Figures, say: Say) -> Iterator[Finding]:
    """The tests of the argument; a pass with less than 10 K is said to be close where the size was fixed by hand."""
    for wire in figures.wires.values():
        guard = wire.judged_by
        if guard is None or only_class_helps(figures, wire):
            continue  # one cause, one finding: rule wire.class-too-low, a stop where the guard does not protect
        told = _verdict(figures, wire)
        if told is None:
            continue
        severity, text, key = told
        others = [w for w in figures.wires.values() if w.judged_by and w.judged_by.fuse == guard.fuse and w.fixed
                  and w.id != wire.id
                  and not w.coordination.protected]
        proposals = freed([wire, *others]) if wire.fixed else ()
        part = figures.topology.parts[guard.fuse]
        if part.protection and part.protection.kind == "fuse" and part.by_hand:
            proposals += (Proposal(ChangeElement(id=part.id, values={part.CHOSEN: None}),
                                   f"Let Loadstar choose {part.id}"),)
        yield say(severity, (wire.id, guard.fuse), text, "circuit", key, proposals)


def _verdict(figures: Figures, wire: WireResult) -> tuple[Severity, str, str] | None:
    """What is wrong with a wire behind, or before, its guard: severity, sentence, and the figure that decides; None for
    nothing."""
    guard, found = wire.judged_by, wire.coordination
    assert guard is not None
    by, top = opener(figures, guard), wire.class_c
    if found.steady_c > top:
        return "stop", (
            f"{sized(wire)} is not protected: {_lets(by, guard)}; the wire then reaches "
            f"{warm_over(found.steady_c, top)}, its class is {top:.0f} °C."), f"steady_c/{wire.id}"
    if found.overload_c > top + SHORT_TERM_K:
        return "stop", (
            f"{sized(wire)} is not protected: {by} can carry {guard.overload_multiple:g} times its rating for "
            f"{_minutes(guard)}; the wire then reaches {warm_over(found.overload_c, top + SHORT_TERM_K)}, over "
            f"{top + SHORT_TERM_K:.0f} °C."
        ), f"overload_c/{wire.id}"
    if found.fails_from_a is not None:
        return "stop", (
            f"{sized(wire)} is not protected: from {found.fails_from_a:.0f} A on, of the {guard.fault_a:.0f} A that "
            f"can flow, {by} can open too late, and it passes {top + OVERLOAD_K:.0f} °C."), f"steady_c/{wire.id}"
    if found.late is not None:
        return "stop", (
            f"{sized(wire)} is not protected: {_story(figures, found.late)}; it passes {top + OVERLOAD_K:.0f} °C "
            f"before the fault is ended."), f"course/{wire.id}"
    if found.several_c > top:
        return "caution", (
            f"{sized(wire)} lies before several fuses that together carry {guard.several_lets_a:.0f} A without "
            f"opening; it would reach {warm_over(found.several_c, top)}, its class is {top:.0f} °C."), (
            f"several_c/{wire.id}")
    if wire.fixed and found.steady_c > top - PROTECTION_SPARE_K:
        return "caution", (
            f"{by} only just protects {sized(wire)}: {found.steady_c:.0f} °C at {guard.steady_multiple:g} times its "
                           f"rating against {top:.0f} °C; the heat model is good to about 15 %, so this is "
                           f"close."), f"steady_c/{wire.id}"
    return None


def _lets(by: str, guard: Guard) -> str:
    """What a guard lets through for good, in words."""
    if guard.opener.kind == "limit":
        return f"{by} goes on giving that into a short circuit"
    besides = f" and {guard.others_a:.3g} A flow on besides" if guard.others_a > 0.1 else ""
    behind = "" if guard.before else ", the next behind it,"
    return f"{by}{behind} carries {guard.steady_multiple:g} times its rating for hours{besides}"


def _minutes(guard: Guard) -> str:
    """How long an opener may carry its overload."""
    kind = guard.opener.kind
    return "ten minutes" if kind in ("fuse", "electronic", "limit") else short_time(BANDS[kind].slowest[0][1])


def _story(figures: Figures, heated: Heated) -> str:
    """A fault in words: what flows in the wire, and what opens after how long."""
    told = []
    for stage in stages(heated):
        opens = listed(named(figures, o) for o in stage.opens)
        acts = verb(len(stage.opens), "opens", "open")
        ends = f"until {opens} {acts} after {short_time(stage.after_s)}" if opens else "for good"
        told.append(f"{stage.wire_a:.0f} A {ends}")
    return ", then ".join(told)


@rule(
    "fuse.bypassed",
    meaning="A fuse opens in a fault, and the current goes on past it by another way on which nothing opens: the fuse "
            "protects nothing.",
    cure="Part the other way, or give it a fuse of its own at the battery.",
    source="The fault followed from opener to opener; house rule: longest unprotected wire")
def bypassed(figures: Figures, say: Say) -> Iterator[Finding]:
    """What opens in vain because copper joins its two ends; where all that nothing ends then is short, a caution."""
    if figures.sized is None:
        return
    limit = figures.plan.rules.unfused_limit_m
    ways: dict[tuple[str, ...], list[str]] = {}
    for part, by in figures.bridged.items():
        ways.setdefault(tuple(sorted(by)), []).append(part)
    for by, parts in ways.items():
        rests = {w: past.rest_a for w, past in figures.sized.faults.bypassed.items() if set(parts) & set(past.opened)}
        long = [w for w in rests if w in figures.unfused and figures.unfused[w].length_m > limit + 1e-9]
        worst = min(long or rests, key=lambda w: (_stands_s(figures, w), w))
        seconds, top = _stands_s(figures, worst), figures.wires[worst].class_c + OVERLOAD_K
        burns = f"{worst} passes {top:.0f} °C after {short_time(seconds)}" if seconds < LONG_S else (
            f"{worst} has to stand it for good")
        past = f" past {verb(len(parts), 'it', 'them')} by {listed(by)}" if by else ""
        newest_first = [w.id for w in reversed(figures.plan.wires) if w.id in by]
        proposals = tuple(Proposal(RemoveWire(id=w), f"Take {w} out") for w in newest_first)
        elements = (*parts, *by, *(w for w in rests if w not in by))
        yield say("stop" if long else "caution", elements, (
            f"{listed(fuse(figures, o) for o in parts)} {verb(len(parts), 'opens', 'open')} in a short circuit, and "
            f"{rests[worst]:.0f} A go on{past}, where nothing opens: {burns}."), "circuit",
            f"unfused/{worst}" if worst in figures.unfused else "", proposals)


def _stands_s(figures: Figures, wire: str) -> float:
    """How long a wire stands what goes on in it past what has opened."""
    assert figures.sized is not None
    duty = figures.wires[wire].coordination.duty
    air_c = min(duty.air_c, duty.wire.cover.overload_c - 1)
    return damage_s(duty.wire, figures.sized.faults.bypassed[wire].rest_a, air_c, air_c)


@rule(
    "fuse.selective",
    meaning="A fuse is as large as the one before it, or larger: in a fault both can open, and what else is fed "
            "from the "
            "one before goes dark too.",
    cure="A larger fuse before it where its wire allows it, or a smaller one here.",
    source="Fuses in a row: the smaller must open first")
def selective(figures: Figures, say: Say) -> Iterator[Finding]:
    """Each fuse and way against every fuse before it that also serves others."""
    if figures.sized is None:
        return
    for upstream, branches in figures.topology.protected_behind.items():
        before = figures.topology.parts[upstream]
        if before.protection is None:
            continue
        rating = figures.ratings.rating_a(upstream)
        for branch in branches:
            dark = goes_dark(figures.topology, upstream, branch)
            if not dark or figures.ratings.rating_a(branch) < rating:
                continue
            larger = figures.ratings.rating_a(branch) > rating
            first = fuse(figures, upstream)
            proposals = tuple(Proposal(ChangeElement(id=p.id, values={p.CHOSEN: None}), f"Let Loadstar choose {p.id}")
                              for p in (figures.topology.parts[branch], before) if p.by_hand)
            steps = before.protection.steps_a
            largest = " None of its kind is larger: take another before it." if steps and rating == steps[-1] else ""
            yield say("caution" if larger else "advice", (branch, upstream), (
                f"{fuse(figures, branch)} is {'larger than' if larger else 'as large as'} {first}: in a fault that one "
                f"{'opens first' if larger else 'may open first'}, and {listed(dark)} "
                f"{'go' if len(dark) > 1 else 'goes'} dark too.{largest}"),
                "circuit", "", proposals)


@rule(
    "fuse.breaking",
    meaning="A short near the battery could be more than the fuse can interrupt.",
    cure="A fuse with a higher breaking capacity, or more wire before it.",
    source="ISO 8820-3: 32 V blade fuses break 1000 A; other kinds by the tables of fuses")
def breaking(figures: Figures, say: Say) -> Iterator[Finding]:
    """Prospective current of the wires behind each fuse against its breaking capacity."""
    worst: dict[str, float] = {}
    for wire in figures.wires.values():
        if wire.guard and wire.guard.opener.kind in FUSES:
            worst[wire.guard.fuse] = max(worst.get(wire.guard.fuse, 0.0), wire.guard.fault_a / wire.guard.share)
    for element, current in worst.items():
        protects = figures.topology.parts[element].protection
        assert protects is not None  # a fuse
        kind = KINDS[protects.pattern]
        if current <= kind.breaks_a:
            continue
        mine = figures.plan.is_one(element, FusePart)
        rating = figures.ratings.rating_a(element)
        yield say("stop", (element,), (
            f"A short behind {named(figures, element)} ({element}) could draw {current:.0f} A; a {kind.words} breaks "
            f"{kind.breaks_a:.0f} A: take a kind that breaks more."), "circuit", "", tuple(
                p for p in (other_kinds(mine, mine.volts_v, rating) if mine else ()) if _breaks(p, current)))


def _breaks(proposal: Proposal, current_a: float) -> bool:
    """Whether the kind that is proposed breaks so much."""
    assert isinstance(proposal.edit, ChangeElement)
    return KINDS[proposal.edit.values["pattern"]].breaks_a >= current_a
