"""Which runs are a way from one place to another, and what other ways there are."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice

import networkx as nx

from .model import Plan


def why_not(plan: Plan, runs: Sequence[str], a: str, b: str) -> str:
    """Why these runs are no way from one place to another, in a sentence; "" when they are."""
    known, at = {r.id: r for r in plan.runs}, a
    if len(set(runs)) < len(runs):
        return "A way goes through a run once."
    for run_id in runs:
        run = known.get(run_id)
        if run is None:
            return f"There is no run {run_id} in this plan."
        if not run.used:
            return f"{run_id} is not to be used."
        if at not in (run.a, run.b):
            return f"{run_id} does not begin at {plan.place(at).name}, where the way has come to."
        at = run.b if at == run.a else run.a
    return "" if at == b else f"That way ends at {plan.place(at).name}, not at {plan.place(b).name}."


@dataclass(frozen=True)
class Way:
    """A way between two places: its runs in turn, and their lengths together."""

    runs: tuple[str, ...]
    length_m: float


def ways_between(plan: Plan, a: str, b: str, most: int = 8) -> tuple[Way, ...]:
    """The ways from one place to another over the runs that are to be used, shortest first; none where they do not
    reach, or where the two are one."""
    graph = nx.Graph()  # with the runs as nodes of their own: two may join the same places
    for run in plan.runs:
        if run.used:
            graph.add_edge(run.a, (run.id,), weight=run.length_m / 2)
            graph.add_edge((run.id,), run.b, weight=run.length_m / 2)
    if a == b or a not in graph or b not in graph or not nx.has_path(graph, a, b):
        return ()
    found = nx.shortest_simple_paths(graph, a, b, weight="weight")
    length = {run.id: run.length_m for run in plan.runs}
    every = (tuple(node[0] for node in path if isinstance(node, tuple)) for path in islice(found, most))
    return tuple(Way(runs, sum(length[run] for run in runs)) for runs in every)
