"""Everything about a plan that needs no server, as files by name: what `./loadstar pack` writes and the machine's file
holds."""

from .core.analysis import Analysis
from .core.order import order
from .core.plan import document
from .draw import circuit, dxf
from .draw.board import file_svg
from .draw.svg import Look
from .exchange import cut as cut_table
from .exchange import netlist
from .exchange import order as order_table
from .exchange import survey as survey_file


def files_of(analysis: Analysis) -> dict[str, bytes]:
    """The plan, its survey, pins, order and cut list as tables, the board, the circuit drawing, a netlist of every
    state."""
    plan = analysis.plan
    found = {"plan.json": document.to_json(analysis.whole_plan).encode(),
             "survey.json": survey_file.to_json(plan).encode(),
             "tables/pins.csv": survey_file.to_csv(plan).encode(),
             "tables/order.csv": order_table.to_csv(order(analysis)).encode()}
    if analysis.wires:
        found["tables/cut.csv"] = cut_table.to_csv(analysis).encode()
    if analysis.loom is not None and analysis.loom.bundles and not analysis.loom.cuts:
        found["drawings/board.dxf"] = dxf.board_dxf(analysis).encode()
        found["drawings/board.svg"] = file_svg(analysis).encode()
    sheets = circuit.sheets(analysis)
    for sheet in sheets:
        found[f"drawings/circuit-{sheet.number}.svg"] = circuit.draw(
            analysis, sheet, len(sheets), Look(paper=True)).encode()
    for state, row in analysis.states.items():
        if row.solution is not None:
            found[f"netlists/{state}.cir"] = netlist.netlist(analysis, state).encode()
    return found
