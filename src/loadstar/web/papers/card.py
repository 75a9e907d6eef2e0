"""The circuit card: descent, parts, wire cut lengths, fuse, expected readings, cautions, on one printed page."""

from collections.abc import Sequence
from pathlib import Path

from django.conf import settings
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.safestring import mark_safe
from weasyprint import CSS, HTML
from weasyprint.document import Document
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse

from loadstar.core.parts.fuse import FusePart
from loadstar.core.survey.measures import figure_unit, figure_words
from loadstar.draw import descent
from loadstar.draw.svg import Look

from ..evidence.proved import out, proofs_of
from ..frame.frame import Frame

MOST_UNKNOWN = 4  # of the figures that could be measured, so many are named
HEIGHTS_MM = (84, 76, 68)  # of the picture; lower, its words are hard to read
PICTURE = "picture"  # the scheme of a drawing's address within its paper
STYLE = Path(__file__).with_name("card.css")


def card_pdf(frame: Frame, load_id: str) -> bytes:
    """The card of one load's circuit, as PDF: the picture as high as leaves it one page, if a lower one does."""
    context = {"frame": frame, **card_context(frame, load_id)}
    for height_mm in (*HEIGHTS_MM, HEIGHTS_MM[0]):
        made = _rendered("papers/card.html", context, f"figure svg {{ height: {height_mm}mm; }}")
        if len(made.pages) == 1:
            break
    return bytes(made.write_pdf())


def pdf(template: str, context: dict[str, object], page: str = "", pictures: Sequence[str] = ()) -> bytes:
    """A printed paper: a template with the papers' style and our own fonts. `page` is more of the style, of its pages;
    `pictures` are drawings that it shows as `picture:0` and so on."""
    return bytes(_rendered(template, context, page, pictures).write_pdf())


class _Own(URLFetcher):
    """Hands out the drawings of one paper, which are quicker so than as a part of its text, and fonts; nothing else."""

    def __init__(self, pictures: Sequence[str]) -> None:
        super().__init__(allowed_protocols=("file", PICTURE), fail_on_errors=True)
        self._pictures = pictures

    def fetch(self, url: str, headers: object = None) -> URLFetcherResponse:
        """One of them."""
        scheme, _, number = url.partition(":")
        if scheme != PICTURE:
            return super().fetch(url, headers)
        return URLFetcherResponse(url, self._pictures[int(number)].encode(), {"Content-Type": "image/svg+xml"})


def _rendered(template: str, context: dict[str, object], page: str = "", pictures: Sequence[str] = ()) -> Document:
    fonts = FontConfiguration()
    base = str(settings.BASE / "static" / "fonts") + "/"
    styles = [CSS(filename=str(STYLE), font_config=fonts, base_url=base)]
    if page:
        styles.append(CSS(string=page, font_config=fonts, base_url=base))
    html = render_to_string(template, context)
    return HTML(string=html, base_url=str(settings.BASE), url_fetcher=_Own(pictures)).render(
        stylesheets=styles, font_config=fonts)


def card_context(frame: Frame, load_id: str) -> dict[str, object]:
    """What the card says."""
    a, plan = frame.analysis, frame.plan
    load = next(one for one in plan.loads if one.id == load_id)
    path = a.path(load_id)
    elements = list(dict.fromkeys(k.element for k in (*path.feed, *path.back)))
    shown = frame.state if a.volts.across_v(load_id, frame.state) is not None else next(
        (s for s in ("idle", "key_on", "parked", "assist", "town") if a.volts.across_v(load_id, s) is not None),
        frame.state)
    wires = [{"result": a.wires[e], "wire": plan.wire(e)} for e in elements if e in a.wires]
    fuses = [{"part": part, "words": part.words(a.ratings.rating_a(e), colour=True)}
             for e in elements if (part := plan.is_one(e, FusePart))]
    parts = [{"part": part, "rating": a.ratings.rating_or_none_a(e)} for e in elements
             if (part := a.topology.parts.get(e)) is not None and not plan.is_one(e, FusePart)]
    readings = []
    for state in a.source.states:
        volts, result = a.volts.across_v(load_id, state), a.volts.row(load_id, state)
        readings.append({"state": state,
                         "posts": a.volts.begins_v(load_id, state) if result and result.solution else None,
                         "volts": volts,
                         "amps": abs(result.current(load_id)) if result and volts is not None else None,
                         "lost": a.volts.drop_frac(load, state), "meant": a.volts.lives(load, state),
                         "effect": load.effect_frac(volts) if volts is not None else None})
    known = frame.loaded.known
    unknown = known.outlook().ranked[:MOST_UNKNOWN] if known.rests_on else ()
    return {
        "begins": "At the posts" if path.root.part == (plan.supply.id if plan.supply else "") else "At its converter",
        "load": load, "place": plan.place(load.place).name, "feed": plan.part(load.feed).name, "shown": shown,
        "picture": mark_safe(descent.draw(a, load_id, shown, Look(paper=True), size=(760, 370))),
        "wires": wires, "fuses": fuses, "parts": parts, "readings": readings,
        "out": out(proofs_of(frame)).get(load_id, 0), "effect": any(r["effect"] is not None for r in readings),
        "today": timezone.now(),
        "unknown": [(figure_words(plan, h.unknown.element, h.unknown.field), h, figure_unit(plan, h.unknown))
                    for h in unknown],
        "findings": [f for f in a.findings if load_id in f.elements or set(elements) & set(f.elements)],
    }
