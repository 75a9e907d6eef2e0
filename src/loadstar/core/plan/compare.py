"""What differs between two revisions of a plan, by element; and taking such a difference back."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..errors import refuse
from .document import from_data
from .model import Plan
from .speech import words_for

_LISTS = ("places", "runs", "parts", "wires", "plugs", "readings", "tables", "removed")
_WHOLE = ("name", "job")
_BY_FIELD = ("machine", "rules")  # each of their fields is an element of its own: two people may change different ones

Elements = dict[str, Any]


@dataclass(frozen=True)
class Change:
    """One element that differs: its key ("L3", "machine"), how, and a word or two for people."""

    key: str
    how: str
    name: str


def elements(plan: Plan) -> Elements:
    """A plan as a flat map from element key to plain data."""
    data = plan.model_dump(mode="json")
    flat: Elements = {key: data[key] for key in _WHOLE}
    for whole in _BY_FIELD:
        flat |= {f"{whole}.{field}": value for field, value in data[whole].items()}
    for field in _LISTS:
        flat |= {f"{one['id']}": {**one, "_list": field} for one in data[field]}
    flat |= {f"{j['a']}~{j['b']}": {**j, "_list": "joins"} for j in data["joins"]}
    return flat


def _name(key: str, one: Any) -> str:
    """An element in words: its own name, or which field of the machine or of the house rules."""
    whole, _, field = key.partition(".")
    if whole in _BY_FIELD and field:
        return f"{'the machine' if whole == 'machine' else 'house rule'}: {words_for(field)}"
    if isinstance(one, dict) and "name" not in one and {"a", "b"} <= one.keys():
        return f"{one['a']} touching {one['b']}" if one["_list"] == "joins" else f"from {one['a']} to {one['b']}"
    return str(one.get("name", key)) if isinstance(one, dict) else key


def changes(before: Plan, after: Plan) -> list[Change]:
    """What was added, changed or taken out, in a stable order."""
    a, b = elements(before), elements(after)
    found = []
    for key in [*a, *(k for k in b if k not in a)]:
        if a.get(key) != b.get(key):
            how = "added" if key not in a else "taken out" if key not in b else "changed"
            found.append(Change(key, how, _name(key, b.get(key, a.get(key)))))
    return found


@dataclass(frozen=True)
class FieldDiffers:
    """A field of an element before and after, as words."""

    words: str
    before: str
    after: str


@dataclass(frozen=True)
class Difference(Change):
    """An element that differs, with which of its fields do."""

    fields: tuple[FieldDiffers, ...] = ()


def differences(before: Plan, after: Plan) -> list[Difference]:
    """The same as `changes`, field by field."""
    a, b = elements(before), elements(after)
    return [Difference(c.key, c.how, c.name, tuple(_fields(c.key, a.get(c.key), b.get(c.key))))
            for c in changes(before, after)]


def _fields(key: str, old: Any, new: Any) -> Iterator[FieldDiffers]:
    if not isinstance(old, dict) or not isinstance(new, dict):
        if old is not None and new is not None:
            yield FieldDiffers("now" if key in _WHOLE else words_for(key.rpartition(".")[2]), _told(old), _told(new))
        return
    for field in (f for f in new if f != "_list" and old.get(f) != new[f]):
        yield FieldDiffers(words_for(field), _told(old.get(field)), _told(new[field]))


def _told(value: Any) -> str:
    if value is None or value == "":
        return "not given"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ", ".join(_told(one) for one in value) or "none"
    if isinstance(value, dict):
        return ", ".join(f"{words_for(k)} {_told(v)}" for k, v in value.items())
    return f"{value:g}" if isinstance(value, float) else str(value)


def take_back(before: Plan, after: Plan, head: Plan) -> Plan:
    """`head` with the step from `before` to `after` undone.

    Raises PlanError when an element of that step has been touched since. Counters only ever rise.
    """
    a, b, h = elements(before), elements(after), elements(head)
    touched = [key for key in {**a, **b} if a.get(key) != b.get(key)]
    for key in touched:
        if h.get(key) != b.get(key):
            raise refuse(key, "undo",
                f"{_name(key, b.get(key) or a.get(key))} has been changed again since then, so this step cannot be "
                "taken back by itself.")
    result = {**h}
    for key in touched:
        if key in a:
            result[key] = a[key]
        else:
            result.pop(key, None)
    return _assembled(result, head, list(a))


def _assembled(flat: Elements, head: Plan, order: list[str]) -> Plan:
    data = head.model_dump(mode="json")
    rank = {key: i for i, key in enumerate(order)}
    for key in _WHOLE:
        data[key] = flat[key]
    for whole in _BY_FIELD:
        data[whole] = {field: flat[f"{whole}.{field}"] for field in data[whole] if f"{whole}.{field}" in flat}
    for field in (*_LISTS, "joins"):
        mine = [(key, one) for key, one in flat.items() if isinstance(one, dict) and one.get("_list") == field]
        mine.sort(key=lambda pair: rank.get(pair[0], len(rank)))
        data[field] = [{k: v for k, v in one.items() if k != "_list"} for _, one in mine]
    return from_data(data)
