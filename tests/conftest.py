"""Fixtures that several kinds of test share: workshops with members and plans in the database."""

from dataclasses import dataclass
from functools import cache

import pytest

from loadstar.demo import fit_out


def pytest_addoption(parser):
    """Files that tests compare with are written anew only when that is asked for."""
    parser.addoption("--write-jobs", action="store_true", help="write examples/jobs anew")
    parser.addoption("--write-shown", action="store_true", help="write what pages show anew")
    parser.addoption("--write-sent", action="store_true", help="write what forms do anew")


@dataclass
class Shop:
    """A workshop with its people and one plan, the demonstration's."""

    workshop: object
    owner: object
    technician: object
    reader: object
    row: object

    def url(self, tail: str = "") -> str:
        """An address below the plan."""
        return f"/w/{self.workshop.slug}/p/{self.row.pk}/{tail}"


@cache
def hashed(password: str) -> str:
    """A password as it is kept; made slow on purpose, so once is enough."""
    from django.contrib.auth.hashers import make_password

    return make_password(password)


def make_shop(name: str, plan=None) -> Shop:
    """A workshop with an owner, a technician, a reader and a plan."""
    from loadstar.web.records import store
    from loadstar.web.workshop.models import Membership, Person
    from loadstar.web.workshop.views import make_workshop

    workshop = make_workshop(name)
    people = {}
    for role in ("owner", "technician", "reader"):
        people[role] = Person.objects.create(username=f"{name} {role}", password=hashed("estuary-tide-tables"))
        Membership.objects.create(person=people[role], workshop=workshop, role=role)
    row = store.take_in(workshop, people["technician"], plan or fit_out()[0])
    return Shop(workshop, people["owner"], people["technician"], people["reader"], row)


@pytest.fixture
def shop(db) -> Shop:
    """The workshop most tests work in."""
    return make_shop("Mudflat")


@pytest.fixture
def inside(client, shop):
    """A client signed in as the technician."""
    client.force_login(shop.technician)
    return client
