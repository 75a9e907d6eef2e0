"""What the command line says about a plan file, without server or database.

`./loadstar check PLAN.json [--json]`: findings and headline; with `--unknown` what to measure next. `./loadstar netlist
PLAN.json --state idle`: a state as a SPICE netlist, on standard output. `./loadstar pack PLAN.json --into DIR`: all of
its files, as the machine's file holds them.

Exit code 0: no stop finding; 1: there is one; 2: the file cannot be read, with one sentence per fault.
"""

import argparse
import json
import os
import sys
import tempfile
from pathlib import Path

from .core.analysis import Analysis, analyse
from .core.doc.states import STATES, States
from .core.errors import PlanError
from .core.plan import document
from .core.plan.model import Plan
from .core.stages import stages
from .core.whatif.outlook import Outlook
from .core.whatif.unknown import Outlooks, measurable
from .exchange.netlist import netlist
from .exchange.report import headline, outlook_report, report
from .pack import files_of

MARKS = {"stop": "STOP   ", "caution": "CAUTION", "advice": "ADVICE ", "note": "NOTE   "}


def main(words: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    parser = argparse.ArgumentParser(prog="./loadstar")
    commands = parser.add_subparsers(dest="command", required=True)
    one = commands.add_parser("check")
    one.add_argument("plan", type=Path)
    one.add_argument("--json", action="store_true", help="the whole analysis as JSON")
    one.add_argument("--stages", action="store_true", help="each stage of the plan judged by itself")
    one.add_argument("--unknown", action="store_true", help="what to measure next, most telling first")
    two = commands.add_parser("netlist")
    two.add_argument("plan", type=Path)
    two.add_argument("--state", default="cruise", choices=STATES, help="the state to write out")
    two.add_argument("--turn", type=int, default=0, help="0: as its switches are taken to stand; 1 and on: otherwise")
    three = commands.add_parser("pack")
    three.add_argument("plan", type=Path)
    three.add_argument("--into", type=Path, required=True, help="a folder, made if need be")
    given = parser.parse_args(words)
    if given.command == "pack":
        return pack(given.plan, given.into)
    if given.command == "netlist":
        return write_netlist(given.plan, given.state, given.turn)
    if given.stages:
        return by_stage(given.plan)
    return unknown(given.plan, as_json=given.json) if given.unknown else check(given.plan, as_json=given.json)


def write_netlist(path: Path, state: States, turn: int) -> int:
    """Write a state of a plan file as a netlist."""
    plan = _plan(path)
    if plan is None:
        return 2
    try:
        print(netlist(analyse(plan), state, turn), end="")
    except PlanError as error:
        return _refused(path, error)
    return 0


def pack(path: Path, folder: Path) -> int:
    """Write everything about a plan file into a folder; all of it, or nothing."""
    plan = _plan(path)
    if plan is None:
        return 2
    files = files_of(analyse(plan))
    try:
        folder.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=folder.parent) as fresh:
            for name, data in files.items():
                (Path(fresh) / name).parent.mkdir(parents=True, exist_ok=True)
                (Path(fresh) / name).write_bytes(data)
            for name in files:
                (folder / name).parent.mkdir(parents=True, exist_ok=True)
                (Path(fresh) / name).replace(folder / name)
    except OSError as error:
        print(f"{folder}: it cannot be written ({error.strerror}); nothing was.", file=sys.stderr)
        return 2
    print(f"{len(files)} files in {folder}: {', '.join(sorted(files))}")
    return 0


def unknown(path: Path, *, as_json: bool = False) -> int:
    """Say which figures of a plan file nobody has found yet, and what hangs on each."""
    plan = _plan(path)
    if plan is None:
        return 2
    some = measurable(plan) and plan.supply is not None
    found = outlook_report(Outlooks(analyse(plan)).outlook() if some else Outlook((), {}), plan)
    if as_json:
        json.dump(found, sys.stdout, indent=1, ensure_ascii=False, allow_nan=False)
        print()
        return 0
    if not some:
        print("Nothing is left to measure.")
    for number, one in enumerate(found["figures"], 1):
        print(f"{number}. {one['words']} ({one['figure']}): {one['value']:.3g} {one['unit']}, {one['standing']}, "
              f"may be {one['low']:.3g} to {one['high']:.3g}")
        print(f"   {one['how']} {one['tool']}, about {one['minutes']} min.")
        for flip in one["flips"]:
            comes = "appears" if flip["appears"] else "goes"
            print(f"   At its {flip['end']} end {comes}: {MARKS[flip['severity']].strip()} {flip['sentence']}")
    return 0


