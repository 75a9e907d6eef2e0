"""The solver against a circuit simulator: given cases to 1 uV, and plans sent through ngspice in this run."""

import shutil
import subprocess

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.physics.network import Compiled, Load, Network, NetworkError, Resistor, Source, impedances, solve
from loadstar.demo import fit_out
from reference.vectors import calls, case

KIND = {"P": "power", "I": "current"}


def network_of(given: dict) -> Network:
    """A case file's elements as a network."""
    resistors, sources, loads = [], [], []
    for e in given["elements"]:
        ends = (e["name"], e["n1"], e["n2"])
        if e["type"] == "V":
            sources.append(Source(*ends, e["value"], e["r"]))
        elif e["type"] == "R" and e.get("kind") != "load":
            resistors.append(Resistor(*ends, e["value"]))
        elif e["type"] == "R":
            loads.append(Load(*ends, "resistor", e["value"]))
        else:
            loads.append(Load(*ends, KIND[e["type"]], e["value"], e.get("vmin", 0.0)))
    return Network("0", tuple(resistors), tuple(sources), tuple(loads))


@pytest.mark.parametrize("name", ["case1", "case2"])
def test_given_cases_to_a_microvolt(name):
    given = case(name)
    solution = solve(network_of(given))
    for node, volts in given["ngspice_V"].items():
        assert solution.potential_v[node] == pytest.approx(volts, abs=1e-6)
    for element, amps in given["element_I"].items():
        assert abs(solution.current_a[element]) == pytest.approx(abs(amps), abs=1e-6)
    assert solution.residual_a < 1e-9


@pytest.mark.parametrize(("watts", "volts", "collapsed"), [
    (30, 8.449490, False), (35.9, 6.316228, False), (40, 5.684211, True), (60, 4.5, True)])
def test_voltage_collapse(watts, volts, collapsed):
    """12 V behind 1 ohm carries at most 36 W: beyond it the floor solution, named."""
    network = Network("0", (Resistor("r", "a", "b", 1.0),), (Source("s", "a", "0", 12.0),),
                      (Load("l", "b", "0", "power", watts, 6.0),))
    solution = solve(network)
    assert solution.potential_v["b"] == pytest.approx(volts, abs=1e-5)
    assert solution.on_floor == (("l",) if collapsed else ())


@pytest.mark.parametrize(("args", "result"), calls("constant_power_v"))
def test_constant_power_closed_form(args, result):
    emf, ohm, watts = args
    network = Network("0", (), (Source("s", "a", "0", emf, ohm),), (Load("l", "a", "0", "power", watts, 6.0),))
    assert solve(network).potential_v["a"] == pytest.approx(result, abs=1e-8)


