"""Plan to canonical JSON and back. Reading checks format, version, limits, types and references, in that order."""

import hashlib
import json
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from ..doc.rules import HouseRules
from ..errors import PlanError, refuse
from ..materials.fuses import KINDS
from .integrity import faults
from .model import FORMAT, VERSION, Plan
from .outside import read_json
from .speech import validation_faults

MAX_BYTES = 8 * 1024 * 1024
MAX_DEPTH = 12
MAX_ELEMENTS = 3000


# One small function per older version: takes a document of version n, gives one of version n + 1.
def _from_1(data: dict[str, Any]) -> dict[str, Any]:
    """Version 2 has drop limits by kind of load: what was "other" also held for heating, electronics and motors."""
    rules = dict(data["rules"]) if isinstance(data.get("rules"), dict) else {}
    for kind in ("heating", "electronics", "motor"):
        if "drop_other_frac" in rules:
            rules.setdefault(f"drop_{kind}_frac", rules["drop_other_frac"])
    return {**data, "version": 2, "rules": rules}


def _from_2(data: dict[str, Any]) -> dict[str, Any]:
    """Version 3 has the survey: connectors, readings, continuity tables, parts taken off. Older plans have none."""
    return {**data, "version": 3}


def _from_3(data: dict[str, Any]) -> dict[str, Any]:
    """Version 4 has plugs found without a fuse, inrush that decays, and the volts a relay holds at. Older plans say
    none of it."""
    return {**data, "version": 4}


def _from_4(data: dict[str, Any]) -> dict[str, Any]:
    """Version 5 has a standing for each figure, the machine's size class, and figures as measured. Older plans have
    none: what they say was stated."""
    return {**data, "version": 5}


def _from_5(data: dict[str, Any]) -> dict[str, Any]:
    """Version 6 has switches with positions, flashers, shared leads, connectors, data lines, stages and dimensions.
    Older plans have none of it; what lived, lived always, with the key or with the engine, and still does."""
    return {**data, "version": 6}


def _from_6(data: dict[str, Any]) -> dict[str, Any]:
    """Version 7 has what lies beside a run, its covering, slack and bore, supplied leads, a second battery and brake
    cut-offs. Older plans have none of it: their wires may take every run, as they did."""
    return {**data, "version": 7}


def _from_7(data: dict[str, Any]) -> dict[str, Any]:
    """Version 8 has points and fixings of runs, ways that wires are told, free depth, removed grams. Older plans have
    none of it."""
    return {**data, "version": 8}


def _from_8(data: dict[str, Any]) -> dict[str, Any]:
    """Version 9 has how large a moulded plug is. Older plans do not say it."""
    return {**data, "version": 9}


def _from_9(data: dict[str, Any]) -> dict[str, Any]:
    """Version 10 has the voltage class of wires and the DC that contacts break. Older plans say neither."""
    return {**data, "version": 10}


def _from_10(data: dict[str, Any]) -> dict[str, Any]:
    """Version 11 has where wires and fuses are from, and accessories that are plugged in. In older plans all wires are
    new, or an accessory's own as far as its lead goes."""
    return {**data, "version": 11}


def _from_11(data: dict[str, Any]) -> dict[str, Any]:
    """Version 12 has what the job is, accessories whose bare lead gets the plug that fits, and kinds of fuses. Older
    plans are for something that is fitted, and of blade fuses; none such is for 125 V: they have cartridges there."""
    return {**data, "version": 12, "parts": [_of_a_kind(part) for part in data["parts"]]
            if isinstance(data.get("parts"), list) else data.get("parts", [])}


def _from_12(data: dict[str, Any]) -> dict[str, Any]:
    """Version 13 has several accessories that one is never on with. Older plans name one, or none."""
    return {**data, "version": 13, "parts": [_of_several(part) for part in data["parts"]]
            if isinstance(data.get("parts"), list) else data.get("parts", [])}


