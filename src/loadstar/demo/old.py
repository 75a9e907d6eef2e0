"""The old small motorcycle with magneto lighting and the pull-start utility bike."""


from ..core.edits import (
    AddElement,
    CutWire,
    Edit,
    MoveEnd,
    RemoveElement,
    RemoveWire,
    SetRules,
)
from ..core.edits.builder import Builder
from ..core.intents import carried_out
from ..core.intents.lamps import BrakeLamp, HeadLamp, Indicators
from ..core.intents.motors import Horn
from ..core.plan.model import Plan
from .ways import BY_THE_AXIS


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
