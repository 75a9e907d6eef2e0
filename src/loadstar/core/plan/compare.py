"""What differs between two revisions of a plan, by element; and taking such a difference back."""

from dataclasses import dataclass
from typing import Any

from .document import from_data
from .errors import refuse
from .model import Plan

_LISTS = ("places", "runs", "parts", "wires", "plugs", "readings", "tables", "removed")
_WHOLE = ("name", "machine", "rules")

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
    for field in _LISTS:
        flat |= {f"{one['id']}": {**one, "_list": field} for one in data[field]}
    flat |= {f"{j['a']}~{j['b']}": {**j, "_list": "joins"} for j in data["joins"]}
    return flat


def changes(before: Plan, after: Plan) -> list[Change]:
    """What was added, changed or taken out, in a stable order."""
    a, b = elements(before), elements(after)
    found = []
    for key in [*a, *(k for k in b if k not in a)]:
        if a.get(key) != b.get(key):
            how = "added" if key not in a else "taken out" if key not in b else "changed"
            one = b.get(key, a.get(key))
            name = one.get("name", key) if isinstance(one, dict) else key
            found.append(Change(key, how, str(name)))
    return found


def take_back(before: Plan, after: Plan, head: Plan) -> Plan:
    """`head` with the step from `before` to `after` undone.

    Raises PlanError when an element of that step has been touched since. Counters only ever rise.
    """
    a, b, h = elements(before), elements(after), elements(head)
    touched = [key for key in {**a, **b} if a.get(key) != b.get(key)]
    for key in touched:
        if h.get(key) != b.get(key):
            one = b.get(key) or a.get(key)
            name = one.get("name", key) if isinstance(one, dict) else key
            raise refuse(key, "undo", f"{name} has been changed again since then, so this step cannot be taken back "
                                      "by itself.")
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
    for field in (*_LISTS, "joins"):
        mine = [(key, one) for key, one in flat.items() if isinstance(one, dict) and one.get("_list") == field]
        mine.sort(key=lambda pair: rank.get(pair[0], len(rank)))
        data[field] = [{k: v for k, v in one.items() if k != "_list"} for _, one in mine]
    return from_data(data)
