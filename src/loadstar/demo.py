"""The demonstration workshop's plans, made by the same edits that the pages use.

A volunteer estuary wildlife-survey team keeps a touring motorcycle, an old small motorcycle with magneto lighting, a
pull-start utility bike and a cargo e-bike. The tourer's fit-out is honest about three shortcomings: at idle the
generator does not keep up, one hand-fixed wire is too thin for its fuse, and a tracker that is always live flattens
the battery within weeks.
"""

from dataclasses import replace
from typing import Any

from .core.analysis import analyse
from .core.edits import (
    AddElement,
    ChangeElement,
    CutWire,
    Edit,
    MoveEnd,
    PutPoint,
    RemoveElement,
    RemoveWire,
    SetMachine,
    SetRules,
    SetWire,
    apply,
)
from .core.edits.builder import Builder
from .core.edits.survey import PutPlug, TakeReadings
from .core.ends.pins import Contact, consolidate, joints
from .core.intents import carried_out
from .core.intents.electric import BrakeCutoff, Traction
from .core.intents.lamps import BrakeLamp, HeadLamp, Indicators
from .core.intents.motors import Horn
from .core.leads import gather, led_through
from .core.plan.model import Plan
from .core.shelf import Stock

WORKSHOP = "Saltmarsh Survey Workshop"
# Past the headstock close beside the steering's axis, where hardly any slack is needed.
BY_THE_AXIS = {"above_mm": 15, "below_mm": 20, "high_mm": 170}
# Of the tourer's front loom: under the tank, past the headstock, out to bars and lamps.
FRONT_LOOM: dict[tuple[str, str], dict[str, Any]] = {
    ("seat", "tank"): {"pinch": "clipped away", "tied_to": "frame"},
    ("tank", "head"): {**BY_THE_AXIS, "hot": "heat sleeve"},
    ("head", "bars"): {"moving": "clipped away"}, ("head", "lamps"): {"edge": "edge trim"}}


def _tourer(name: str) -> tuple[Builder, dict[str, str]]:
    """The machine as surveyed: places, runs, battery, generator, factory wires, and a fuse block under the seat."""
    b = Builder(name)
    b.do(SetMachine(values={"name": "Marsh warden's tourer", "kind": "touring motorcycle", "idle_rpm": 1300,
                            "town_rpm": 3000, "cruise_rpm": 5000, "cranking_a": 120}))
    at = {
        "battery": b.add("place", name="battery box", x_mm=430, y_mm=330, ambient_c=45, reach="seat off", water="dry"),
        "seat": b.add("place", name="under the seat", x_mm=180, y_mm=420, ambient_c=45, reach="seat off", water="dry"),
        "tail": b.add("place", name="tail rack", x_mm=-290, y_mm=450, ambient_c=35),
        "tank": b.add("place", name="under the tank", x_mm=850, y_mm=520, ambient_c=60),
        "head": b.add("place", name="headstock", x_mm=1140, y_mm=550, ambient_c=50, reach="tank lifted",
                      moves="with the steering"),
        "bars": b.add("place", name="handlebar", x_mm=1030, y_mm=700, ambient_c=35),
        "lamps": b.add("place", name="lamp bar", x_mm=1300, y_mm=420, ambient_c=40),
        "rider": b.add("place", name="left side panel", x_mm=510, y_mm=230, ambient_c=40, side="left",
                       reach="two screws"),
    }
    for a, z, length in (("battery", "seat", 0.35), ("seat", "tail", 0.65), ("seat", "tank", 0.60),
                         ("tank", "head", 0.50), ("head", "bars", 0.45), ("head", "lamps", 0.55),
                         ("battery", "rider", 0.30)):
        b.add("run", a=at[a], b=at[z], length_m=length, **FRONT_LOOM.get((a, z), {}))
    for n, (run, x_mm, y_mm) in enumerate((("R3", 430, 455), ("R3", 640, 505), ("R4", 1000, 565))):
        b.do(PutPoint(id=run, at=n % 2, x_mm=x_mm, y_mm=y_mm, new=True))
    b.add("battery", name="battery", place=at["battery"], chemistry="agm", capacity_ah=12, rate_h=10,
          internal_mohm=14, charge_frac=0.8, charge_a=1.2)
    b.add("generator", name="generator", place=at["battery"], phases=3, rating1_w=120, rating1_rpm=1300,
          rating2_w=340, rating2_rpm=5000, rating_v=14.2, phase_ohm=0.28, diode_v=0.95, regulator="series", set_v=14.2)
    b.add("own", name="ignition, injection and pump", place=at["battery"], power_w=85, live="engine")
    b.add("own", name="head and tail lamp, instruments", place=at["battery"], power_w=65, live="engine")
    b.add("tap", name="tail lamp wire", place=at["tail"], live="key", rated_a=3, source_mohm=120, fused_a=7.5,
          wire_colour="brown/white")
    b.add("tap", name="regulator run line", place=at["battery"], live="engine", rated_a=5, source_mohm=60, fused_a=5,
          wire_colour="yellow/red")
    at["block"] = b.add("block", name="seat block", place=at["seat"], ways=8)
    return b, at


