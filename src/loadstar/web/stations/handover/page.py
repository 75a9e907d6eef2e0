"""What the Handover station shows: what is still open, the papers, the plan as a file, its history."""

import math
from collections.abc import Mapping
from typing import Any

from django.utils.safestring import mark_safe

from loadstar.core.figures.mains import LEAST_A
from loadstar.core.findings import worst
from loadstar.core.parts.tap import Tap
from loadstar.core.prove.results import Proof
from loadstar.core.stages import stages
from loadstar.core.whatif.cures import GRAVE
from loadstar.draw import circuit
from loadstar.draw.svg import Look

from ...evidence.proved import out, proofs_of, unproved
from ...frame.frame import Frame
from ...papers.names import PAPERS
from ...papers.pinmaps import is_plugged
from ...records.models import AsBuilt

WIDE_STEP, MOST_WIDE = 80, 2400  # px; of each step the style sheet has a class


def handover(frame: Frame) -> dict[str, Any]:
    """The papers: a card for each circuit, the plan as a file, its history."""
    a, plan = frame.analysis, frame.plan
    cards, proved = [], proofs_of(frame)
    readings_out = out(proved)
    circuits = [(load, a.path(load.id), plan.part(load.feed).name) for load in plan.loads]
    circuits += [(main.part, main.path, main.words.lower()) for main in a.mains.values()]
    for part, path, feed in circuits:
        mine = {part.id, *(k.element for k in (*path.feed, *path.back))}
        about = [f for f in frame.findings if mine & set(f.elements) and f.severity != "note"]
        cards.append({"part": part, "url": frame.url("plan") + f"card/{part.id}.pdf", "count": len(about),
                      "out": readings_out.get(part.id, 0), "worst": worst(about), "feed": feed,
                      "is_main": part.id in a.mains,  # of these no proof is counted
                      "proved": part.id in proved and proved[part.id].is_proved,
                      "place": plan.place(part.place).name})
    return {"cards": cards, "open": _open(frame, proved), "stages": _stages(frame, readings_out),
            "papers": _papers(frame), "pin_maps": is_plugged(frame), "built": _built(frame),
            "told": frame.extra.get("told", ""),
            "typed": frame.extra.get("typed", {}),
            "view": frame.kept["view"], "sheets": _sheets(frame) if frame.kept["view"] == "drawing" else (),
            "left_out": circuit.left_out(a) if frame.kept["view"] == "drawing" else ()}


def _papers(frame: Frame) -> list[tuple[str, str]]:
    """Every paper that there is something for: its name in addresses, its title."""
    return [(key, PAPERS[key]) for key in PAPERS if key != "pins" or frame.plan.plugs]


def _sheets(frame: Frame) -> list[tuple[str, int]]:
    """The circuit drawing, every element of it a way to it, what carries current in the chosen state marked; with each
    sheet how wide it is shown at the least, so that its words stay as large as they are drawn."""
    a, look = frame.analysis, Look(frame.element_link("circuits"))
    row, sheets = a.states.get(frame.state), circuit.sheets(a)
    live = {e for e, amps in row.solution.current_a.items() if abs(amps) >= LEAST_A} if row and row.solution else set()
    return [(mark_safe(circuit.draw(a, s, len(sheets), look, live)),
             min(MOST_WIDE, math.floor(s.size[0] / WIDE_STEP) * WIDE_STEP)) for s in sheets]


def _built(frame: Frame) -> list[dict[str, Any]]:
    """Revisions closed as built, the newest first, with how many revisions there are since."""
    found = AsBuilt.objects.filter(plan=frame.row).select_related("by").order_by("-revision")
    return [{"one": b, "by": b.named or b.by.shown_name, "since": frame.row.head - b.revision} for b in found]


def _stages(frame: Frame, readings_out: Mapping[str, int]) -> list[dict[str, Any]]:
    """Each stage of the plan: what is new in it, what of it is bought, what is found once it is made."""
    made = []
    for stage in stages(frame.plan):
        found = [f for f in stage.analysis.findings if f.severity in GRAVE] if stage.analysis else []
        fresh = [p for p in stage.new_parts if p.made_for is None or p.kind in ("fuse", "relay")]
        made.append({"letter": stage.letter, "parts": [p for p in fresh if p.stage == stage.letter or p.made_for],
                     "wires": len(stage.new_wires), "metres": stage.new_wire_m, "found": found, "lacks": stage.lacks,
                     "out": sum(n for load, n in readings_out.items() if load in {p.id for p in stage.new_parts}),
                     "worst": worst(found)})
    return made


def _open(frame: Frame, proved: Mapping[str, Proof]) -> list[tuple[int, str, str]]:
    """What stands between the plan and a machine that is handed over: how many, in words, and where."""
    plan, link = frame.plan, frame.link
    unknown = [p for p in plan.of(Tap) if p.plug and p.function == "unknown"]
    believed = [e for e in (*plan.places, *plan.plugs, *plan.parts) if getattr(e, "standing", "") == "believed"]
    stops = [f for f in frame.findings if f.severity == "stop"]
    cautions = [f for f in frame.findings if f.severity == "caution"]
    lacking = unproved(frame, proved)
    summary = frame.row.summary
    every = (
        (summary.work_all - summary.work_done, "operation{s} of the work sheet not ticked", link("build", sel="")),
        (summary.proof_out, "reading{s} out of band", link("prove", view="result", sel="")),
        (len(lacking), "circuit{s} not proved by the meter", link("prove", view="result", sel="")),
        (len(stops), "stop{s}: fire, injury, lost protection, or a circuit that cannot work",
         frame.url("findings")),
        (len(cautions), "caution{s}", frame.url("findings")),
        (frame.rests_on, "figure{s} to measure, not measured yet",
         link("survey", view="measure", sel="")),
        (len(believed), "fact{s} not confirmed on this machine", link("survey", view="reuse", sel="")),
        (len(unknown), "connector pin{s} not known yet", link("survey", view="plugs", sel="")),
        (len(plan.removed), "part{s} taken off, to be handed over or put back", link("survey", view="removed", sel="")))
    return [(count, words.format(s="" if count == 1 else "s"), href) for count, words, href in every if count]
