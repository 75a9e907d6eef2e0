"""The health address and the log: short, and silent about everything else."""

import logging
import sys

import pytest
from django.db import OperationalError

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
    other = record(ValueError("ours"))
    assert away.filter(other) and other.exc_info is not None
