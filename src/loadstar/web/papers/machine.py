"""The machine's papers: each by itself, or all in one with contents, on A4 or US Letter, black and white."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from loadstar.core.budget.ledger import break_even_rpm
from loadstar.core.build.log import HELD
from loadstar.core.edits.standing import marked
from loadstar.core.figures.ways import spare_ways
from loadstar.core.materials.fuses import KINDS
from loadstar.core.order import order
from loadstar.core.parts.block import Block
from loadstar.core.parts.fuse import FusePart
from loadstar.core.parts.selector import Selector
from loadstar.core.plan.speech import words_for
from loadstar.core.plan.standing import kind_of, unknowns
from loadstar.core.prove.results import holds, latest, proofs
from loadstar.core.shelf import against
from loadstar.core.standard import back
from loadstar.core.survey.measures import MEASURES, figure_unit, figure_words
from loadstar.core.wiring.classes import of_600_v
from loadstar.draw import circuit
from loadstar.draw.svg import Look

from ..evidence import proving as known
from ..evidence.proved import out, proofs_of
from ..evidence.sheet import sheet_of
from ..frame.frame import Frame
from ..records import work as records
from ..records.models import AsBuilt
from ..records.shelf import stock_of
from .binding import bind, pages_of
from .names import PAPERS
from .pinmaps import pin_maps_context
from .press import foot_of, pdf

SIZES = {"A4": "A4", "Letter": "letter"}
ACROSS = ("drawing", "pins")  # what is wider than it is high; lists stand upright
PAGE = "@page {{ size: {size}{turned}; margin: 10mm 12mm 13mm; }}"
Part = Callable[[Frame], dict[str, Any]]


def _owner(frame: Frame) -> dict[str, Any]:
    """In plain words: what was added, which fuse, what not to do."""
    a, plan = frame.analysis, frame.plan
    rows, readings_out = [], out(proofs_of(frame))
    for load in plan.loads:
        part, before = a.topology.nearest_protection(load.id) or (None, "")
        rating = a.ratings.rating_a(part.id) if part else None
        own = plan.is_one(part.id, FusePart) if part else None
        rows.append({"load": load, "place": plan.place(load.place).name, "fuse": part, "rating": rating,
                     "words": own.words(rating, colour=True) if own and rating else "",
                     "at": plan.place(part.place).name if part else "",
                     "before": plan.part(before).name if before else "", "switch": _switch(frame, load.feed),
                     "out": load.id in readings_out})
    even = break_even_rpm(a.account)
    return {"rows": rows, "blows": any(r["words"] for r in rows), "days": a.parked.days if a.parked else None,
            "even": round(even, -2) if even else None,
            "range_km": a.pack.range_km if a.pack else None}


def _switch(frame: Frame, feed: str) -> str:
    part = frame.plan.is_one(feed, Selector)
    return part.name if part else ""


def _fuses(frame: Frame) -> dict[str, Any]:
    """Every fuse with its place, amps and colour, what it feeds; ways and amps to spare."""
    a, plan = frame.analysis, frame.plan
    rows = []
    for part in plan.of(FusePart):
        if part.id in a.ratings.rated:
            rating = a.ratings.rating_a(part.id)
            kind = KINDS[part.pattern]
            rows.append({"part": part, "words": part.words(rating, colour=True), "kind": kind.words, "rating": rating,
                         "colour": kind.by_rating[rating].colour,
                         "place": plan.place(part.place).name,
                         "feeds": [p.name for p in a.topology.loads_behind.get(part.id, ())]})
    spare = [{"block": b, "free": spare_ways(plan, b)} for b in plan.of(Block)]
    return {"fuses": rows, "spare": spare, "high": any(r["part"].is_high for r in rows)}


def _drawing(frame: Frame) -> dict[str, Any]:
    """Each sheet with the letters that are on it: what they stand for, and where that is."""
    plan = frame.plan
    made = []
    for sheet in circuit.sheets(frame.analysis):
        on_it = dict.fromkeys(s.item.element.part for s in sheet.symbols)
        parts = [plan.part(p) for p in on_it if p in frame.analysis.topology.parts]
        made.append((sheet, [(p.id, p.name, plan.place(p.place).name) for p in parts]))
    return {"sheets": made, "of": len(made), "left_out": circuit.left_out(frame.analysis)}


def _cut(frame: Frame) -> dict[str, Any]:
    a = frame.analysis
    high = of_600_v(a.topology)
    rows = [{"wire": w, "result": a.wires[w.id], "of_600_v": w.id in high,
             "cut_m": a.loom.cut_m.get(w.id) if a.loom else None,
             "from": frame.plan.part(w.a.part).name, "to": frame.plan.part(w.b.part).name}
            for w in frame.plan.wires if w.id in a.wires]
    return {"wires": rows}


def _order(frame: Frame) -> dict[str, Any]:
    return {"needs": against(order(frame.analysis), stock_of(frame.membership.workshop, frame.row))}


def _work(frame: Frame) -> dict[str, Any]:
    """The log: what was done by whom, what was made again."""
    entries, sheet = records.entries(frame.row), sheet_of(frame)
    words = {k: o.words for k, o in sheet.work.operations.items()}
    trials = [e for e in entries if e.operation.startswith("trial/")]
    done = [e for e in entries if e.what == "done"]
    told = [{"entry": e, "words": words.get(e.operation, e.operation)} for e in entries if e.what != "done"]
    people = sorted({e.by for e in done})
    return {"done": len({e.operation for e in done} & words.keys()), "of": len(words), "people": people, "again": told,
            "first": done[0].at if done else "", "last": done[-1].at if done else "",
            "pulls": [{"entry": e, "words": words.get(e.operation, e.operation)} for e in done if e.pull_n],
            "held": sum(e.note == HELD for e in done), "trials": trials}


def _proof(frame: Frame) -> dict[str, Any]:
    """Measured against predicted; what is proved and by whom, and what is not."""
    readings = records.readings(frame.row)
    plan = known.plan_of(frame, readings)
    found = proofs(frame.analysis, plan, readings)
    last = latest(readings)
    return {"proofs": [{"load": p, "proof": found[p.id]} for p in frame.plan.loads],
            "read": [{"step": s, "shown": last[s.key], "older": not holds(s, last[s.key])}
                     for s in plan if s.key in last],
            "unread": sum(s.key not in last for s in plan)}


def _standard(frame: Frame) -> dict[str, Any]:
    return {"steps": back(frame.analysis), "removed": frame.plan.removed}


def _rests(frame: Frame) -> dict[str, Any]:
    """What is believed and not found, and where the house rules were left."""
    plan = frame.plan
    rows = [{"words": figure_words(plan, u.element, u.field), "unknown": u, "unit": figure_unit(plan, u)}
            for u in unknowns(plan) if (kind_of(marked(plan, u.element)), u.field) in MEASURES]
    departs = [{"words": words_for(name), "now": getattr(plan.rules, name), "usual": getattr(plan.workshop_rules, name),
                "reason": plan.rules.reasons.get(name, "")} for name in type(plan.rules).model_fields
               if name != "reasons" and getattr(plan.rules, name) != getattr(plan.workshop_rules, name)]
    return {"rests": rows, "departs": departs, "open": [f for f in frame.findings if f.severity != "note"]}


MAKES: dict[str, Part] = {"owner": _owner, "fuses": _fuses, "drawing": _drawing, "pins": pin_maps_context, "cut": _cut,
                          "order": _order, "work": _work, "proof": _proof, "standard": _standard, "rests": _rests}
assert MAKES.keys() == PAPERS.keys()


def wanted(frame: Frame, only: str) -> list[str]:
    """The papers that there is something for: all, or one."""
    keys = [only] if only else list(PAPERS)
    return [k for k in keys if k != "pins" or frame.plan.plugs]


@dataclass(frozen=True)
class Slice:
    """A part of a paper that is laid out by itself: its rows from one number on, and whether it is the last."""

    paper: str
    number: int
    last: bool

    @property
    def key(self) -> str:
        """As `piece_pdf` takes it."""
        return f"{self.paper}.{self.number}"


@dataclass(frozen=True)
class Long:
    """A long paper: the list that it is divided by, how many lines that has, how many are laid out together, and about
    how many are a page."""

    rows: str
    number: Callable[[Frame], int]
    together: int
    page: int


LONG = {"drawing": Long("sheets", lambda f: len(circuit.sheets(f.analysis)), 40, 1),
        "cut": Long("wires", lambda f: len(f.analysis.wires), 450, 31),
        "owner": Long("rows", lambda f: len(f.plan.loads), 350, 18),
        "fuses": Long("fuses", lambda f: len(f.plan.of(FusePart)), 350, 15)}


def slices(frame: Frame, only: str = "") -> list[tuple[Slice, int]]:
    """What the papers, or one of them, are laid out in, each with about how many pages it has."""
    found = []
    for key in wanted(frame, only):
        long = LONG.get(key)
        if long is None:
            found.append((Slice(key, 0, True), 1))
            continue
        rows = long.number(frame)
        number = max(1, -(-rows // long.together))
        for n in range(number):
            here = min(long.together, max(rows - n * long.together, 0))
            found.append((Slice(key, n, n == number - 1), 1 + here // long.page))
    return found


def slice_pdf(frame: Frame, key: str, number: int, last: bool, size: str, alone: bool) -> bytes:
    """The pages of one slice, without their feet. `alone`: it is of the one paper that is wanted, with its cautions."""
    part = {"key": key, "title": PAPERS[key], "template": f"papers/machine/{key}.html", "first": number == 0,
            "last": last, **MAKES[key](frame)}
    if long := LONG.get(key):
        part[long.rows] = part[long.rows][number * long.together:(number + 1) * long.together]
    pictures = []
    if key == "drawing":
        pictures = [circuit.draw(frame.analysis, sheet, part["of"], Look(paper=True)) for sheet, _ in part["sheets"]]
    return pdf("papers/machine.html", {"frame": frame, "part": part, "alone": alone and last, "today": timezone.now()},
               _page(size, key), pictures)


def _page(size: str, key: str = "") -> str:
    return PAGE.format(size=SIZES[size], turned=" landscape" if key in ACROSS else "")


def bound(frame: Frame, papers: Sequence[tuple[str, bytes]], size: str) -> bytes:
    """Slices of papers as one: contents before them where they are several."""
    several = len({key for key, _ in papers}) > 1
    begins: dict[str, int] = {}
    page = 1 + several
    for key, data in papers:
        begins.setdefault(key, page)
        page += pages_of(data)
    made = [data for _, data in papers]
    if several:
        made.insert(0, _contents(frame, begins, size))
    return bind(made, foot_of(frame), [(PAPERS[key], page - 1) for key, page in begins.items()])


def _contents(frame: Frame, begins: Mapping[str, int], size: str) -> bytes:
    """The first page: what is in it, and whether it is of a machine as it was built."""
    built = AsBuilt.objects.filter(plan=frame.row).select_related("by").order_by("-revision").first()
    return pdf("papers/contents.html", {
        "frame": frame, "today": timezone.now(), "built": built,
        "papers": [(PAPERS[key], page) for key, page in begins.items()],
        "changed_since": built is not None and built.revision != frame.loaded.number}, _page(size))
