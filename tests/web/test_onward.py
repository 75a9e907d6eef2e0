"""A form that a page sends by itself is answered with the page that it leads to; any other is sent on."""

import pytest
from asked import filled, page
from django.db import connection
from django.http import HttpResponseRedirect
from django.test import RequestFactory
from django.test.utils import CaptureQueriesContext

from loadstar.web.onward import Onward

pytestmark = pytest.mark.django_db
BY_PAGE = {"X-Alpine-Request": "true"}


def lines(answer) -> list[str]:
    return [line for line in answer.content.decode().splitlines() if "csrf" not in line]


def test_the_answer_is_the_page_that_it_leads_to(inside, shop):
    answer = inside.post(shop.url("loads/?state=town"), filled(shop, name="Tide lamp"), headers=BY_PAGE)
    at = answer["X-Loadstar-At"]
    shop.row.refresh_from_db()
    assert answer.status_code == 200 and shop.row.head == 2 and "state=town" in at and "sel=L" in at
    assert "Tide lamp" in answer.content.decode() and lines(answer) == lines(inside.get(at))


def test_it_asks_no_more_than_the_two_would_have(inside, shop):
    with CaptureQueriesContext(connection) as one:
        answer = inside.post(shop.url("loads/"), filled(shop), headers=BY_PAGE)
    shop.row.refresh_from_db()
    with CaptureQueriesContext(connection) as two:
        inside.get(inside.post(shop.url("loads/"), filled(shop, name="Another")).url)
    assert answer.status_code == 200 and len(one) < len(two)


def test_a_browser_that_sends_a_whole_page_is_sent_on(inside, shop):
    answer = inside.post(shop.url("loads/"), filled(shop))
    assert answer.status_code == 302 and "X-Loadstar-At" not in answer


def test_what_is_refused_comes_back_as_it_was(inside, shop):
    answer = inside.post(shop.url("loads/"), filled(shop, amount="-1"), headers=BY_PAGE)
    assert answer.status_code == 422 and "X-Loadstar-At" not in answer
    assert inside.post(page(shop, "members/nothing/"), headers=BY_PAGE).status_code in (403, 404)


def test_who_signs_out_sees_the_way_in_and_no_more(inside, shop):
    answer = inside.post("/sign-out/", headers=BY_PAGE)
    assert answer["X-Loadstar-At"].startswith("/sign-in/") and "Sign in" in answer.content.decode()
    assert inside.get(shop.url("loads/")).status_code == 302


@pytest.mark.parametrize(("where", "steps"), [
    ("https://elsewhere.example/", 1), ("//elsewhere.example/", 1), ("/on/", 4)])
def test_nobody_is_led_away_or_in_a_circle(where, steps):
    asked = []

    def leads(request):
        asked.append((request.method, request.get_full_path()))
        return HttpResponseRedirect(where)

    answer = Onward(leads)(RequestFactory().post("/begin/?a=1", {"b": "2"}, headers=BY_PAGE))
    assert answer.status_code == 302 and answer["Location"] == where and "X-Loadstar-At" not in answer
    assert asked == [("POST", "/begin/?a=1"), *[("GET", "/on/")] * (steps - 1)]
