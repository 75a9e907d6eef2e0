"""Where one kind of part is imported outside `core/parts`: listed, so that nobody adds to it without having asked for a
capability first (`core/parts/base.py`, `core/parts/can.py`).

What stands here is of four sorts. Rules, figures, budgets and supplies that are about one kind. Edits, intents and
beginnings that put it into a plan. `plan/model.py`, which has the plan's lists by kind. And everything else that names
the type of what such a list gives (`plan.loads`, `plan.taps`, `plan.of(Coupling)`): nothing there asks which kind a
part is.
"""

import ast
import re
from collections import defaultdict
from pathlib import Path

import loadstar

SRC = Path(loadstar.__file__).parent
SHARED = {"base", "registry", "can", "asks", "terminals", "dimensions", "work", "inside", "fed"}
IMPORT = re.compile(r"^\s*from (?:\.+|loadstar\.core\.)parts\.([a-z_]+) import", re.MULTILINE)
LISTED = {
    "battery": """
        core/budget/ledger core/budget/total_loss core/figures/supply core/plan/model core/prove/alone
        core/rules/feeds core/supply/battery core/survey/health""",
    "block": """
        core/edits/recipes core/rules/feeds core/whatif/places web/papers/machine""",
    "charging_diode": """
        core/rules/second""",
    "coil": """
        core/budget/lighting core/intents/convert core/plan/model core/prove/winding core/rules/lamps
        core/supply/choose
        core/supply/magneto core/wiring/circuit core/wiring/side_coil""",
    "combiner": """
        core/plan/model core/prove/alone core/rules/packs core/supply/pack web/stations/survey/page""",
    "converter": """
        core/edits/stepped core/figures/packs core/figures/registry core/plan/model core/rules/converters
        core/sizing/choose core/sizing/inrush draw/packs web/stations/budget/page""",
    "coupling": """
        core/edits/couplings core/edits/joint core/ends/choose core/ends/families core/figures/ways
        core/intents/electric core/intents/leads core/order core/prove/faults core/rules/connectors
        core/rules/harness core/rules/looms core/rules/rated draw/mouth web/bench/kept
        web/papers/board web/papers/pinmaps web/stations/circuits/page web/stations/ends/page""",
    "cutoff": """
        core/rules/cutoffs core/rules/switching""",
    "device": """
        core/leads core/rules/cutoffs core/rules/switching""",
    "drive": """
        core/budget/packs core/build/fit core/intents/electric core/intents/stores core/prove/alone
        core/rules/packs""",
    "flasher": """
        core/figures/registry core/figures/switching core/pocket/sums core/rules/switching""",
    "frame": """
        core/rules/ends core/rules/references""",
    "fuse": """
        core/intents/electric core/order core/pocket/wire core/prove/alone core/prove/measure
        core/prove/shorts core/rules/converters core/rules/fuses core/rules/protection core/rules/second
        core/wiring/classes web/papers/card web/papers/labels web/papers/machine web/stations/circuits/page""",
    "generator": """
        core/figures/winding core/intents/renew core/plan/model core/whatif/ways_out
        core/wiring/references""",
    "junction": """
        core/edits/recipes core/harness/fittings core/rules/ends core/rules/feeds core/rules/looms
        core/rules/switching core/whatif/returns""",
    "kill": """
        core/rules/references core/wiring/references""",
    "lead": """
        core/rules/rated core/rules/switching""",
    "load": """
        core/budget/ledger core/build/bench_test core/edits/recipes core/edits/remake core/feeds/taps
        core/figures/joins core/figures/lamps core/figures/packs core/figures/registry core/figures/sizes
        core/figures/steps core/figures/supply core/figures/volts core/intents/convert core/intents/leads
        core/plan/model core/plan/stands core/pocket/wire core/prove/between core/prove/measure core/prove/set
        core/prove/shorts core/rules/lamps core/rules/leads core/rules/loads core/rules/switching
        core/sizing/drops core/sizing/inrush core/sizing/ratings core/whatif/feeds core/whatif/returns
        core/whatif/trial core/wiring/circuit core/wiring/topology draw/circuit/texts draw/lamps
        web/evidence/proving web/frame/forms web/papers/card web/stations/circuits/page
        web/stations/prove/page""",
    "module": """
        core/rules/taps""",
    "own": """
        core/budget/total_loss core/intents/convert core/intents/repair""",
    "pack": """
        core/budget/packs core/edits/stepped core/edits/workpiece core/figures/packs core/figures/registry
        core/intents/electric core/intents/stores core/plan/model core/rules/feeds core/sizing/choose
        core/supply/pack core/survey/health""",
    "port": """
        core/edits/stepped core/feeds/taps core/figures/packs core/figures/registry core/plan/model
        core/rules/loads core/rules/ports""",
    "relay": """
        core/edits/recipes core/edits/workpiece core/order core/pocket/sums""",
    "second": """
        core/budget/ledger core/intents/stores core/rules/accessories core/rules/second""",
    "selector": """
        core/begin core/edits/workpiece core/plan/model core/plan/stands core/rules/switching web/frame/forms
        web/papers/machine""",
    "starter": """
        core/intents/motors core/prove/alone core/rules/switching core/sizing/drops core/wiring/circuit""",
    "switch": """
        core/pocket/sums""",
    "tap": """
        core/edits/plugs core/edits/workpiece core/feeds/taps core/figures/feeds core/figures/found
        core/figures/registry core/plan/integrity core/plan/model core/plan/stands core/prove/faults
        core/prove/measure core/prove/winding core/rules/survey core/rules/taps core/rules/wires
        core/sizing/ratings core/survey/pins core/wiring/circuit draw/mouth exchange/report exchange/survey
        standins/machines web/frame/forms web/frame/tour web/pocket/colours web/stations/handover/page
        web/stations/survey/marks web/stations/survey/page web/stations/survey/sheet""",
    "way": """
        core/rules/taps core/sizing/inrush web/stations/circuits/page""",
}


def imported() -> dict[str, set[str]]:
    """By kind, the modules outside `core/parts` that import it."""
    found = defaultdict(set)
    for path in SRC.rglob("*.py"):
        if not path.is_relative_to(SRC / "core" / "parts"):
            for kind in set(IMPORT.findall(path.read_text())) - SHARED:
                found[kind].add(path.relative_to(SRC).with_suffix("").as_posix())
    return found


def test_no_kind_is_imported_where_it_is_not_listed():
    found = imported()
    now = {(kind, where) for kind, places in found.items() for where in places}
    listed = {(kind, where) for kind, places in LISTED.items() for where in places.split()}
    assert now - listed == set(), "ask for what the part can do, or list it"
    assert listed - now == set(), "no longer so: take it off the list"


def test_nobody_asks_which_kind_a_part_is():
    """No `isinstance` of a kind outside `core/parts`."""
    kinds = {name for path in (SRC / "core" / "parts").glob("*.py") if path.stem not in SHARED
             for name in re.findall(r"^class (\w+)\(", path.read_text(), re.MULTILINE)}
    found = []
    for path in SRC.rglob("*.py"):
        if not path.is_relative_to(SRC / "core" / "parts"):
            found += [f"{path.relative_to(SRC)}:{call.lineno}" for call in ast.walk(ast.parse(path.read_text()))
                      if isinstance(call, ast.Call) and isinstance(call.func, ast.Name)
                      and call.func.id == "isinstance"
                      and any(isinstance(name, ast.Name) and name.id in kinds for name in ast.walk(call.args[1]))]
    assert found == []
