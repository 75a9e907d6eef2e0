"""JSON that comes from outside, read within limits of size, depth and digits, or refused in words."""

import json

from ..errors import refuse

MAX_DIGITS = 40  # of a whole number: more than any figure has, and less than what takes time to turn into one


def read_json(text: str | bytes, *, thing: str, most_bytes: int, most_depth: int) -> object:
    """Plain data from JSON; `thing` is what it ought to be, in words ("plan"). PlanError with one sentence when it is
    none."""
    if len(text) > most_bytes:
        raise refuse("", "file",
                     f"This {thing} has {len(text) / 1e6:.3g} MB; at most {most_bytes // 1024**2} MB are read.")
    try:
        data: object = json.loads(text, parse_constant=_no_constant, parse_int=_whole)
    except UnicodeDecodeError as error:
        raise refuse("", "file", f"This is not text in UTF-8, so it is no {thing}.") from error
    except json.JSONDecodeError as error:
        raise refuse("", "file", f"This {thing} is not whole JSON: it breaks off or goes wrong at line {error.lineno}, "
                                 f"column {error.colno}.") from error
    except RecursionError as error:
        raise refuse("", "file", f"This is nested far too deeply to be a {thing}.") from error
    if _too_deep(data, most_depth):
        raise refuse("", "file", f"This is nested too deeply to be a {thing}.")
    if b"\\ud" in (text if isinstance(text, bytes) else text.encode(errors="replace")).lower() and _has_halves(data):
        raise refuse("", "file", f"Half a character stands in it (a lone \\ud...), so it is no {thing}.")
    return data


def _has_halves(data: object) -> bool:
    """Whether a text in it cannot be written as UTF-8."""
    try:
        json.dumps(data, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return True
    return False


def _no_constant(name: str) -> float:
    raise refuse("", "file", f"{name} stands in it, which is not a number that can be kept.")


def _whole(digits: str) -> int:
    if len(digits) > MAX_DIGITS:
        raise refuse("", "file",
                     f"A number of {len(digits):,} digits stands in it; whole numbers have at most {MAX_DIGITS}.")
    return int(digits)


def _too_deep(data: object, left: int) -> bool:
    if left < 0:
        return True
    inner = data.values() if isinstance(data, dict) else data if isinstance(data, list) else ()
    return any(_too_deep(one, left - 1) for one in inner)
