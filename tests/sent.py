"""What the forms of the pages answer and leave on record: each sent as it is shown, and well and badly filled in.

A part of the house is the pages of a station, or those beside the plans. Every link within it is followed, one of each
shape; every form met is sent once of each shape, again and again, and what it did is taken back each time.
"""

import difflib
import json
import re
from collections import Counter, deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from urllib.parse import parse_qsl, urlencode, urljoin, urlsplit

from conftest import Shop
from django.apps import apps
from django.db import connection, models, transaction
from django.test import Client
from lxml import html
from shown import OTHER_EACH_TIME, shop_of

from loadstar.core.plan import document
from loadstar.web.plans.models import Revision
from loadstar.web.records import store

STATIONS = ("job", "survey", "loads", "budget", "circuits", "rules", "route", "ends", "build", "prove", "handover")
BESIDE = ("shelf", "rules", "members", "begin")
PARTS = (*STATIONS, *(f"beside {part}" for part in BESIDE), "plan", "bench", "me")
LONG = ("job", "survey", "loads", "route", "rules")  # of so many forms that a small plan is enough
NO_FORM_OF_THIS = ("/sign-out", "/tour", "/second-factor")  # seen on every page, or with a secret of its own
TELLING = ".error, .errorlist, .notice, .told, [role=alert], [role=status]"
OTHERS = ("", "7", "-3", "?!")  # for what is typed
NOT_OF_THE_LIST = "ZZ99"
MOST_SHAPES = 40  # of pages of a part
OLD, LOOKED = "of another revision", "by who may only look"
SECRET = ("token", "digest")
OURS = ("jobs", "plans", "records", "workshop")


@dataclass(frozen=True)
class Form:
    """One form as a browser has it: where it stands and is sent, what is in it, and what may be typed and chosen."""

    page: str
    action: str
    values: tuple[tuple[str, str], ...]
    typed: tuple[str, ...]
    choices: tuple[tuple[str, tuple[str, ...]], ...]
    boxes: tuple[str, ...]

    @property
    def shape(self) -> str:
        """What forms of one kind have in common."""
        hidden = [f"{n}={v if n in ('what', 'for_kind') else _kinds(v)}" for n, v in self.values
                  if n not in (*self.typed, *dict(self.choices), *self.boxes, *SECRET, "base", "next")]
        return f"{_kinds(self.action)} {' '.join(sorted((*hidden, *self.typed, *dict(self.choices), *self.boxes)))}"


def _kinds(text: str) -> str:
    return re.sub(r"[0-9]+(\.[0-9]+)?", "#", text)


def forms(page: str, body: html.HtmlElement) -> Iterator[Form]:
    """The forms of a page that change something."""
    body.make_links_absolute(f"http://testserver{page}")
    for form in body.forms:
        action = re.sub(r"^http://testserver", "", form.action or page)
        if form.method != "POST" or any(no in action for no in NO_FORM_OF_THIS) or not action.startswith("/"):
            continue
        presses = [b for b in form.iter("button") if b.get("name")] or [None]
        for press in presses:
            yield _form(page, action, form, press)


def _form(page: str, action: str, form: html.FormElement, press: html.HtmlElement | None) -> Form:
    values = [(n, v) for n, v in form.form_values() if n != "csrfmiddlewaretoken"]
    if press is not None:
        values.append((press.get("name"), press.get("value", "")))
        action = re.sub(r"^http://testserver", "", press.get("formaction") or action)
    typed, choices, boxes = [], {}, []
    for one in form.inputs:
        kind = one.get("type", "text") if one.tag == "input" else one.tag
        if not one.name or kind in ("hidden", "file", "submit") or one.get("disabled") is not None:
            continue
        if kind == "select":
            choices[one.name] = tuple(one.value_options)
        elif kind == "radio":
            choices[one.name] = (*choices.get(one.name, ()), one.get("value", "on"))
        elif kind == "checkbox":
            boxes.append(one.name)
        else:
            typed.append(one.name)
    return Form(page, action, tuple(values), tuple(dict.fromkeys(typed)), tuple(choices.items()),
                tuple(dict.fromkeys(boxes)))