def by_stage(path: Path) -> int:
    """Say of each stage of a plan file what is new in it, and what is found once it is made."""
    plan = _plan(path)
    if plan is None:
        return 2
    found = stages(plan)
    if not found:
        print("This plan is made all at once: no part of it is in a stage.")
    stopped = False
    for stage in found:
        print(f"Stage {stage.letter}: {len(stage.new_parts)} parts, {len(stage.new_wires)} wires new")
        for sentence in stage.lacks:
            print(f"{MARKS['stop']} {sentence}")
        if stage.analysis:
            _say(stage.analysis, path)
        stopped |= bool(stage.lacks) or (stage.analysis is not None and any(
            f.severity == "stop" for f in stage.analysis.findings))
    return 1 if stopped else 0


def check(path: Path, *, as_json: bool = False) -> int:
    """Check one plan file and say what was found."""
    plan = _plan(path)
    if plan is None:
        return 2
    analysis = analyse(plan)
    if as_json:
        json.dump(report(analysis), sys.stdout, indent=1, sort_keys=True, ensure_ascii=False, allow_nan=False)
        print()
    else:
        _say(analysis, path)
    return 1 if any(f.severity == "stop" for f in analysis.findings) else 0


def _plan(path: Path) -> Plan | None:
    """The plan in a file; None after saying what is wrong with it."""
    try:
        return document.from_json(_read(path))
    except PlanError as error:
        _refused(path, error)
    except OSError as error:
        print(f"{path}: it cannot be opened ({error.strerror}).", file=sys.stderr)
    return None


def _refused(path: Path, error: PlanError) -> int:
    for fault in error.faults:
        where = f"{fault.element}: " if fault.element and fault.element not in fault.sentence else ""
        print(f"{path}: {where}{fault.sentence}", file=sys.stderr)
    return 2


def _read(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(document.MAX_BYTES + 1)


def _say(analysis: Analysis, path: Path) -> None:
    print(f"{analysis.plan.name} ({analysis.plan.machine.name}), {path}")
    for finding in analysis.findings:
        where = f" [{', '.join(finding.elements[:4])}]" if finding.elements else ""
        print(f"{MARKS[finding.severity]} {finding.rule}{where}: {finding.sentence}")
    if not analysis.findings:
        print("Nothing was found wrong with this plan as it stands.")
    told = headline(analysis)
    said = []
    if told["idle_margin_a"] is not None:
        said.append(f"margin at idle {told['idle_margin_a']:+.1f} A")
    if told["range_km"] is not None:
        said.append(
            f"range {told['range_km']:.0f} km, {told['pack_margin_a']:+.1f} A to the pack's limit at full power")
    if told["lowest_load"]:
        said.append(f"lowest load {told['lowest_load']['id']} {told['lowest_load']['volts_v']:.2f} V "
                    f"({told['lowest_load']['state']})")
    if told["weakest_protection"]:
        said.append(
            f"weakest protection {told['weakest_protection']['wire']} {told['weakest_protection']['ratio']:.2f}")
    if told["parked_days"] is not None and told["parked_days"] < 1e5:
        said.append(f"parked {told['parked_days']:.0f} days")
    print(f"{said[0][0].upper()}{said[0][1:]}; {'; '.join(said[1:])}.".replace("; .", ".") if said
          else "Nothing can be computed yet.")
    print("Loadstar calculates; it does not certify. Local law and licensed practice come first.")


def run() -> int:
    """`main`, for a pipe whose reader may go away early (`| head`): that is no fault."""
    try:
        code = main()
        sys.stdout.flush()
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())  # what is still buffered goes nowhere
        return 0
    return code


if __name__ == "__main__":
    sys.exit(run())