def fit_out() -> tuple[Plan, list[Edit]]:
    """The survey season's fit-out, and the edits that made it."""
    b, at = _tourer("Survey season fit-out")
    block = at["block"]
    b.add("load", name="Heated grips", category="heating", behaviour="resistor", amount=56, at_v=14.2, place=at["bars"],
          feed=block, live="engine")
    lamp = {"category": "lamp", "behaviour": "power", "amount": 18, "at_v": 13.5, "window_low_v": 9,
            "window_high_v": 30,
            "inrush_a": 12, "inrush_ms": 2, "feed": block, "live": "engine", "place": at["lamps"]}
    b.add("load", name="Left fog lamp", **lamp)
    b.add("load", name="Right fog lamp", **lamp)
    b.add("load", name="Radio charger", category="electronics", behaviour="power", amount=12, place=at["tail"],
          feed=block, live="engine", window_low_v=10, window_high_v=16, inrush_a=6, inrush_ms=1)
    b.add("load", name="Navigation unit", category="electronics", behaviour="power", amount=9, place=at["bars"],
          feed=block, live="engine", window_low_v=9, window_high_v=32,
          supplied_lead="Step-down box moulded into the maker's lead: do not cut it out.")
    b.add("load", name="Heated vest", category="heating", behaviour="resistor", amount=45, at_v=14.2, place=at["rider"],
          feed=block, live="engine")
    b.add("load", name="Satellite tracker", category="tracker", behaviour="power", amount=1.8, at_v=12.8,
          place=at["tail"], feed=b.plan.battery.id if b.plan.battery else "", live="always", window_low_v=8,
          window_high_v=30, standby_ma=6, minutes_per_hour=3,
          reason_always="Reports the parked machine's position; agreed with the wardens.")
    vest = next(load for load in b.plan.loads if load.name == "Heated vest")
    thin = next(w for w in b.plan.wires if w.b == vest.at("pos"))
    b.do(ChangeElement(id=thin.a.part, values={"rating_a": 10}))
    b.do(SetWire(id=thin.id, values={"area_mm2": 0.35}))
    return b.plan, b.steps


def winter() -> tuple[Plan, list[Edit]]:
    """A second plan for the same machine: the least that the winter counts need, with nothing to find fault with."""
    b, at = _tourer("Winter counts, least load")
    b.add("load", name="Heated grips", category="heating", behaviour="resistor", amount=30, at_v=14.2, place=at["bars"],
          feed=at["block"], live="engine", minutes_per_hour=15)
    b.add("load", name="Radio charger", category="electronics", behaviour="power", amount=12, place=at["tail"],
          feed=at["block"], live="engine", window_low_v=10, window_high_v=16, minutes_per_hour=30)
    own = [p for p in b.plan.parts if p.kind == "own"]
    b.do(ChangeElement(id=own[1].id, values={"power_w": 15, "name": "LED head and tail lamp, instruments"}))
    return b.plan, b.steps