def ways(form: Form) -> Iterator[tuple[str, dict[str, list[str]]]]:
    """How it is sent: as shown, all that is typed otherwise, each field alone with something else, nothing of the
    list."""
    shown: dict[str, list[str]] = {}
    for name, value in form.values:
        shown.setdefault(name, []).append(value)
    yield "as shown", shown
    for value in OTHERS if form.typed else ():
        yield f"all {value!r}", shown | {name: [value] for name in form.typed}
    for name in form.typed if len(form.typed) > 1 else ():
        yield f"{name} alone 7", shown | {name: ["7"]}
    for name, options in form.choices:
        other = [o for o in options if [o] != shown.get(name)]
        for option in other[:1] + other[-1:] if len(other) > 1 else other:
            yield f"{name} alone {_kinds(option)}", shown | {name: [option]}
    for name in form.boxes:
        others = {n: v for n, v in shown.items() if n != name}
        yield f"{name} alone turned", others if name in shown else others | {name: ["on"]}
    if form.choices:
        yield "none of the list", shown | {name: [NOT_OF_THE_LIST] for name, _ in form.choices}
    if "base" in shown:
        yield OLD, shown | {"base": ["99"]}


class Part:
    """The pages of one part, and what comes of their forms."""

    def __init__(self, name: str, shop: Shop) -> None:
        self.shop, self.client, self.reader = shop, Client(), Client()
        self.client.force_login(shop.owner)
        self.reader.force_login(shop.reader)
        self.above = f"/w/{shop.workshop.slug}/"
        if name in STATIONS:
            self.start = self.within = shop.url(f"{name}/")
        elif name == "plan":
            self.start, self.within = shop.url("findings/"), shop.url()
        elif name == "me":
            self.start, self.within = "/me/", "/workshops/"
        else:
            self.start = self.within = self.above + (f"{name.split()[1]}/" if " " in name else "")
        self.alone = name in ("plan", "bench", "me")  # those pages only: not what stands below
        self.before = _records()
        self.alone_sent: set[str] = set()
        self.starts = [self.start, *([shop.url("history/"), shop.url()] if name == "plan" else []),
                       *(["/workshops/"] if name == "me" else [])]

    def forms(self) -> Iterator[Form]:
        """One of each shape."""
        todo, met, had = deque(self.starts), set(map(_page_shape, self.starts)), set()
        while todo and len(met) < MOST_SHAPES + len(todo):
            path = todo.popleft()
            answer = self.client.get(path)
            if answer.status_code != 200 or "html" not in answer.headers["content-type"]:
                continue
            body = html.fromstring(answer.content.decode())
            for form in forms(path, body):
                if form.shape not in had:
                    had.add(form.shape)
                    yield form
            for link in [] if self.alone else body.xpath("//a/@href"):
                link = urljoin(path, link.removeprefix("http://testserver")).partition("#")[0]
                if urlsplit(link).path == self.within and _page_shape(link) not in met:
                    met.add(_page_shape(link))
                    todo.append(link)

    def sent(self) -> Iterator[tuple[str, list[str]]]:
        """By form: each way of sending it, the answer, and what then is another one on record."""
        for form in self.forms():
            shown = set(_words(self.client.get(form.page)))
            lines = []
            for way, values in ways(form):
                if (" alone " in way or way == OLD) and self._had(form, way):
                    continue
                followed = shown if way == "as shown" else set()
                lines += [f"* {way}", *self._taken_back(partial(self._came, form, values, followed))]
            if not self._had(form, LOOKED):
                lines += [f"* {LOOKED}", *self._taken_back(partial(self._refused, form))]
            yield self.plain(f"{form.page} {form.shape}"), [self.plain(line) for line in lines]

    def _had(self, form: Form, way: str) -> bool:
        """Whether such a form was sent so already: with this field alone, too late, by a reader."""
        said = f"{_kinds(urlsplit(form.action).path)} {dict(form.values).get('for_kind', '')} {way}"
        had = said in self.alone_sent
        self.alone_sent.add(said)
        return had

    def _came(self, form: Form, values: dict[str, list[str]], shown: set[str]) -> list[str]:
        answer = self.client.post(form.action, values)
        lines = [f"{answer.status_code} {answer.get('Location', '')}"]
        if answer.status_code == 302 and shown:
            answer = self.client.get(urljoin(form.action, answer["Location"]), follow=True)
        return lines + [line for line in _words(answer) if line not in shown]

    def _refused(self, form: Form) -> list[str]:
        return [str(self.reader.post(form.action, next(ways(form))[1]).status_code)]

    def _taken_back(self, act: Callable[[], list[str]]) -> list[str]:
        """What comes of an act, with what changed on record; the record is then as it was."""
        written: set[str] = set()

        def watch(execute, sql, params, many, context):
            if (found := re.match(r"\s*(?:INSERT INTO|UPDATE|DELETE FROM) `(\w+)`", sql)) is not None:
                written.add(found[1])
            return execute(sql, params, many, context)
        with transaction.atomic():
            with connection.execute_wrapper(watch):
                lines = act()
            if written:
                lines = [*lines, *_changes(self.before, _records(written))]
            transaction.set_rollback(True)
        return lines

    def plain(self, text: str) -> str:
        """Without what is another one each time."""
        text = text.replace(self.above, "/w/W/")
        text = OTHER_EACH_TIME.sub("~", re.sub(r"/(new-password|join)/[^/]+", r"/\1/~", text))
        return re.sub(r"(/p/|plan=|photo/|member=|person=|sign_in=|run=|\bid=)\d+", r"\1~", text)