def netlist(plan, state: str) -> tuple[str, dict[str, float]]:
    """A solved state of a plan as a netlist, written here from the results' own elements, and its voltages."""
    # The analysis keeps solutions, not networks: build the same state's network again through its own feed.
    from loadstar.core.sizing.choose import size
    from loadstar.core.wiring.circuit import Topology
    from loadstar.core.wiring.states import StateSolver, Thermal
    topology = Topology(plan)
    thermal = Thermal(topology)
    sized = size(topology, thermal)
    solver = StateSolver(topology, thermal)
    solved = solver.solve(sized.choices)[state].solution
    circuit = next(c for c in solver.feeds[state]._circuits.values() if c.load_v is solved.load_v)
    network = circuit.compiled.network
    nodes = {n: "0" if n == network.reference else f"n{i}" for i, n in enumerate(circuit.compiled.nodes)}
    ohms = {r.name: abs((solved.potential_v[r.a] - solved.potential_v[r.b]) / solved.current_a[r.name])
            if abs(solved.current_a[r.name]) > 1e-12 else r.ohm for r in network.resistors}
    lines = ["* a state of a plan", ".options reltol=1e-12 abstol=1e-15 vntol=1e-13 gmin=1e-20 itl1=500"]
    for i, r in enumerate(network.resistors):
        lines.append(f"R{i} {nodes[r.a]} {nodes[r.b]} {ohms[r.name]:.15g}")
    for i, s in enumerate(network.sources):
        lines += [f"V{i} e{i} {nodes[s.minus]} dc {s.emf_v:.15g}", f"RS{i} e{i} {nodes[s.plus]} {max(s.ohm, 1e-9):.15g}"]
    for i, e in enumerate(network.loads):
        a, b = nodes[e.plus], nodes[e.minus]
        value = circuit.compiled.value[i]
        if e.kind == "resistor":
            lines.append(f"RL{i} {a} {b} {value:.15g}")
        elif e.kind == "power":
            lines.append(f"BL{i} {a} {b} I = V({a},{b}) >= {e.floor_v} ? {value:.15g}/V({a},{b}) : "
                         f"{value / e.floor_v**2:.15g}*V({a},{b})")
        else:
            lines.append(f"BL{i} {a} {b} I = V({a},{b}) >= {e.floor_v} ? {value:.15g} : "
                         f"{value / e.floor_v:.15g}*V({a},{b})")
    lines += [".op", ".control", "set numdgt=15", "run"]
    lines += [f"print v({n})" for n in nodes.values() if n != "0"] + ["quit", ".endc", ".end"]
    back = {n: name for name, n in nodes.items()}
    return "\n".join(lines), {n: solved.potential_v[name] for n, name in back.items() if n != "0"}


@pytest.mark.skipif(not shutil.which("ngspice"), reason="ngspice is installed by ./loadstar test")
@pytest.mark.parametrize("state", ["key_on", "cranking", "idle", "cruise"])
def test_the_demonstration_plan_through_ngspice(state, tmp_path):
    text, volts = netlist(fit_out()[0], state)
    path = tmp_path / "state.cir"
    path.write_text(text)
    done = subprocess.run(["ngspice", "-b", str(path)], capture_output=True, text=True, check=True,
                          stdin=subprocess.DEVNULL)
    assert "singular" not in done.stderr.lower()
    said = {line.split("=")[0].strip()[2:-1]: float(line.split("=")[1]) for line in done.stdout.splitlines()
            if line.startswith("v(")}
    assert set(said) == set(volts)
    for node, expected in volts.items():
        assert said[node] == pytest.approx(expected, abs=2e-6)


def test_currents_balance_at_every_node():
    b = Bench()
    for n in range(5):
        b.lamp(10 + 5 * n)
    for result in analyse(b.plan).states.values():
        assert result.solution is not None
        assert result.solution.residual_a < 1e-9


def test_an_island_is_named_and_the_rest_solved():
    network = Network("0", (Resistor("r", "a", "0", 1.0), Resistor("far", "x", "y", 1.0)),
                      (Source("s", "a", "0", 12.0, 0.1),))
    solution = solve(network)
    assert solution.islands == (("x", "y"),)
    assert solution.potential_v["a"] == pytest.approx(12 / 1.1)


def test_a_loop_of_ideal_sources_is_refused():
    network = Network("0", (), (Source("one", "a", "0", 12.0), Source("two", "a", "0", 13.0)))
    with pytest.raises(NetworkError) as error:
        solve(network)
    assert error.value.elements == ("two",)


def test_a_resistance_of_zero_is_refused():
    with pytest.raises(NetworkError) as error:
        Compiled(Network("0", (Resistor("bad", "a", "0", 0.0),)))
    assert error.value.elements == ("bad",)


def test_thevenin_resistance_by_hand():
    # 12 V behind 0.1 ohm, 0.4 ohm of wire: a short at its end draws 24 A.
    network = Network("0", (Resistor("w", "a", "b", 0.4),), (Source("s", "a", "0", 12.0, 0.1),))
    z = impedances(network, ("b",))
    assert z.node_ohm[z.nodes["b"], 0] == pytest.approx(0.5)
    assert abs(z.branch[z.resistors["w"], 0]) == pytest.approx(1.0)
