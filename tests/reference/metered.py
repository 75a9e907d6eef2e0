"""What a meter shows in a circuit simulator: the exported netlist with the meter in it."""

from loadstar.core.analysis import Analysis
from loadstar.core.prove.predict import Predictor
from loadstar.core.wiring.results import StateResult
from loadstar.exchange.netlist import netlist, node_names
from reference.simulator import run_ngspice


def simulated(a: Analysis, row: StateResult, red: str, black: str, predictor: Predictor) -> float:
    """The same pair in ngspice: the exported netlist with 10 MΩ between the two nodes. What ties an island to 0 V there
    is all but taken away (1e13 Ω) for the two islands that the meter joins: no real machine has it."""
    turn = a.volts.turns(row.state).index(row)
    names = node_names(a, row.state, turn)
    system, island = row.system, predictor._island(row)
    nodes = [a.topology.node(t) for t in (red, black)]
    mine = {int(island[system.index[n]]) for n in nodes}
    tied = {names[n] for n in names if int(island[system.index[n]]) in mine}
    lines = [line[:-1] + "1e13" if line.startswith("RG") and line.split()[1] in tied else line
             for line in netlist(a, row.state, turn).split("\n")]
    r, b = (names[n] for n in nodes)
    said = run_ngspice("\n".join(lines).replace("\n.op\n", f"\nRMETER {r} {b} 10meg\n.op\n"))
    return said.get(r, 0.0) - said.get(b, 0.0)
