"""The working behind a figure: formula, inputs with units and sources, emitted by the calculation itself.

A formula is plain arithmetic over its inputs' symbols, so that it can be evaluated again (a test does, for every
figure of the demonstration plans).
"""

import ast
import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ..doc.types import Marked
from ..errors import refuse

STATED = "entered in the plan"
SOLVED = "solved network of this state"
HOUSE = "house rule of this plan"
FOUND = "found from the two ratings"
READ = "reading as found"
KNOWN_AS = {"typical": "typical, not measured yet", "believed": "not confirmed here yet",
            "found": "measured on this machine", "stated": STATED}


def source_of(owner: Marked, *fields: str) -> str:
    """Where a figure comes from, by how its fields are known: the least sure of them counts."""
    standings = {owner.standing_of(field) for field in fields}
    return KNOWN_AS[next(known for known in ("typical", "believed", "stated", "found") if known in standings)]


@dataclass(frozen=True)
class Input:
    """One input of a formula."""

    symbol: str
    value: float
    unit: str
    what: str
    source: str = ""


@dataclass(frozen=True)
class Working:
    """A figure with its formula. `note` says what the figure does not cover."""

    title: str
    symbol: str
    value: float
    unit: str
    formula: str
    inputs: tuple[Input, ...]
    note: str = ""


_FUNCTIONS: dict[str, Callable[..., float]] = {
    "sqrt": math.sqrt, "ln": math.log, "exp": math.exp, "cos": math.cos, "sin": math.sin, "min": min, "max": max,
    "abs": abs,
}
_OPERATORS: dict[type, Callable[[float, float], float]] = {
    ast.Add: lambda a, b: a + b, ast.Sub: lambda a, b: a - b, ast.Mult: lambda a, b: a * b,
    ast.Div: lambda a, b: a / b, ast.Pow: lambda a, b: a**b,
}


def evaluate(formula: str, inputs: Iterable[Input]) -> float:
    """The formula's value. Only numbers, the inputs' symbols, pi, + - * / ** and a few functions are understood."""
    names = {i.symbol: i.value for i in inputs} | {"pi": math.pi}

    def value(node: ast.expr) -> float:
        match node:
            case ast.Constant(value=int() | float() as number):
                return float(number)
            case ast.Name(id=name) if name in names:
                return names[name]
            case ast.BinOp(left=left, op=operator, right=right) if type(operator) in _OPERATORS:
                return _OPERATORS[type(operator)](value(left), value(right))
            case ast.UnaryOp(op=ast.USub(), operand=operand):
                return -value(operand)
            case ast.Call(func=ast.Name(id=name), args=arguments, keywords=[]) if name in _FUNCTIONS:
                return _FUNCTIONS[name](*(value(a) for a in arguments))
        raise refuse("", "formula", f"The formula has something that is no arithmetic: {ast.unparse(node)}.")

    return value(ast.parse(formula, mode="eval").body)


def summed(symbol: str, terms: Iterable[tuple[float, str]], unit: str, source: str = "") -> tuple[str, list[Input]]:
    """A formula that adds numbered terms ("P_1 + P_2"), and its inputs."""
    inputs = [Input(f"{symbol}_{n}", value, unit, what, source) for n, (value, what) in enumerate(terms, 1)]
    return " + ".join(i.symbol for i in inputs) or "0", inputs