def ferry_runner() -> tuple[Plan, list[Edit]]:
    """The 1960s-style small motorcycle: lamps on the magneto, and what happens when one of them fails."""
    b = Builder("Lamps on the magneto")
    b.machine(name="Old ferry runner", kind="small motorcycle", system="magneto", system_v=6, chassis="winding",
              idle_rpm=1500, town_rpm=3000, cruise_rpm=4500, cranking_a=0)
    engine = b.add("place", name="magneto", x_mm=530, y_mm=60, ambient_c=60)
    shell = b.add("place", name="headlamp shell", x_mm=1010, y_mm=480, ambient_c=40)
    bars = b.add("place", name="handlebar", x_mm=820, y_mm=590, ambient_c=30)
    tail = b.add("place", name="rear mudguard", x_mm=-200, y_mm=250, ambient_c=30)
    for a, z, length in ((engine, shell, 0.85), (shell, bars, 0.35), (engine, tail, 0.95)):
        b.add("run", a=a, b=z, length_m=length)
    coil = b.add("coil", name="lighting coil", place=engine, emf_mv_per_rpm=7.8, reactance_mohm_per_rpm=1.38,
                 winding_ohm=0.3)
    b.add("kill", name="ignition kill wire", place=engine)
    lamp = {"category": "lamp", "behaviour": "filament", "at_v": 6, "feed": coil, "live": "engine", "returns": "frame",
            "window_low_v": 0, "window_high_v": 9}
    tests = ((0, 0, 1, False), (0, 0, 2, False), (0, 1, 2, False), (1, 0, 1, True), (1, 0, 2, True))
    b.do(AddElement(what="table", values={
        "name": "headlamp shell switch", "terminals": ("coil", "head", "tail"), "positions": ("off", "on"),
        "beeps": tuple(dict(zip(("position", "a", "b", "beeps"), test, strict=True)) for test in tests)}))
    b.add("load", name="Headlamp", amount=24, place=shell, **lamp)
    b.add("load", name="Tail lamp", amount=5, place=tail, **lamp)
    b.add("load", name="Speedometer lamp", amount=1.8, place=shell, **{**lamp, "at_v": 6.5})
    return b.plan, b.steps


def tide_race() -> tuple[Plan, list[Edit]]:
    """The old small motorcycle stripped for the team's race over the flats: a loom of few wires on a splice at its
    middle; what came off is listed with what it weighed."""
    b = Builder("Tide race, stripped")
    b.machine(name="Old ferry runner", kind="small motorcycle", system="magneto", system_v=6, chassis="winding",
              idle_rpm=1500, town_rpm=3000, cruise_rpm=4500, cranking_a=0)
    engine = b.add("place", name="magneto", x_mm=530, y_mm=60, ambient_c=60)
    tank = b.add("place", name="under the tank", x_mm=640, y_mm=400, ambient_c=50, reach="tank off")
    shell = b.add("place", name="headlamp shell", x_mm=1010, y_mm=480, moves="with the steering")
    tail = b.add("place", name="rear mudguard", x_mm=-200, y_mm=250)
    for a, z, length, more in ((engine, tank, 0.45, {"hot": "heat sleeve"}), (tank, shell, 0.5, BY_THE_AXIS),
                               (tank, tail, 0.95, {"moving": "clipped away"})):
        b.add("run", a=a, b=z, length_m=length, **more)
    coil = b.add("coil", name="lighting coil", place=engine, emf_mv_per_rpm=7.8, reactance_mohm_per_rpm=1.38,
                 winding_ohm=0.3)
    lamp = {"category": "lamp", "behaviour": "filament", "at_v": 6, "feed": coil, "live": "engine",
            "returns": "own wire", "window_low_v": 0, "window_high_v": 9}
    head = b.add("load", name="Headlamp", amount=24, place=shell, **lamp)
    rear = b.add("load", name="Tail lamp", amount=5, place=tail, **lamp)
    extra = [b.add("load", name=name, amount=1.8, place=shell, **{**lamp, "at_v": 6.5})
             for name in ("Speedometer lamp", "Beam lamp")]
    fed = {load: next(w.id for w in b.plan.wires if w.b == f"{load}.pos") for load in (head, rear)}
    b.do(CutWire(id=fed[head], place=tank, form="splice"))
    before = next(w for w in b.plan.wires if w.made_for == rear and w.a == f"{coil}.hot")
    b.do(MoveEnd(id=fed[rear], end="a", to=f"{b.plan.of_kind('junction')[-1].id}.t"))
    b.do(RemoveWire(id=before.id))
    b.do(RemoveElement(id=before.b.part))  # both lamps go by the first one's switch
    for name, mass_g, estimated, stored in (
            ("factory loom", 640, False, "box 4, shelf by the door"), ("rear rack", 1850, False, "on the wall"),
            ("horn and its bracket", 310, True, "box 4, shelf by the door")):
        b.add("removed", name=name, place=shell if "horn" in name else tail, mass_g=mass_g, estimated=estimated,
              stored=stored)
    b.do(SetRules(values={"leads": "bullet 3.9",
                          "reasons": {"leads": "As the old loom had them; slim past the tank."}}))
    for load in extra:
        b.do(RemoveElement(id=load))
    return b.plan, b.steps


