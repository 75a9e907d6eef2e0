"""Jobs on whole harnesses: full electrics, a competition harness."""

from .pages import Pages


def full_electrics(p: Pages) -> None:
    """From ignition only to full electrics, in three stages: coils and battery; lamps, horn and indicators; the
    starter."""
    p.begin("utility bike", "pull start", "From ignition to full electrics", job="convert/electrics")
    p.change("charging coils, to be added", rating1_w=60, rating2_w=140, stage="A", winding_at=p.at("engine cover"))
    p.change("battery, to be added", stage="A", capacity_ah=7)
    p.machine(cranking_a=60)
    p.change("light switch, to be added", stage="A", rated_a=3, fused_a=5)
    p.add("block", "fuse block", place=p.at("rack box"), ways=8, stage="B")
    feed = p["fuse block"]
    p.want("head lamp", lamp_at=p.at("front"), switch_at=p.at("handlebar"), feed=feed, has_off="yes", lamps="power",
           dip_w=12, main_w=18)
    p.want("brake lamp", lamp_at=p.at("rack end"), lever_at=p.at("handlebar"), pedal_at=p.at("engine cover"),
           feed=feed, lamps="power", watts=4)
    p.want(
        "horn", horn_at=p.at("front"), button_at=p.at("handlebar"), through="relay", feed=feed, horn_feed=feed, watts=30
    )
    p.want("indicators", front_at=p.at("front"), rear_at=p.at("rack end"), switch_at=p.at("handlebar"),
           flasher_at=p.at("rack box"), feed=feed, lamps="power", watts=1.5, way="thermal")
    for part in (
        "dip switch",
        "Dipped beam",
        "Main beam",
        "brake lever switch",
        "brake pedal switch",
        "Brake lamp",
        "horn button",
        "Horn",
        "flasher",
        "indicator switch",
        *(f"Indicator {side} {end}" for side in ("left", "right") for end in ("front", "rear")),
    ):
        p.change(part, stage="B")
    p.want("starter", solenoid_at=p.at("rack box"), button_at=p.at("handlebar"), starter_at=p.at("engine cover"),
           feed=feed, safety="neutral switch", safety_at=p.at("engine cover"), coil_ohm=4)
    for part in ("starter", "starter solenoid", "neutral switch", "starter button"):
        p.change(part, stage="C")


def competition_harness(p: Pages) -> None:
    """A competition machine's harness: what is obsolete taken off, the rest close together, AWG wire, returns joined,
    leads cut to length."""
    p.begin("motorcycle", "off-road", "Competition harness", job="strip down/off")
    p.rules(sizes="AWG", least_area_mm2="0.5", end_allowance_m=0.04)
    for part in ("passenger lamps", "clock", "old horn"):
        p.add("removed", part, place=p.at("front"), stored="crate 2")
    p.add("junction", "returns meet", place=p.at("headstock"), form="star point", terminals=6)
    p.add("block", "small block", place=p.at("headstock"), ways=4, return_to=p["returns meet"])
    p.want("head lamp", lamp_at=p.at("front"), switch_at=p.at("handlebar"), feed=p["small block"], has_off="yes",
           lamps="power", dip_w=20, main_w=30)
    for beam in ("Dipped beam", "Main beam"):
        p.change(beam, return_to=p["returns meet"])
    p.add("load", "Lap timer", category="electronics", amount=3, at_v=13.5, live="key", place=p.at("handlebar"),
          feed=p["small block"], window_low_v=9, window_high_v=32, return_to=p["returns meet"])
    p.fix(p.wire_to(f"{p['Lap timer']}.pos"), length_m=0.42)


JOBS = {
    "11-full-electrics": full_electrics,
    "17-competition": competition_harness,
}
