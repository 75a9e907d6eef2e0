"""The circuit card: descent, parts, wire cut lengths, fuse, expected readings, cautions, on one printed page."""

from typing import Any

from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.safestring import mark_safe

from loadstar.core.analysis import Analysis
from loadstar.core.figures.mains import LEAST_A, Main, busiest
from loadstar.core.parts.can import as_accessory
from loadstar.core.parts.fuse import FusePart
from loadstar.core.parts.load import LoadPart
from loadstar.core.survey.measures import figure_unit, figure_words
from loadstar.draw import descent
from loadstar.draw.svg import Look
from loadstar.draw.walk import walk as walk_of

from ..evidence.proved import out, proofs_of
from ..frame.frame import Frame
from .press import laid_out, written

MOST_UNKNOWN = 4  # of the figures that could be measured, so many are named
HEIGHTS_MM = (84, 76, 68)  # of the picture; lower, its words are hard to read


def card_pdf(frame: Frame, part_id: str) -> bytes:
    """The card of one circuit, an accessory's or another, as PDF: the picture as high as leaves it one page, if a lower
    one does."""
    context = {"frame": frame, **card_context(frame, part_id)}
    html = render_to_string("papers/card.html", context)
    for height_mm in (*HEIGHTS_MM, HEIGHTS_MM[0]):
        made = laid_out(html, f"figure svg {{ height: {height_mm}mm; }}")
        if len(made.pages) == 1:
            break
    return written(made)


def card_context(frame: Frame, part_id: str) -> dict[str, object]:
    """What the card says."""
    a, plan = frame.analysis, frame.plan
    part = plan.part(part_id)
    main, load = a.mains.get(part_id), as_accessory(part)
    path = main.path if main else a.path(part_id)
    elements = list(dict.fromkeys(k.element for k in (*path.feed, *path.back)))
    readings = _of_main(a, main) if main else _of_load(a, load) if load else []
    live = [r["state"] for r in readings if r["volts"] is not None]
    usual = next((s for s in ("idle", "key_on", "parked", "assist", "town", *live) if s in live), frame.state)
    shown = frame.state if frame.state in live else (main and busiest(main, a.states)) or usual
    wires = [{"result": a.wires[e], "wire": plan.wire(e)} for e in elements if e in a.wires]
    fuses = [{"part": fuse, "words": fuse.words(a.ratings.rating_a(e), colour=True)}
             for e in elements if (fuse := plan.is_one(e, FusePart))]
    parts = [{"part": other, "rating": a.ratings.rating_or_none_a(e)} for e in elements
             if (other := a.topology.parts.get(e)) is not None and not plan.is_one(e, FusePart)]
    known = frame.loaded.known
    unknown = known.outlook().ranked[:MOST_UNKNOWN] if known.rests_on else ()
    return {
        "begins": "At the posts" if path.root.part == (plan.supply.id if plan.supply else "") else "At its converter",
        "part": part, "load": load, "main": main, "place": plan.place(part.place).name,
        "feed": plan.part(load.feed).name if load else "", "shown": shown,
        "picture": mark_safe(descent.draw(a, part_id, shown, Look(paper=True), size=(760, 370))),
        "wires": wires, "fuses": fuses, "parts": parts, "readings": readings,
        "out": out(proofs_of(frame)).get(part_id, 0), "effect": any(r["effect"] is not None for r in readings),
        "today": timezone.now(),
        "unknown": [(figure_words(plan, h.unknown.element, h.unknown.field), h, figure_unit(plan, h.unknown))
                    for h in unknown],
        "findings": [f for f in a.findings if part_id in f.elements or set(elements) & set(f.elements)],
    }


def _of_load(a: Analysis, load: LoadPart) -> list[dict[str, Any]]:
    """What the meter should show of an accessory's circuit, state by state."""
    readings = []
    for state in a.source.states:
        volts, result = a.volts.across_v(load.id, state), a.volts.row(load.id, state)
        readings.append({"state": state,
                         "posts": a.volts.begins_v(load.id, state) if result and result.solution else None,
                         "volts": volts,
                         "amps": abs(result.current(load.id)) if result and volts is not None else None,
                         "lost": a.volts.drop_frac(load, state), "meant": a.volts.lives(load, state),
                         "effect": load.effect_frac(volts) if volts is not None else None})
    return readings


def _of_main(a: Analysis, main: Main) -> list[dict[str, Any]]:
    """The same of a circuit that no accessory has, in the states in which anything flows in it."""
    readings = []
    for state in a.source.states:
        result = a.states.get(state)
        amps = main.amps(result) if result is not None and result.solution is not None else 0.0
        way = walk_of(a, main.part.id, state) if amps > LEAST_A else None
        readings.append({"state": state, "posts": way and way.begins_v, "volts": way and way.across_v,
                         "amps": amps if way else None, "meant": False, "effect": None,
                         "lost": 1 - way.across_v / way.begins_v if way and way.begins_v else None})
    return readings
