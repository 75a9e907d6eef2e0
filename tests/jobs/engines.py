"""Jobs about what an engine needs: starter, coils, regulator, lamps on a magneto, whole harnesses."""

from loadstar.core.survey.continuity import as_positions

from .pages import Pages


def battery_and_starter(p: Pages) -> None:
    """A battery and its starter on a small engine, the battery where it fits and so far from the starter; charging lead
    from the generator's post, the kill lead kept apart."""
    p.begin("utility bike", "starter", "Battery and starter", job="fit/starter")
    p.machine(cranking_a=60)
    p.change("generator", winding_at=p.at("engine cover"))
    p.want("starter", solenoid_at=p.at("rack box"), button_at=p.at("handlebar"), starter_at=p.at("engine cover"),
           feed=p["tail lamp wire"], safety="none", safety_at=p.at("engine cover"), coil_ohm=4)
    p.add("kill", "engine kill wire", place=p.at("engine cover"))


def off_road_to_dc(p: Pages) -> None:
    """An off-road machine to DC: its winding is tied to the frame and so would be the battery; a fan by thermostat and
    switch on the line that lives only while the engine runs."""
    p.begin("small motorcycle", "off-road", "Off-road machine to DC", job="convert/starter")
    p.change("generator", tied="frame", rectifier="full", winding_at=p.at("magneto"), limit_a=12)
    p.add("tap", "run line", place=p.at("battery"), live="engine", rated_a=8, fused_a=10, off_delay_s=4)
    p.want("fan", fan_at=p.at("headstock"), thermostat_at=p.at("headstock"), switch_at=p.at("handlebar"),
           feed=p["run line"], watts=55)
    p.add("load", "Work lamp", category="lamp", amount=10, at_v=13.5, live="engine", place=p.at("headlamp shell"),
          feed=p["run line"], window_low_v=9, window_high_v=32, returns="frame")


def magneto_lighting(p: Pages) -> None:
    """Magneto lighting with its old switch understood by beeping: dipped and main change over, the earths of both lamps
    meet half way and go on as one wire to the engine; looked at up to over-revving."""
    p.begin("small motorcycle", "magneto 6", "Magneto lighting", job="convert/head lamp")
    for lamp in ("Headlamp", "Tail lamp", "Speedometer lamp"):
        p.remove(lamp)
    p.machine(rev_rpm=6500)
    p.table(
        "old lamp switch",
        "feed, dip, main, park",
        "off, dip, main",
        {
            **{f"t-0-{a}-{b}": "silent" for a in range(4) for b in range(a + 1, 4)},
            **{f"t-1-{a}-{b}": "beeps" if {a, b} <= {0, 1, 3} else "silent" for a in range(4) for b in range(a + 1, 4)},
            **{f"t-2-{a}-{b}": "beeps" if {a, b} <= {0, 2, 3} else "silent" for a in range(4) for b in range(a + 1, 4)},
        },
    )
    p.add("junction", "earth half way", place=p.at("headstock"), form="star point", terminals=4)
    p.press(
        kind="add",
        what="selector",
        values={
            "name": "old lamp switch",
            "place": p.at("headlamp shell"),
            "positions": as_positions(p.plan.tables[-1]),
        },
    )
    p.change("old lamp switch", feed=p["lighting coil"], live="engine")
    for name, watts, live, place in (
        ("Dipped beam", 24, "dip", "headlamp shell"),
        ("Main beam", 24, "main", "headlamp shell"),
        ("Tail lamp", 5, "park", "tail"),
    ):
        p.add("load", name, category="lamp", behaviour="filament", amount=watts, at_v=6, live=live, place=p.at(place),
              feed=p["old lamp switch"], window_low_v=0, window_high_v=7.8, returns="own wire",
              return_to=p["earth half way"])


