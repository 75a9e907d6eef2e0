"""The solver against a circuit simulator: given cases to 1 uV, and the demonstration plan sent through ngspice."""

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.physics.elements import Converter, Diode, Load, Network, NetworkError, Resistor, Source
from loadstar.core.physics.joined import islands
from loadstar.core.physics.network import System, solve
from loadstar.demo import fit_out
from reference.simulator import assert_agrees, needs_ngspice
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


@needs_ngspice
@pytest.mark.parametrize("state", ["key_on", "cranking", "idle", "cruise"])
def test_the_demonstration_plan_through_ngspice(state):
    assert_agrees(analyse(fit_out()[0]), state)


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
    assert islands(solution) == (("x", "y"),)
    assert solution.potential_v["a"] == pytest.approx(12 / 1.1)


def test_a_loop_of_ideal_sources_is_refused():
    network = Network("0", (), (Source("one", "a", "0", 12.0), Source("two", "a", "0", 13.0)))
    with pytest.raises(NetworkError) as error:
        solve(network)
    assert error.value.elements == ("two",)


def test_a_resistance_of_zero_is_refused():
    with pytest.raises(NetworkError) as error:
        System(Network("0", (Resistor("bad", "a", "0", 0.0),)))
    assert error.value.elements == ("bad",)


def test_thevenin_resistance_by_hand():
    # 12 V behind 0.1 ohm, 0.4 ohm of wire: a short at its end draws 24 A.
    system = System(Network("0", (Resistor("w", "a", "b", 0.4),), (Source("s", "a", "0", 12.0, 0.1),)))
    b, zero = system.index["b"], system.index["0"]
    node, open_v = system.impedances(system.conditions(), (b, zero))
    assert node[b, 0] - node[zero, 0] - (node[b, 1] - node[zero, 1]) == pytest.approx(0.5)
    a, w = system.index["a"], node[:, 0] - node[:, 1]
    assert abs(w[a] - w[b]) / 0.4 == pytest.approx(1.0)  # all of it flows through the wire
    assert open_v[b] - open_v[zero] == pytest.approx(12.0)


def test_a_converter_draws_its_output_over_efficiency_by_hand():
    # 60 W out at 88 % from 54.6 V: 1.249 A (hand calculation; E of physics.md's method).
    network = Network("0", (), (Source("pack", "p", "0", 54.6, 0.0),), (Load("lamp", "o", "0", "power", 60.0, 5.0),),
                      (),
                      (Converter("cv", "p", "0", "o", "0", 12.0, 8.0, 0.88),))
    solution = solve(network)
    assert solution.current_a["cv.in"] == pytest.approx(60 / 0.88 / 54.6)
    assert solution.across_v("o", "0") == pytest.approx(12.0)
    assert solution.converter_modes == {"cv": "on"}


@pytest.mark.parametrize(("volts", "mode"), [(47.9, "low"), (48.1, "on"), (61.0, "high")])
def test_a_converter_gives_nothing_outside_its_window(volts, mode):
    network = Network("0", (), (Source("pack", "p", "0", volts, 0.0),), (Load("lamp", "o", "0", "power", 30.0, 5.0),),
                      (),
                      (Converter("cv", "p", "0", "o", "0", 12.0, 8.0, 0.88, 0.0, 48.0, 60.0),))
    solution = solve(network)
    assert solution.converter_modes == {"cv": mode}
    assert solution.across_v("o", "0") == pytest.approx(12.0 if mode == "on" else 0.0, abs=1e-9)


def test_a_converter_gives_no_more_than_its_limit():
    network = Network("0", (), (Source("pack", "p", "0", 54.0, 0.0),), (Load("heater", "o", "0", "resistor", 1.0),), (),
                      (Converter("cv", "p", "0", "o", "0", 12.0, 8.0),))
    assert solve(network).across_v("o", "0") == pytest.approx(8.0)


@pytest.mark.parametrize(("load_a", "shares"), [(20, (20.0, 0.0)), (60, (52.0, 8.0))])
def test_two_packs_behind_ideal_diodes(load_a, shares):
    """54 V behind 0.10 ohm and 50 V behind 0.15 ohm without diode drop: the given shares of physics.md, G."""
    network = Network("0", (), (Source("one", "a", "0", 54.0, 0.10), Source("two", "b", "0", 50.0, 0.15)),
                      (Load("drive", "o", "0", "current", load_a, 1.0),),
                      (Diode("da", "a", "o", 0.0, 1e-9), Diode("db", "b", "o", 0.0, 1e-9)))
    solution = solve(network)
    assert (solution.current_a["da"], solution.current_a["db"]) == pytest.approx(shares, abs=1e-5)


def test_a_filament_by_its_power_law():
    """60 W at 12 V: 45, 52, 72 W at 10, 11, 13.5 V (published: P ~ V^1.55), given to 1 W."""
    for volts, watts in ((10, 45), (11, 52), (13.5, 72)):
        network = Network("0", (), (Source("s", "a", "0", volts, 0.0),),
                          (Load("l", "a", "0", "filament", 60.0, 0.0, 12.0),))
        assert abs(solve(network).current_a["l"]) * volts == pytest.approx(watts, abs=1.0)


def test_one_unsolvable_state_leaves_the_others_standing():
    system = System(Network("0", (), (Source("one", "a", "0", 12.0), Source("two", "a", "0", 13.0))))
    given = system.conditions(2)
    given.across[1, 1], given.series[1, 1], given.drive[1, 1] = 0.0, 1.0, 0.0  # the second source absent
    batch = system.solve(given)
    assert isinstance(batch.failure[0], NetworkError)
    assert batch.solution(1).across_v("a", "0") == pytest.approx(12.0)
    with pytest.raises(NetworkError):
        batch.solution(0)
