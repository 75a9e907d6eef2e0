"""What is compared and offered on the pages: ways out of too little, what joins own leads; several things ticked."""

import html
import re

import pytest
from answers import paper_words
from django.http import QueryDict
from django.test import Client
from web.test_jobs import KEPT

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.figures.mains import busiest
from loadstar.core.plan import document
from loadstar.core.whatif.ways_out import ways_out
from loadstar.draw.walk import walk
from loadstar.web.records import store

pytestmark = pytest.mark.django_db
MANY = ("grips", "lamp pair", "usb")


@pytest.fixture
def pages(shop):
    """The pages of a plan for a technician, of another begun one, and of one who may only look."""
    row = store.begin(shop.workshop, shop.technician, begun(
        store.empty(shop.workshop, "short"), Wish("touring motorcycle", "middle", wanted=MANY)))
    client = Client()
    client.force_login(shop.technician)

    def page(tail: str) -> str:
        return html.unescape(client.get(f"/w/{shop.workshop.slug}/p/{row.pk}/{tail}").content.decode())

    def send(tail: str, sent: object):
        row.refresh_from_db()
        data = QueryDict(mutable=True)
        for name, value in {"base": row.head, **sent}.items():
            data.setlist(name, value if isinstance(value, list) else [value])
        return client.post(f"/w/{shop.workshop.slug}/p/{row.pk}/{tail}", data.urlencode(),
                           content_type="application/x-www-form-urlencoded")

    def plan():
        row.refresh_from_db()
        return store.load(row).plan

    page.send, page.plan, page.row, page.client, page.shop = send, plan, row, client, shop
    return page


def edits(page: str) -> list[str]:
    """The steps that a page offers by a press, as they are sent."""
    return [html.unescape(e) for e in re.findall(r'name="edit" value="([^"]*(?:&quot;[^"]*)*)"', page)]


def test_ways_out_stand_beside_the_account_and_can_be_planned(pages):
    answer = pages.client.get(f"/w/{pages.shop.workshop.slug}/p/{pages.row.pk}/budget/").content.decode()
    table = answer[answer.index('id="ways-out"'):answer.index("</table>", answer.index('id="ways-out"'))]
    ways = ways_out(pages.plan(), analyse(pages.plan()).account)
    assert len(ways) > 2
    for way in ways:
        assert html.escape(way.words) in table or way.words in table
    step = next(e for e in edits(table) if "rating2_w" in e)
    assert pages.send("edit/", {"edit": step, "next": f"/w/{pages.shop.workshop.slug}/p/{pages.row.pk}/budget/"}
                      ).status_code == 302
    strongest = next(w for w in ways if w.words.startswith("A winding"))
    assert pages.plan().generator.rating2_w == strongest.edit.values["rating2_w"]
    assert 'id="ways-out"' not in pages("budget/?off=L1")  # a look with something off has no list of its own


def test_what_joins_own_leads_is_compared_and_taken(pages):
    page = pages("ends/?view=leads")
    rows = re.findall(r"<tr[^>]*>\s*<th scope=\"row\">([^<]*)</th>", page)
    assert rows[0] == "spliced, shrunk over" and len(rows) == 4
    step = next(e for e in edits(pages.client.get(
        f"/w/{pages.shop.workshop.slug}/p/{pages.row.pk}/ends/?view=leads").content.decode()) if "bullet" in e)
    assert pages.send("edit/", {"edit": step, "next": f"/w/{pages.shop.workshop.slug}/p/{pages.row.pk}/ends/"}
                      ).status_code == 302
    assert pages.plan().rules.leads == "bullet 3.9"
    page = pages("ends/?view=leads")
    assert page.index("bullets along the loom") < page.index("spliced, shrunk")


def test_a_plan_without_own_leads_says_so(shop, pages):
    plan = demo.tide_hauler()[0]
    bare = plan.model_copy(update={"parts": tuple(p for p in plan.parts if p.kind in ("pack", "drive")), "wires": (),
                                   "joins": (), "readings": (), "plugs": ()})
    row = store.take_in(shop.workshop, shop.owner, bare)
    told = pages.client.get(f"/w/{shop.workshop.slug}/p/{row.pk}/ends/?view=leads").content.decode()
    assert "There are no wires yet" in told


def test_an_accessory_is_never_on_with_several(pages):
    one, two, three = (load.id for load in pages.plan().loads[:3])
    page = pages(f"loads/?sel={one}")
    boxes = re.findall(r'<input type="checkbox" name="never_with" value="(\w+)"', page)
    assert set(boxes) == {load.id for load in pages.plan().loads} - {one}
    sent = {"for_kind": "load", "id": one}
    assert pages.send(f"loads/?sel={one}", {**sent, "never_with": ["", two, three]}).status_code == 302
    assert pages.plan().part(one).never_with == (two, three)
    assert pages.send(f"loads/?sel={one}", {**sent, "name": "grips, both"}).status_code == 302  # not sent: it stays
    assert pages.plan().part(one).never_with == (two, three)
    assert pages.send(f"loads/?sel={one}", {**sent, "never_with": [""]}).status_code == 302
    assert pages.plan().part(one).never_with == ()
    refused = pages.send(f"loads/?sel={one}", {**sent, "never_with": ["", "L99"]})
    assert refused.status_code == 422 and "Choose from the list." in refused.content.decode()


@pytest.mark.parametrize(("job", "part", "words"), [
    ("09-battery-and-starter", "ST1", "Starting"), ("21-packs-in-parallel", "PK2", "Joined pack"),
    ("03-pack-leads", "D1", "Traction")])
def test_a_circuit_that_no_accessory_has_gets_its_card(shop, pages, job, part, words):
    row = store.take_in(shop.workshop, shop.owner, document.from_json((KEPT / f"{job}.json").read_bytes()))
    a = store.load(row).analysis
    assert part in a.mains
    address = f"/w/{shop.workshop.slug}/p/{row.pk}/card/{part}.pdf"
    text = " ".join(paper_words(pages.client.get(address)).split())
    assert words in text and "nothing flows" in text and "Lost" in text
    for link in a.mains[part].path.links:
        if link.element in a.wires:
            assert link.element in text
    assert f"card/{part}.pdf" in pages.client.get(
        f"/w/{shop.workshop.slug}/p/{row.pk}/circuits/?sel={part}").content.decode()
    assert f"card/{part}.pdf" in pages.client.get(f"/w/{shop.workshop.slug}/p/{row.pk}/handover/").content.decode()
    assert pages.client.get(f"/w/{shop.workshop.slug}/p/{row.pk}/card/BT99.pdf").status_code == 404
    shown = walk(a, part, busiest(a.mains[part], a.states)).across_v
    assert f"{shown:.2f} V" in text or f"{shown:.1f} V" in text
