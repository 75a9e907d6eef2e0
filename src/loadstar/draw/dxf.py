"""The board as DXF: millimetres, a layer for each sort of thing, y upwards."""

import io
import math

import ezdxf
from ezdxf.enums import TextEntityAlignment
from ezdxf.layouts import Modelspace

from loadstar.core.analysis import Analysis
from loadstar.core.harness.nails import NAIL_MM
from loadstar.core.harness.tiling import ROLL

from .board import LABEL_MM, PLACE_R_MM, Plot, plotted

MILLIMETRES = 4  # $INSUNITS
LAYERS = {"OUTLINES": 2, "RUNS": 4, "PLACES": 3, "LABELS": 7, "LEADERS": 9, "FITTINGS": 5, "TIES": 8, "NAILS": 6,
          "SCALE": 1}
BAR_MM = 100.0
# A connector's and a splice's outline as a block, mm: half its length along the run, half its width across.
BLOCKS = {"CONNECTOR": (8.0, 6.0), "SPLICE": (4.0, 2.5)}


def board_dxf(analysis: Analysis) -> str:
    """The board of an analysed plan. Raises board.Loop where it cannot lie flat."""
    plot = plotted(analysis, ROLL)
    on = plot.sheet
    ezdxf.options.write_fixed_meta_data_for_testing = True  # no dates and chance ids: the same board, the same bytes
    drawing = ezdxf.new("R2010")
    drawing.header["$INSUNITS"] = MILLIMETRES
    for name, colour in LAYERS.items():
        drawing.layers.add(name, color=colour)
    for name, (half, across) in BLOCKS.items():
        drawing.blocks.new(name).add_lwpolyline(
            [(-half, -across), (half, -across), (half, across), (-half, across)], close=True)
    space = drawing.modelspace()

    def up(x: float, y: float) -> tuple[float, float]:
        return x, on.high_mm - y

    for piece in on.pieces:
        space.add_lwpolyline([up(x, y) for x, y in piece.outline], close=True, dxfattribs={"layer": "OUTLINES"})
        space.add_line(up(piece.x0, piece.y0), up(piece.x1, piece.y1), dxfattribs={"layer": "RUNS"})
        for x, y in piece.ties:
            space.add_circle(up(x, y), 1.0, dxfattribs={"layer": "TIES"})
    for x, y in on.at.values():
        space.add_circle(up(x, y), PLACE_R_MM, dxfattribs={"layer": "PLACES"})
    for x, y in on.nails:
        space.add_circle(up(x, y), NAIL_MM / 2, dxfattribs={"layer": "NAILS"})
    for sits in on.sits:
        (dx, dy), kind = sits.along, "SPLICE" if sits.fitting.part.kind == "junction" else "CONNECTOR"
        block = space.add_blockref(kind, up(sits.x, sits.y), dxfattribs={
            "layer": "FITTINGS", "rotation": math.degrees(math.atan2(-dy, dx))})
        block.add_attrib("ID", sits.fitting.part.id, dxfattribs={"layer": "LABELS", "height": LABEL_MM, "invisible": 1})
    _words(space, plot)
    space.add_line((0, 0), (BAR_MM, 0), dxfattribs={"layer": "SCALE"})
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue()


def _words(space: Modelspace, plot: Plot) -> None:
    """Every label where the board has it, with its leader."""
    high = plot.sheet.high_mm
    for put in (put for put in plot.words.values() if put is not None):
        for i, line in enumerate(put.label.lines):
            at = (put.box.x0 + put.box.x1) / 2, high - (put.box.y0 + (i + 1) * (LABEL_MM + 3) - 2)
            space.add_text(line, height=LABEL_MM, dxfattribs={"layer": "LABELS"}).set_placement(
                at, align=TextEntityAlignment.BOTTOM_CENTER)
        if put.leader:
            x0, y0, x1, y1 = put.leader
            space.add_line((x0, high - y0), (x1, high - y1), dxfattribs={"layer": "LEADERS"})