def survey_of_a_machine(p: Pages) -> None:
    """A new machine stripped down once: every plug, pin and rating written down with what comes off to reach it."""
    p.begin("motorcycle", "middle", "Survey of a new machine", job="write down/survey")
    p.plug(
        "lamp plug, grey",
        p.at("front"),
        [
            {"function": "feed/dip", "wire_colour": "yellow", "rated_a": 6},
            {"function": "feed/main", "wire_colour": "white", "rated_a": 6},
            {"function": "ground", "wire_colour": "brown"},
            {"function": "feed/park", "wire_colour": "grey", "rated_a": 1},
        ],
        use="lamp",
        housing="sealed 2.8 mm blade",
        reach="front panel off, 12 min",
    )
    p.plug(
        "tail plug, white",
        p.at("tail"),
        [
            {"function": "feed/brake", "wire_colour": "green", "rated_a": 3},
            {"function": "ground", "wire_colour": "brown"},
            {"function": "feed/left", "wire_colour": "blue", "rated_a": 2},
            {"function": "feed/right", "wire_colour": "black", "rated_a": 2},
        ],
        use="brake lamp",
        reach="grab rail off, 8 min",
    )
    for pin in ("lamp plug, grey pin 1", "tail plug, white pin 1"):
        p.change(pin, fused_a=7.5)
    p.add("load", "Brake lamp strip", category="lamp", amount=5, at_v=13.5, live="brake", place=p.at("tail"),
          feed=p["tail plug, white pin 1"], window_low_v=9, window_high_v=32)


def many_leads_one_connector(p: Pages) -> None:
    """A controller with many plugs made removable by one connector: what truly shares a ground shares a way, power goes
    by a plug of its own, which turned out too small."""
    p.begin("motorcycle", "large", "Many leads into one connector", "navigation", "usb", "spot", "camera",
            job="fit/many leads")
    p.add("coupling", "sealed 2.8 mm blade, 8-way", place=p.at("headstock"), ways=8, rated_a=10)
    for load in ("Navigation unit", "USB charger, one phone", "Camera, front and rear"):
        p.cut(p.wire_to(f"{p[load]}.pos"), into=p["sealed 2.8 mm blade, 8-way"])
    p.add("junction", "common ground", place=p.at("front"), form="splice")
    for load in ("Navigation unit", "USB charger, one phone", "Camera, front and rear"):
        p.change(load, return_to=p["common ground"])
    ground = p.wire(f"{p['common ground']}.t", f"{p['fuse block']}.ret")
    p.cut(ground, into=p["sealed 2.8 mm blade, 8-way"])
    p.change("LED spot lamp", amount=70)
    p.cut(p.wire_to(f"{p['LED spot lamp']}.pos"), place=p.at("headstock"))
    power = next(c for c in p.plan.of_kind("coupling") if c.name.startswith("connector in"))
    p.change(power.name, name="power plug, 2-way", rated_a=5)


def materials_and_schools(p: Pages) -> None:
    """A workshop that takes AWG wire of a better class, joins by solder splice and covers with loom tape; the same
    accessories as ever."""
    p.begin("touring motorcycle", "middle", "Materials and schools", "grips", "lamp pair", "usb")
    p.rules(
        sizes="AWG",
        insulation="C",
        tinned=True,
        joints="solder splice",
        covering="loom tape",
        why_joints="the wires are too thin for the die at hand",
        why_covering="soft, and not sticky in summer",
        why_insulation="near the exhaust",
        why_tinned="salt",
        why_sizes="what is on the shelf",
    )


def generator_renewal(p: Pages) -> None:
    """A generator renewed: like phases may go in any order though their colours are new, the pulse leads go by theirs;
    its leads are made up where they go in, and the winding's are looked at for what the stronger one gives."""
    p.begin("motorcycle", "large", "Generator renewal", job="renew/generator")
    p.want(
        "renew generator",
        high_w=520,
        high_rpm=5000,
        low_w=200,
        winding="YE > WH, YE > GY, YE > BK",
        others="GN/WH > BU, BU > GN",
        plug_at=p.at("regulator"),
        lead_mm2="2",
        terminals="sealed 6.3",
    )
    p.change("generator", regulator="shunt", winding_at=p.at("generator"), winding_mm2="2")


JOBS = {
    "09-battery-and-starter": battery_and_starter,
    "12-off-road-to-dc": off_road_to_dc,
    "13-magneto-lighting": magneto_lighting,
    "14-survey": survey_of_a_machine,
    "15-many-leads": many_leads_one_connector,
    "16-materials": materials_and_schools,
    "20-generator": generator_renewal,
}