def _of_several(part: Any) -> Any:
    """A part of version 12 as one of version 13."""
    if not isinstance(part, dict) or isinstance(other := part.get("never_with", ()), list | tuple):
        return part
    return {**part, "never_with": [] if other is None else [other]}


def _of_a_kind(part: Any) -> Any:
    """A part of version 11 as one of version 12: a fuse for 125 V is a cartridge, whose rating is chosen anew where it
    comes in no such; a bypassed protection that nobody put their name to says that."""
    if isinstance(part, dict) and part.get("bms") == "bypassed" and not part.get("bypass_by"):
        return {**part, "bypass_by": "not recorded"}
    if not isinstance(part, dict) or part.get("kind") != "fuse" or part.get("volts_v") != 125:
        return part
    rating = part.get("rating_a")
    return {**part, "pattern": "cartridge", "volts_v": 1000,
            "rating_a": rating if rating in KINDS["cartridge"].by_rating else None}


UPGRADES: tuple[Callable[[dict[str, Any]], dict[str, Any]], ...] = (
    _from_1, _from_2, _from_3, _from_4, _from_5, _from_6, _from_7, _from_8, _from_9, _from_10,
    _from_11, _from_12)
assert len(UPGRADES) == VERSION - 1, "an older version that nothing brings up to the next"


def to_json(plan: Plan) -> str:
    """Canonical text: keys sorted, two spaces, one line end at the end. Same plan, same bytes."""
    return json.dumps(plan.model_dump(mode="json"), sort_keys=True, indent=1, ensure_ascii=False) + "\n"


def to_bytes(plan: Plan) -> bytes:
    """The same without white space, for storage."""
    return json.dumps(plan.model_dump(mode="json"), sort_keys=True, separators=(",", ":"), ensure_ascii=False).encode()


def content_hash(plan: Plan) -> str:
    """SHA-256 of the canonical document."""
    return hashlib.sha256(to_bytes(plan)).hexdigest()


def from_json(text: str | bytes) -> Plan:
    """Read a document; PlanError with one sentence per fault when it cannot be."""
    return from_data(read_json(text, thing="plan", most_bytes=MAX_BYTES, most_depth=MAX_DEPTH))


def house_rules(data: dict[str, Any]) -> tuple[HouseRules, tuple[str, ...]]:
    """House rules as a workshop keeps them. What this Loadstar cannot take of them has its usual value, and a sentence
    here says so."""
    try:
        return HouseRules.model_validate(data), ()
    except ValidationError as error:
        refused = {str(one["loc"][0]) for one in error.errors(include_url=False)}
        told = tuple(f"{fault.sentence} The usual value stands in its place." for fault in validation_faults(error, ""))
    return HouseRules.model_validate({field: value for field, value in data.items() if field not in refused}), told


def from_data(data: object) -> Plan:
    """A plan from parsed JSON."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise refuse("", "format", f'This is no Loadstar plan: its "format" is not "{FORMAT}".')
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise refuse("", "version", "The plan's version is not a whole number from 1 up.")
    if version > VERSION:
        raise refuse("", "version", f"The plan is of version {version}; this Loadstar reads up to version {VERSION}: "
                                    "bring Loadstar up to date.")
    for field in ("parts", "wires", "joins", "places", "runs", "plugs", "readings", "tables", "removed"):
        if isinstance(data.get(field), list) and len(data[field]) > MAX_ELEMENTS:
            raise refuse("", field,
                         f"The plan has {len(data[field]):,} {field}; Loadstar takes up to {MAX_ELEMENTS:,}.")
    while version < VERSION:
        data = UPGRADES[version - 1](data)
        version += 1
    try:
        plan = Plan.model_validate_json(json.dumps(data))
    except ValidationError as error:
        raise PlanError(*validation_faults(error, "")) from error
    found = faults(plan)
    if found:
        raise PlanError(*found)
    return plan