def mud_hopper() -> tuple[Plan, list[Edit]]:
    """The pull-start utility bike being given charging and lamps: half-wave at first, so that the frame may be
    shared."""
    b = Builder("Charging and lamps added")
    b.machine(name="Mud hopper", kind="utility bike", system="ignition_only", chassis="negative", idle_rpm=1800,
              town_rpm=3600, cruise_rpm=5200, cranking_a=0)
    engine = b.add("place", name="engine cover", x_mm=540, y_mm=70, ambient_c=60)
    box = b.add("place", name="rack box", x_mm=-170, y_mm=420, ambient_c=35)
    bars = b.add("place", name="handlebar", x_mm=790, y_mm=690, ambient_c=30)
    tail = b.add("place", name="rack end", x_mm=-310, y_mm=350, ambient_c=30)
    for a, z, length in ((engine, box, 0.9), (engine, bars, 1.05), (box, tail, 0.3)):
        b.add("run", a=a, b=z, length_m=length)
    b.add("kill", name="engine kill wire", place=engine)
    b.add("battery", name="small AGM", place=box, chemistry="agm", capacity_ah=5, rate_h=20, internal_mohm=30,
          charge_a=0.5)
    b.add("generator", name="added charging coils", place=engine, phases=1, rating1_w=22, rating1_rpm=2500,
          rating2_w=55,
          rating2_rpm=5200, rating_v=14.0, phase_ohm=0.45, diode_v=0.9, regulator="shunt", set_v=14.0, tied="frame",
          rectifier="half")
    switch = b.add("tap", name="light switch wire", place=bars, live="engine", rated_a=3, fused_a=5, source_mohm=90)
    battery = b.plan.battery.id if b.plan.battery else ""
    b.add("load", name="LED headlamp", category="lamp", amount=15, place=bars, feed=battery, live="engine",
          window_low_v=9,
          window_high_v=32)
    b.add("load", name="Tail lamp", category="lamp", amount=3, place=tail, feed=battery, live="engine", window_low_v=9,
          window_high_v=32)
    b.add("load", name="Probe charger", category="electronics", amount=10, place=bars, feed=switch, live="engine",
          window_low_v=9,
          window_high_v=32)
    return b.plan, b.steps


