"""The cargo e-bike: fitted out, and with a new controller."""

from dataclasses import replace

from ..core.analysis import analyse
from ..core.edits import (
    Edit,
    MoveEnd,
)
from ..core.edits.builder import Builder
from ..core.edits.plugs import PutPlug
from ..core.ends.joints import joints
from ..core.ends.pins import Contact, consolidate
from ..core.intents import carried_out
from ..core.intents.electric import BrakeCutoff, Traction
from ..core.leads import gather, led_through
from ..core.plan.model import Plan
from .ways import BY_THE_AXIS


def tide_hauler() -> tuple[Plan, list[Edit]]:
    """The cargo e-bike: a converter whose window ends too early, a lamp on the light port, and a second pack."""
    b = Builder("Survey cargo and second pack")
    b.machine(name="Tide hauler", kind="cargo e-bike", system="pack", system_v=48, chassis="floating", range_km=55)
    tube = b.add("place", name="seat tube", x_mm=370, y_mm=330, ambient_c=35)
    hold = b.add("place", name="cargo box", x_mm=1350, y_mm=260, ambient_c=30)
    bars = b.add("place", name="handlebar", x_mm=740, y_mm=840, ambient_c=30)
    motor = b.add("place", name="drive unit", x_mm=440, y_mm=0, ambient_c=50)
    rack = b.add("place", name="rear rack", x_mm=-180, y_mm=395, ambient_c=30)
    for a, z, length in ((tube, motor, 0.45), (motor, hold, 1.1), (tube, bars, 0.95), (tube, rack, 0.7)):
        through = {"bore_mm": 14, "edge": "edge trim", "slack_mm": 40} if z == bars else {}  # inside the frame's tube
        b.add("run", a=a, b=z, length_m=length, **through)
    b.add("pack", name="frame pack", place=tube, chemistry="nmc", series=13, parallel=5, cell_ah=3.4, cell_mohm=32,
          bms_continuous_a=22, bms_peak_a=40, charge_frac=0.8, charge_limit_a=5, data_line=True)
    b.add("pack", name="rack pack", place=rack, chemistry="nmc", series=13, parallel=4, cell_ah=3.0, cell_mohm=40,
          bms_continuous_a=20, bms_peak_a=35, charge_frac=0.6, charge_limit_a=4, data_line=True)
    b.add("drive", name="mid drive", place=motor, assist_w=180, full_w=650, limit_a=20, needs_data=True)
    b.add("combiner", name="diode combiner", place=tube, way="diode", rated_a=30, data_switched=False)
    b.do(PutPlug(values={"name": "lamp lead plug", "place": motor, "use": "light port", "ways": 2,
                         "reach": "drive cover off", "half": "receptacles",
                         "housing": "sealed 1.5 mm, 2-way"},
                 pins=({"way": 1, "wire_colour": "RD", "function": "other", "goes_to": "light port +"},
                       {"way": 2, "wire_colour": "BK", "function": "other", "goes_to": "light port −"})))
    port = b.add("port", name="light port", place=motor, out_v=12, limit_w=17, enabled=True)
    box = b.add("converter", name="12 V box", place=hold, window_low_v=42, window_high_v=60, out_v=12, rated_a=6,
                efficiency_frac=0.88, idle_w=0.4)
    b.add("load", name="Front lamp", category="lamp", amount=12, at_v=12, place=bars, feed=port, live="key",
          window_low_v=6)
    b.add("load", name="Sample cooler", category="other", behaviour="resistor", amount=36, at_v=12, place=hold,
          feed=box,
          live="key", window_low_v=10)
    b.add("load", name="Logger and radio", category="electronics", amount=14, at_v=12, place=hold, feed=box, live="key",
          window_low_v=9)
    return b.plan, b.steps


