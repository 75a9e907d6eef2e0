"""From a page of HTML to a PDF with its tags (ISO 14289-1), in the papers' style and our own fonts; nothing is fetched
but those and the paper's own drawings."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.dateformat import format as dated
from weasyprint import CSS, HTML
from weasyprint.document import Document
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse

from ..frame.frame import Frame
from ..records.models import AsBuilt

PICTURE = "picture"  # the scheme of a drawing's address within its paper
STYLE = Path(__file__).with_name("card.css")
TAGGED = "pdf/ua-1"
UPRIGHT = "@page { size: A4; margin: 10mm 12mm 13mm; }"  # a list that is read standing


@dataclass(frozen=True)
class Foot:
    """What stands at the foot of every page beside its number: whose it is, and which revision of when."""

    of: str
    revision: str


def foot_of(frame: Frame) -> Foot:
    """The foot of a plan's papers."""
    built = AsBuilt.objects.filter(plan=frame.row, revision=frame.loaded.number).exists()
    return Foot(f"{frame.plan.machine.name}, {frame.plan.name}",
                f"revision {frame.loaded.number}, {'as built' if built else 'plan'}, "
                f"{dated(timezone.localtime(), 'j F Y')}")


def pdf(template: str, context: dict[str, object], page: str = "", pictures: Sequence[str] = ()) -> bytes:
    """A printed paper of a template. `page` is more of the style, of its pages; `pictures` are drawings that it shows
    as `picture:0` and so on."""
    return pressed(render_to_string(template, context), page, pictures)


def pressed(html: str, page: str = "", pictures: Sequence[str] = (), tagged: bool = True) -> bytes:
    """The PDF of a page's text."""
    return written(laid_out(html, page, pictures), tagged)


def written(document: Document, tagged: bool = True) -> bytes:
    """The PDF of what was laid out."""
    return bytes(document.write_pdf(**({"pdf_variant": TAGGED} if tagged else {})))


def laid_out(html: str, page: str = "", pictures: Sequence[str] = ()) -> Document:
    """The pages of a text."""
    fonts = FontConfiguration()
    base = str(settings.BASE / "static" / "fonts") + "/"
    styles = [CSS(filename=str(STYLE), font_config=fonts, base_url=base)]
    if page:
        styles.append(CSS(string=page, font_config=fonts, base_url=base))
    return HTML(string=html, base_url=str(settings.BASE), url_fetcher=_Own(pictures)).render(
        stylesheets=styles, font_config=fonts)


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