def lights_and_horn() -> tuple[Plan, list[Edit]]:
    """The same bike, its coils rewound: head lamp, indicators, brake lamp and horn, in stages. LED lamps hang on
    a thermal flasher that was made for filaments."""
    b = Builder("Lights and horn")
    b.machine(name="Mud hopper", kind="utility bike", system="battery", chassis="negative", idle_rpm=1800,
              town_rpm=3600, cruise_rpm=5200, cranking_a=0)
    at = {name: b.add("place", name=name, x_mm=x, y_mm=y, ambient_c=air, moves=moves) for name, x, y, air, moves in (
        ("engine cover", 540, 70, 60, "still"), ("rack box", -170, 420, 35, "still"),
        ("handlebar", 790, 690, 30, "with the steering"), ("front", 985, 480, 30, "with the steering"),
        ("headstock", 895, 490, 40, "with the steering"), ("rack end", -310, 350, 30, "still"))}
    for a, z, length in (("engine cover", "rack box", 0.9), ("engine cover", "headstock", 0.85),
                         ("headstock", "handlebar", 0.3), ("headstock", "front", 0.25), ("rack box", "rack end", 0.3)):
        b.add("run", a=at[a], b=at[z], length_m=length, **(BY_THE_AXIS if z == "headstock" else {}))
    b.add("battery", name="AGM in the rack box", place=at["rack box"], chemistry="agm", capacity_ah=7, rate_h=10,
          internal_mohm=22, charge_a=0.7, stage="A")
    b.add("generator", name="rewound coils", place=at["engine cover"], phases=1, rating1_w=60, rating1_rpm=1800,
          rating2_w=130, rating2_rpm=5200, rating_v=14.0, phase_ohm=0.3, diode_v=0.9, regulator="series", set_v=14.0,
          winding_at=at["engine cover"], stage="A")
    b.add("tap", name="ignition switch wire", place=at["handlebar"], live="key", rated_a=3, fused_a=5, source_mohm=90)
    block = b.add("block", name="block in the rack box", place=at["rack box"], ways=6, stage="A")
    for kind, values in (
            (HeadLamp, {"lamp_at": at["front"], "switch_at": at["handlebar"], "lamps": "power", "dip_w": 12,
                        "main_w": 18}),
            (BrakeLamp, {"lamp_at": at["rack end"], "lever_at": at["handlebar"], "pedal_at": at["engine cover"],
                         "lamps": "power", "watts": 4}),
            (Horn, {"horn_at": at["front"], "button_at": at["handlebar"], "horn_feed": block, "watts": 30}),
            (Indicators, {"front_at": at["front"], "rear_at": at["rack end"], "switch_at": at["handlebar"],
                          "flasher_at": at["rack box"], "lamps": "power", "watts": 1.5, "way": "thermal"})):
        b.do(carried_out(b.plan, kind.model_validate({**values, "feed": block})))
    for part in b.plan.parts:
        if part.kind in ("load", "selector", "flasher") and not part.stage:
            turns = part.name.startswith(("Indicator", "flasher", "indicator"))
            b.change(part.id, stage="C" if turns else "B")
            if turns and part.kind == "load":  # sold with sealed plugs
                b.change(part.id, termination="sealed small")
    return b.plan, b.steps


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
    leads = gather(analyse(b.plan), at["handlebar"])
    contact = Contact(most_a=10, barrel_mm2=1.5, shared_ohm=leads.shared_ohm or 0.0)
    made = consolidate([replace(lead, tolerates_v=0.017) if lead.name == "Throttle neg" else lead
                        for lead in leads.leads], contact)
    for edit in led_through(leads, joints(made, 2), contact, at["handlebar"], at["controller box"]):
        b.do(edit)
    return b.plan, b.steps


