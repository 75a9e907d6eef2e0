"""Fields written out in Python are what Django's own templates make of them, but for blank lines between tags."""

import re

import pytest
from django import forms
from django.forms.renderers import DjangoTemplates

from loadstar.web.frame.widgets import Choice, Lines, Text

DJANGO = {Text: forms.TextInput, Lines: forms.Textarea, Choice: forms.Select}
ATTRS = {"id": "id_x", "required": True, "disabled": False, "rows": 2, "data-note": 'a "b" <c> & d', "maxlength": 80}
CHOICES = [("", "none"), ("0.5", "0.5 mm² & more"), (1, "one"), ("<x>", "<b>'bold'</b>"),
           ("Lamps", [("a", "first"), ("b", "second")]), ("<Motors>", [("m", "horn")])]


@pytest.mark.parametrize("kind", DJANGO)
@pytest.mark.parametrize("value", [None, "", "0.5", 1, 1.5, 'say "no" & <go>', "two\nlines", "b", "<x>"])
@pytest.mark.parametrize("attrs", [{}, ATTRS], ids=["plain", "all"])
def test_as_django_writes_it(kind, value, attrs):
    more = {"choices": CHOICES} if kind is Choice else {}
    ours, theirs = kind(**more), DJANGO[kind](**more)
    written = theirs.render("na<me", value, attrs, DjangoTemplates()).strip()
    if kind is Choice:
        written = re.sub(r">\n+", ">\n", written)
    assert ours.render("na<me", value, attrs) == written


def test_in_a_form_with_a_fault_they_say_so():
    class Form(forms.Form):
        x = forms.CharField(widget=Text, help_text="metres")

    class Theirs(forms.Form):
        x = forms.CharField(help_text="metres")

    for data in ({"x": ""}, {"x": "5"}, None):
        assert str(Form(data)["x"]) == str(Theirs(data)["x"]).strip()
