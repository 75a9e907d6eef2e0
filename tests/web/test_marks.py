"""Pins marked on a photograph of their connector: put, moved, taken away, and what was seen of each written down."""

import re

import pytest
from answers import plain_words
from asked import jpeg, on
from conftest import make_shop
from django.core.files.uploadedfile import SimpleUploadedFile

from loadstar.demo import as_found
from loadstar.web.records import machine, photos, store
from loadstar.web.records.models import Photo

pytestmark = pytest.mark.django_db


@pytest.fixture
def plug(client):
    """A survey with a photograph of one of its connectors: its page, and what is sent from it."""
    shop = make_shop("Creek", as_found()[0])
    client.force_login(shop.technician)
    found = store.load(shop.row).plan.plugs[0]
    photo = photos.keep_photo(shop.row, shop.technician, found.id, "before it was parted", jpeg((800, 600)))

    def page(query=""):
        return client.get(on(shop, shop.row, f"survey/?view=plugs&sel={found.id}&photo={photo.pk}{query}"))

    def send(what, **data):
        shop.row.refresh_from_db()
        address = on(shop, shop.row, f"survey/{what}/?sel={found.id}")
        return client.post(address, {"photo": photo.pk, "base": shop.row.head, **data})

    def marks():
        return Photo.objects.get(pk=photo.pk).marks

    def pin(way):
        shop.row.refresh_from_db()
        return next(p for p in store.load(shop.row).plan.pins(found.id) if p.way == way)

    page.pin = pin
    page.send, page.marks, page.shop = send, marks, shop
    page.plug, page.photo, page.client = found, photo, client
    return page


def test_a_pin_is_marked_where_the_picture_is_tapped_and_the_next_one_is_asked_for(plug):
    assert 'value="1" selected' in plug().content.decode()
    answer = plug.send("mark", way=1, across="25", down="50,5")
    assert answer["Location"].endswith(f"&photo={plug.photo.pk}") and plug.marks() == {"1": [0.25, 0.505]}
    shown = plug().content.decode()
    assert re.search(r'cx="200.0" cy="303.0"', shown) and 'value="2" selected' in shown
    plug.send("mark", way=1, across="30", down="50")  # moved
    assert plug.marks() == {"1": [0.3, 0.5]}
    plug.send("mark", way=1, away="yes")
    assert plug.marks() == {}


def test_what_is_seen_of_a_marked_pin_is_in_the_survey(plug):
    plug.send("mark", way=2, across="40", down="40")
    shown = plug("&way=2").content.decode()
    assert 'id="seen-form"' in shown and "Pin 2: its wire is" in plain_words(plug("&way=2"))
    plug.send("seen", way=2, wire_colour="OG/WH", live="key")
    pin = plug.pin(2)
    assert (pin.wire_colour, pin.function, pin.live) == ("OG/WH", "feed", "key")
    plug.send("seen", way=2, wire_colour="BN", live="ground")
    pin = plug.pin(2)
    assert (pin.wire_colour, pin.function) == ("BN", "ground")
    assert '<option value="ground" selected>' in plug("&way=2").content.decode()
    plug.send("seen", way=2, wire_colour="GN", live="")  # only its colour: what it is stays
    pin = plug.pin(2)
    assert (pin.wire_colour, pin.function) == ("GN", "ground")


@pytest.mark.parametrize(("sent", "status", "told"), [
    ({"way": 99, "across": "1", "down": "1"}, 422, "has ways 1 to"),
    ({"way": 0, "across": "1", "down": "1"}, 422, "has ways"),
    ({"way": 1, "across": "101", "down": "1"}, 422, "beside the picture"),
    ({"way": 1, "across": "-1", "down": "1"}, 422, "beside the picture"),
    ({"way": 1, "across": "left", "down": "1"}, 422, "Tap the picture"),
    ({"way": 1, "across": "5"}, 422, "Tap the picture"),
    ({"way": "one", "across": "5", "down": "5"}, 404, "")])
def test_a_mark_that_cannot_be_is_refused_in_words(plug, sent, status, told):
    answer = plug.send("mark", **sent)
    assert answer.status_code == status and told in plain_words(answer) and plug.marks() == {}


def test_nothing_is_marked_on_what_is_not_there(plug):
    other = make_shop("Far", as_found()[0])
    theirs = photos.keep_photo(other.row, other.technician, plug.plug.id, "", jpeg())
    assert plug.send("mark", way=1, across="1", down="1", photo=theirs.pk).status_code == 404
    lamp = photos.keep_photo(plug.shop.row, plug.shop.technician, "W1", "", jpeg())
    assert plug.send("mark", way=1, across="1", down="1", photo=lamp.pk).status_code == 404
    assert plug.send("seen", way=1, wire_colour="BN", live="sometimes").status_code == 404
    plug.client.force_login(plug.shop.reader)
    assert plug.send("mark", way=1, across="1", down="1").status_code == 403 and plug.marks() == {}


def test_marks_go_along_in_the_machines_file(plug):
    plug.send("mark", way=3, across="12.5", down="80")
    loaded = store.load(plug.shop.row)
    file = SimpleUploadedFile("machine.zip", machine.file_of(loaded, {"all": b"%PDF-"}))
    row = machine.take_in(plug.shop.workshop, plug.shop.technician, file.read())
    assert row.photos.get().marks == {"3": [0.125, 0.8]}