def as_found() -> tuple[Plan, list[Edit]]:
    """The tourer before anything is planned: connectors half probed, readings, a nameless switch, a part taken off."""
    b, at = _tourer("Survey, as found in spring")

    def plug(name: str, place: str, pins: list[dict[str, Any]], **values: Any) -> str:
        b.do(PutPlug(values={"name": name, "place": place, "ways": len(pins), **values},
                     pins=tuple({"way": n, **pin} for n, pin in enumerate(pins, 1))))
        return b.plan.plugs[-1].id

    colours = ("RD/WH", "BN", "GN/YE", "BK/WH")
    accessory = plug("accessory plug", at["seat"],
                     [{"wire_colour": c, "function": "unknown"} for c in colours], use="accessory",
                     reach="seat off", housing="sealed 2.8 mm blade, 4-way", rows=2, half="receptacles")
    plug("heated-gear plug", at["rider"],
         [{"wire_colour": c, "function": "unknown"} for c in ("BN/WH", "BK")], use="heated gear",
         reach="nothing, hangs behind the panel", housing="unsealed 6.3 mm blade, 2-way", half="receptacles")
    plug("diagnostic plug", at["seat"],
         [{"wire_colour": c, "function": "unknown"} for c in ("YE", "GN", "BK")], use="diagnostic",
         reach="seat off", housing="sealed 1.5 mm, 3-way", never="CAN")
    plug("generator plug", at["battery"],
         [{"wire_colour": "YE", "function": "other", "phase": True, "goes_to": f"stator phase {n}",
                                            "new_colour": "BK"} for n in (1, 2, 3)], use="generator",
                                            reach="left panel off",
         housing="6.3 mm blade, 3-way", latch="none")
    battery = b.plan.battery.id if b.plan.battery else ""
    first, second = (p.id for p in b.plan.pins(accessory)[:2])
    b.do(TakeReadings(readings=tuple(
        {"element": element, "quantity": quantity, "state": state, "value": value, "instrument": "pocket meter",
         "taken": "2026-03-14T10:20:00+00:00",
         "by": "Demo technician"}
        for element, quantity, state, value in (
            (battery, "V", "key_off", 12.52), (battery, "V", "cranking", 9.9), (battery, "V", "idle", 13.1),
            (battery, "V", "raised", 14.2),
            (battery, "A", "key_off", 0.012), (first, "V", "key_off", 0.02), (first, "V", "key_on", 12.18),
            (second, "V", "key_off", 0.01)))))
    b.do(AddElement(what="table",
        values={"name": "old lamp switch", "terminals": ("1", "2", "3"), "positions": ("dipped", "high"), "beeps": (
        {"position": 0, "a": 0, "b": 1, "beeps": True}, {"position": 0, "a": 0, "b": 2, "beeps": False},
        {"position": 1, "a": 0, "b": 2, "beeps": True})}))
    b.do(AddElement(what="removed",
        values={"name": "rear carrier bracket", "place": at["tail"], "stored": "shelf 3, bag with the white label"}))
    return b.plan, b.steps


def hidden_pins() -> dict[str, dict[int, dict[str, Any]]]:
    """What the pins of `as_found` really are, which only the simulated meter knows: by connector and way."""
    return {
        "accessory plug": {1: {"function": "feed", "live": "key"}, 2: {"function": "lamp"}, 3: {"function": "ground"},
                           4: {"function": "feed", "live": "always"}},
        "heated-gear plug": {1: {"function": "feed", "live": "engine"}, 2: {"function": "ground"}},
        "diagnostic plug": {1: {"function": "signal"}, 2: {"function": "signal"}, 3: {"function": "ground"}},
    }


SHELF = (
    Stock("ring M6, 0.35 to 1.5 mm²", "box 12", "ring box", 0.14, 25, 31, 10),
    Stock("blade receptacle 6.3, 0.5 to 1.5 mm²", "box 3", "blade box", 0.09, 50, 4, 20),
    Stock("red butt splice, 0.35 to 1.5 mm²", "box 7", "", 0.11, 50, 63, 25),
    Stock("shrink tube with lining 3.2/1", "reel 2", "", 0.85, 5, 3.4, 2),
    Stock("0.5 mm² BK", "reel 9", "wire rack", 0.28, 100, 41, 10),
    Stock("tie, 2.5 mm", "drawer 1", "", 0.02, 100, 260, 100))


PLANS = (fit_out, winter, ferry_runner, tide_race, mud_hopper, tide_hauler, as_found, lights_and_horn, one_plug)


def after(steps: list[Edit]) -> Plan:
    """The plan that some edits make of an empty one."""
    plan = Plan()
    for step in steps:
        plan = apply(plan, step)
    return plan