def one_plug() -> tuple[Plan, list[Edit]]:
    """The cargo e-bike's controller renewed: its many small plugs at the handlebar made one, and three heavy negative
    leads crimped into one barrel."""
    b = Builder("Controller renewed, one plug")
    b.machine(name="Tide hauler", kind="cargo e-bike", system="pack", system_v=48, chassis="floating", range_km=55)
    at = {name: b.add("place", name=name, x_mm=x, y_mm=y, ambient_c=air, moves=moves) for name, x, y, air, moves in (
        ("seat tube", 370, 330, 35, "still"), ("controller box", 440, 120, 45, "still"),
        ("cargo box", 1350, 260, 30, "still"), ("head tube", 690, 640, 30, "with the steering"),
        ("handlebar", 740, 840, 30, "with the steering"))}
    for a, z, length in (("seat tube", "controller box", 0.3), ("controller box", "cargo box", 1.15),
                         ("controller box", "head tube", 0.75), ("head tube", "handlebar", 0.35)):
        b.add("run", a=at[a], b=at[z], length_m=length, **(BY_THE_AXIS if "head tube" in (a, z) else {}))
    _traction(b, at)
    _small_leads(b, at)
    leads = gather(analyse(b.plan), at["handlebar"])
    contact = Contact(most_a=10, barrel_mm2=1.5, shared_ohm=leads.shared_ohm or 0.0)
    made = consolidate([replace(lead, tolerates_v=0.017) if lead.name == "Throttle neg" else lead
                        for lead in leads.leads], contact, together=True)
    for edit in led_through(leads, joints(made, 2, together=True), contact, at["handlebar"], at["controller box"]):
        b.do(edit)
    return b.plan, b.steps


def _traction(b: Builder, at: dict[str, str]) -> None:
    """Pack, controller and cooler, their negatives in one barrel."""
    pack = b.add("pack", name="frame pack", place=at["seat tube"], chemistry="nmc", series=13, parallel=5, cell_ah=3.4,
                 cell_mohm=32, bms_continuous_a=25, bms_peak_a=40, charge_frac=0.8, charge_limit_a=5,
                 termination="ring M6")
    b.add("drive", name="controller", place=at["controller box"], assist_w=180, full_w=650, limit_a=20)
    b.do(carried_out(b.plan, Traction(connector_at=at["controller box"], rated_a=40)))
    cooler = b.add("converter", name="cooler's 12 V box", place=at["cargo box"], window_low_v=36, window_high_v=60,
                   out_v=12, rated_a=6, efficiency_frac=0.88, idle_w=0.4)
    b.add("load", name="Sample cooler", category="other", behaviour="resistor", amount=40, at_v=12,
          place=at["cargo box"], feed=cooler, live="key", window_low_v=10)
    barrel = b.add("junction", name="pack negative", form="one barrel", place=at["seat tube"], termination="ring M6",
                   alone=True)
    minus = next(w for w in b.plan.wires if w.b == f"{pack}.neg" and w.a.part.startswith("CN"))
    b.do(MoveEnd(id=minus.id, end="b", to=f"{barrel}.t"))
    b.do(MoveEnd(id=b.wire_to(f"{cooler}.inn"), end="b", to=f"{barrel}.t"))
    b.lay(f"{barrel}.t", f"{pack}.neg", colour="BK")
    b.fix(minus.id, area_mm2=6)


def _small_leads(b: Builder, at: dict[str, str]) -> None:
    """Everything at the handlebar that the controller feeds or listens to."""
    lights = b.add("port", name="controller's 12 V", place=at["controller box"], out_v=12, limit_w=60, enabled=True)
    sensors = b.add("port", name="controller's 5 V", place=at["controller box"], out_v=5, limit_w=2, enabled=True)
    for name, category, watts, place in (("Front lamp", "lamp", 18, "head tube"), ("Horn", "motor", 20, "handlebar")):
        b.add("load", name=name, category=category, amount=watts, place=at[place], feed=lights, live="key", at_v=12,
              window_low_v=9)
    for name, milliwatts in (("Throttle", 100), ("Display", 250), ("Assist switch", 25), ("Bell sensor", 25)):
        b.add("load", name=name, category="electronics", amount=milliwatts / 1000, place=at["handlebar"], feed=sensors,
              live="key", at_v=5, window_low_v=4.5, window_high_v=5.5)
    colours = iter(("GN", "BU", "VT", "OG", "GY", "WH", "TQ", "PK"))
    for name, lines in (("throttle", "sig"), ("display", "rx, tx"), ("assist switch", "more, less"),
                        ("light button", "sig"), ("horn button", "sig"), ("bell sensor", "sig")):
        inside = b.add("device", name=f"controller, {name}", place=at["controller box"], lines=lines)
        outside = b.add("device", name=name, place=at["handlebar"], lines=lines)
        for line in b.plan.part(inside).ends:
            b.lay(f"{inside}.{line}", f"{outside}.{line}", colour=next(colours))
    b.do(carried_out(b.plan, BrakeCutoff(lever_at=at["handlebar"], controller_at=at["controller box"])))
