"""Jobs on machines that run from a pack."""

from .pages import Pages


def pack_leads(p: Pages) -> None:
    """The heavy leads from the pack to the drive, three returns in one barrel; somebody has bypassed the pack's
    protection, because the drive cuts out."""
    p.begin("cargo e-bike", "48 v", "Why it cuts out", job="fit/traction")
    p.change("pack", cell_mohm=55, bms_continuous_a=25, bms_peak_a=40, bms="bypassed", bypass_by="found so")
    p.change("drive", full_w=1400, limit_a=32)
    p.want("traction", connector_at=p.at("pack"), rated_a=40, contact_mohm=0.6)
    p.add("junction", "common negative", place=p.at("drive unit"), form="one barrel", barrel_mm2=10)
    for _ in range(3):
        p.wire(f"{p['common negative']}.t", f"{p['pack']}.neg", area_mm2="4")


def second_pack(p: Pages) -> None:
    """A second pack by a changeover switch, its data lines through a connector; one of them was forgotten."""
    p.begin("cargo e-bike", "36 v", "A second pack", job="second source/pack")
    p.change("pack", data_line=True)
    p.change("drive", needs_data=True)
    p.add("pack", "second pack", place=p.at("cargo box"), series=10, parallel=3, cell_ah=3.4, bms_continuous_a=25,
          bms_peak_a=50, data_line=True, charge_frac=60)
    p.add("combiner", "pack switch", place=p.at("pack"), way="changeover", rated_a=40, data_switched=True)
    from_pack = p.add("device", "second pack, data", place=p.at("cargo box"), lines="rx, tx")
    to_drive = p.add("device", "controller, data", place=p.at("drive unit"), lines="rx, tx")
    p.cut(p.wire(f"{from_pack}.rx", f"{to_drive}.rx", colour="GN"), place=p.at("pack"))


def lamp_on_the_port(p: Pages) -> None:
    """Which conductor of a cut plug is its centre pin, by beeping; then a bright lamp and a rear lamp on the light
    port,
    which does not give enough for both."""
    p.begin("trail e-bike", "36 v", "Lamp on the light port", "bike lamp", "bike rear")
    p.change("light port", limit_w=17, enabled=True)
    p.table("cut lamp plug", "red, black, centre", "", {"t-0-0-2": "beeps", "t-0-1-2": "silent", "t-0-0-1": "silent"})
    p.change("E-bike front lamp", amount=20)


def step_down(p: Pages) -> None:
    """A converter on a scooter's pack behind a switch at the bars, a lamp and a phone on it; the fuse stands before the
    switch, at the pack, and breaks its full voltage."""
    p.begin("e-scooter", "48 v", "Step-down converter")
    p.want(
        "converter", converter_at=p.at("headstock"), switch_at=p.at("handlebar"), order="behind", out_v=12, rated_a=5
    )
    for name, watts, place in (("Front lamp", 12, "headstock"), ("Phone charger", 15, "handlebar")):
        p.add("load", name, category="lamp" if "lamp" in name else "electronics", amount=watts, at_v=12,
              live="switch", place=p.at(place), feed=p["12 V converter"], window_low_v=9, window_high_v=16)


def packs_in_parallel(p: Pages) -> None:
    """An external pack of the same cells in plain parallel, joined while the one is full and the other half empty."""
    p.begin("e-scooter", "48 v", "External pack in parallel", job="second source/pack")
    first = p.plan.packs[0]
    p.change("pack", rested_v=53.5)
    p.add("pack", "external pack", place=p.at("headstock"), series=first.series, parallel=first.parallel,
          cell_ah=first.cell_ah, cell_mohm=35, bms_continuous_a=40, bms_peak_a=80, rested_v=48.1)
    p.add("combiner", "two-pole plugs", place=p.at("pack"), way="parallel", rated_a=60)


JOBS = {
    "03-pack-leads": pack_leads,
    "07-second-pack": second_pack,
    "08-lamp-on-the-port": lamp_on_the_port,
    "10-step-down": step_down,
    "21-packs-in-parallel": packs_in_parallel,
}
