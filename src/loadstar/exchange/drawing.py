"""The board as DXF: millimetres, a layer for each sort of thing, y upwards."""

import io

import ezdxf
from ezdxf.enums import TextEntityAlignment

from loadstar.core.analysis import Analysis
from loadstar.core.harness.sheet import sheet

MILLIMETRES = 4  # $INSUNITS
LAYERS = {"RUNS": 4, "PLACES": 3, "LABELS": 7, "FITTINGS": 5, "TIES": 8, "SCALE": 1}
BAR_MM, LABEL_MM, PLACE_R_MM, FITTING_MM = 100.0, 3.4, 3.0, 5.0


def board_dxf(analysis: Analysis) -> str:
    """The board of an analysed plan. Raises board.Loop where it cannot lie flat."""
    assert analysis.loom is not None
    on, plan = sheet(analysis.loom), analysis.plan
    ezdxf.options.write_fixed_meta_data_for_testing = True  # no dates and chance ids: the same board, the same bytes
    drawing = ezdxf.new("R2010")
    drawing.header["$INSUNITS"] = MILLIMETRES
    for name, colour in LAYERS.items():
        drawing.layers.add(name, color=colour)
    space = drawing.modelspace()

    def up(x: float, y: float) -> tuple[float, float]:
        return x, on.high_mm - y

    for piece in on.pieces:
        space.add_line(up(piece.x0, piece.y0), up(piece.x1, piece.y1), dxfattribs={"layer": "RUNS"})
        words = f"{piece.run} {plan.run(piece.run).length_m * 1000:.0f} mm"
        middle = up((piece.x0 + piece.x1) / 2, (piece.y0 + piece.y1) / 2 + LABEL_MM * 2)
        space.add_text(words, height=LABEL_MM, dxfattribs={"layer": "LABELS"}).set_placement(
            middle, align=TextEntityAlignment.MIDDLE_CENTER)
        for x, y in piece.ties:
            space.add_circle(up(x, y), 1.0, dxfattribs={"layer": "TIES"})
    for place, (x, y) in on.at.items():
        space.add_circle(up(x, y), PLACE_R_MM, dxfattribs={"layer": "PLACES"})
        name = space.add_text(f"{place} {plan.place(place).name}", height=LABEL_MM, dxfattribs={"layer": "LABELS"})
        name.set_placement(up(x + PLACE_R_MM + 1, y - PLACE_R_MM - 1))
    for sits in on.sits:
        (x, y), (dx, dy) = (sits.x, sits.y), sits.along
        space.add_line(up(x - dy * FITTING_MM, y + dx * FITTING_MM), up(x + dy * FITTING_MM, y - dx * FITTING_MM),
                       dxfattribs={"layer": "FITTINGS"})
        words = space.add_text(f"{sits.fitting.part.id} {sits.fitting.part.name}", height=LABEL_MM,
                               dxfattribs={"layer": "LABELS"})
        words.set_placement(up(x + PLACE_R_MM, y - FITTING_MM - 1))
    space.add_line((0, 0), (BAR_MM, 0), dxfattribs={"layer": "SCALE"})
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue()
