"""Turns the validator's errors into sentences that say what would be accepted."""

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from ..errors import Fault

UNITS = (("_mv_per_rpm", "mV per rpm"), ("_mohm_per_rpm", "mΩ per rpm"),
         ("_mm2", "mm²"), ("_mm", "mm"), ("_mohm", "mΩ"), ("_ohm", "Ω"), ("_ms", "ms"), ("_ma", "mA"), ("_ah", "Ah"),
         ("_rpm", "rpm"), ("_frac", "(a share of 1)"), ("_m", "m"), ("_v", "V"), ("_a", "A"), ("_w", "W"),
         ("_c", "°C"), ("_k", "K"), ("_h", "h"), ("_days", "days"), ("_s", "s"), ("_deg", "°"))
WORDS = {
    "amount": "watts or amps", "at_v": "voltage the amount is stated at", "length_m": "length",
    "window_low_v": "lowest accepted voltage", "window_high_v": "highest accepted voltage",
    "minutes_per_hour": "minutes per hour", "ambient_c": "temperature of the surroundings", "area_mm2": "cross-section",
    "internal_mohm": "internal resistance", "capacity_ah": "capacity", "charge_frac": "charge",
}
FIELD_UNITS = {"amount": "W or A", "minutes_per_hour": "minutes", "at_v": "V"}


def unit_of(field: str) -> str:
    """The unit that a field's name carries, or nothing."""
    if field in FIELD_UNITS:
        return FIELD_UNITS[field]
    return next((unit for ending, unit in UNITS if field.endswith(ending)), "")


def words_for(field: str) -> str:
    """A field's name in words, without its unit."""
    if field in WORDS:
        return WORDS[field]
    ending = next((e for e, _ in UNITS if field.endswith(e)), "")
    return field[: len(field) - len(ending)].replace("_", " ") if ending else field.replace("_", " ")


def validation_faults(error: ValidationError, element: str) -> list[Fault]:
    """One Fault per error, at most 20: a broken document must not answer with a novel."""
    found = []
    for one in error.errors(include_url=False, include_input=True)[:20]:
        path = [str(step) for step in one["loc"]]
        field = next((step for step in reversed(path) if not _is_number(step) and "[" not in step), "")
        where = element or _element_at(path)
        found.append(Fault(where, field, _sentence(one, field, where)))
    return found


def _is_number(step: str) -> bool:
    """Whether a step of a path is a place in a list; a key that somebody wrote may hold any sign, also "²"."""
    return step.isascii() and step.isdigit()


def _element_at(path: list[str]) -> str:
    if len(path) >= 2 and _is_number(path[1]):
        return f"{path[0].rstrip('s')} number {int(path[1]) + 1}"
    return path[0] if len(path) > 1 else ""


def _sentence(one: ErrorDetails, field: str, where: str) -> str:
    context = dict(one.get("ctx") or {})
    unit, words = unit_of(field), words_for(field)
    kind = str(one["type"])
    shown = _shown(one.get("input"))
    head = words[:1].upper() + words[1:] if words else "This"
    given = f" (given: {shown})" if shown else ""
    limits = [f"{text} {context[key]:g} {unit}".rstrip() for key, text in (
        ("ge", "at least"), ("gt", "more than"), ("le", "at most"), ("lt", "less than")) if key in context]
    if limits:
        return f"{head} must be {' and '.join(limits)}{given}."
    if kind == "missing":
        return f"{head} is missing."
    if kind == "extra_forbidden":
        return f"{head} is not a field of this element."
    if kind in ("finite_number", "float_parsing", "float_type", "int_parsing", "int_type", "int_from_float"):
        return f"{head} must be a number{f' of {unit}' if unit else ''}{given}."
    if kind == "literal_error":
        return f"{head} must be one of {context.get('expected')}{given}."
    if kind == "value_error":
        return f"{head} {context.get('error')}{given}."
    if kind == "string_too_long":
        return f"{head} may have at most {context.get('max_length')} characters."
    if kind == "string_too_short":
        return f"{head} may not be empty."
    if kind == "too_short":
        return f"{head} must have at least {context.get('min_length')} entries."
    if kind == "too_long":
        return f"{head} may have at most {context.get('max_length')} entries."
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        return f"The kind of {where or 'this element'} is not one that Loadstar knows{given}."
    return f"{head} is not understood: {str(one['msg'])[:1].lower() + str(one['msg'])[1:]}{given}."


def _shown(value: object) -> str:
    text = str(value) if isinstance(value, str | int | float) and not isinstance(value, bool) else ""
    return text if len(text) <= 40 else text[:37] + "..."
