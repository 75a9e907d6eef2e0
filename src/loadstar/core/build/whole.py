"""Everything that a plan's harness takes, put together."""

from ..analysis import Analysis
from .bench import covers, made_wires
from .fit import fit, prepare
from .maker import Maker
from .operations import Work


def work(a: Analysis) -> Work:
    """Every operation of a plan; none before it has been sized."""
    if a.ends is None or a.loom is None or not a.plan.wires:
        return Work({}, {}, ())
    m = Maker(a)
    ready = prepare(m)
    closed = made_wires(m, ready)
    fit(m, ready, closed, covers(m, closed))
    return m.grouped()