def _page_shape(path: str) -> str:
    parts = urlsplit(path)
    asked = [(n, v) for n, v in parse_qsl(parts.query) if n not in ("state", "side")]
    return f"{parts.path}?{_kinds(urlencode(sorted(asked)))}"


def _words(answer) -> list[str]:
    if not answer.content or "html" not in answer.headers.get("content-type", ""):
        return []
    body = html.fromstring(answer.content.decode())
    for silent in body.xpath("//script | //style | //select"):
        silent.drop_tree()
    return [" ".join(line.split()) for line in body.itertext() if line.strip()]


def _records(tables: set[str] | None = None) -> dict[tuple[str, object], dict[str, str]]:
    """What is on record: by table and row, each field in words."""
    found = {}
    for model in (m for app in OURS for m in apps.get_app_config(app).get_models()):
        if tables is None or model._meta.db_table in tables:
            fields = [f for f in model._meta.concrete_fields if not f.primary_key and f.name not in SECRET]
            for row in model._default_manager.all():
                found[model.__name__, row.pk] = {field.name: _value(row, field) for field in fields}
    return found


def _value(row: models.Model, field: models.Field) -> str:
    value = getattr(row, field.name)
    if isinstance(field, models.ForeignKey):
        return f"{field.related_model.__name__} {getattr(value, 'username', '')}" if value else ""
    if isinstance(value, datetime):
        return "then"
    if isinstance(value, bytes):
        return document.to_json(store.load(row.plan, row.number).plan) if isinstance(row, Revision) else "a file"
    return json.dumps(value, ensure_ascii=False, sort_keys=True, default=str)


def _changes(before: dict, after: dict) -> Iterator[str]:
    """Row by row, what another one is."""
    touched = {name for name, _ in after}
    gone = Counter(name for name, pk in before.keys() - after.keys() if name in touched)
    yield from (f"- {n} {name}" for name, n in sorted(gone.items()))
    for (name, pk), now in sorted(after.items(), key=lambda kept: (kept[0][0], *kept[1].values())):
        was = before.get((name, pk), {})
        for field, value in now.items():
            if value != was.get(field, ""):
                yield from (f"{'~' if was else '+'} {name}.{field}: {line}" for line in _other(value, before))


def _other(value: str, before: dict) -> list[str]:
    """A value; of a document what is new and gone in it."""
    if not value.startswith("{\n"):
        return [value]
    newest = max((row for (name, _), row in before.items() if name == "Revision"), key=lambda row: int(row["number"]))
    found = difflib.unified_diff(newest["document"].splitlines(), value.splitlines(), lineterm="", n=0)
    return [" ".join(line.split()) for line in found if line[:1] in "+-" and line[:3] not in ("+++", "---")]


def sent(name: str) -> dict[str, list[str]]:
    """A part's forms, and what came of each."""
    return dict(Part(name, shop_of("winter" if name in LONG else "fit_out")).sent())
