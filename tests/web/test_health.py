"""The health address and the log: short, and silent about everything else."""

import errno
import logging
import sys

import pytest
from django.db import InternalError, OperationalError

from loadstar.web import health
from loadstar.web.logs import AwayInOneLine


@pytest.mark.django_db
def test_well(client):
    answer = client.get("/health/")
    assert (answer.status_code, answer.content) == (200, b"well\n")
    assert "no-store" in answer["Cache-Control"] and not answer.cookies


def test_unwell(client, monkeypatch):
    class Away:
        def cursor(self):
            raise OperationalError(2002, "cannot connect")
    monkeypatch.setattr(health, "connection", Away())
    answer = client.get("/health/")
    assert (answer.status_code, answer.content) == (503, b"the database does not answer\n")


def record(error):
    try:
        raise error
    except type(error):
        return logging.LogRecord("x", logging.ERROR, "", 1, "at %s", ("/w/",), sys.exc_info())


def test_a_database_that_is_away_is_one_line_a_minute():
    away, first = AwayInOneLine(), record(OperationalError(2002, "cannot connect"))
    assert away.filter(first)
    assert first.exc_info is None and "the database is away" in first.getMessage()
    assert not away.filter(record(OperationalError(2002, "cannot connect")))
    for ours in (ValueError("ours"), OperationalError(1054, "Unknown column"), OperationalError(1205, "Lock wait")):
        other = record(ours)
        assert away.filter(other) and other.exc_info is not None


@pytest.mark.django_db
@pytest.mark.parametrize(("error", "status", "words"), [
    (OperationalError(1114, "The table 'plans_revision' is full"), 507, "there is no room left"),
    (OperationalError(1021, "full"), 507, "there is no room left"),
    (OperationalError(1026, "on write"), 507, "there is no room left"),
    (InternalError(1030, "Got error 28 from storage engine"), 507, "there is no room left"),
    (OSError(errno.ENOSPC, "No space left on device"), 507, "there is no room left"),
    (OperationalError(2006, "gone away"), 503, "cannot reach its database"),
    (ValueError("ours"), 500, "Loadstar made a mistake")])
def test_what_was_sent_is_held_until_it_can_be_sent_again(client, shop, monkeypatch, error, status, words):
    def fail(*_):
        raise error
    client.force_login(shop.technician)
    client.raise_request_exception = False
    monkeypatch.setattr("loadstar.web.records.store.edit", fail)
    answer = client.post(shop.url("edit/"), {"base": "1", "edit": '{"kind": "rename", "name": "flood & ebb"}',
                                             "old_password": "secret-of-mine"})
    text = answer.content.decode()
    assert answer.status_code == status and words in text and "Traceback" not in text
    assert ("flood &amp; ebb" in text) == (status != 500) and "secret-of-mine" not in text
