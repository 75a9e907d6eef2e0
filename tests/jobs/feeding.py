"""Jobs about where power is taken from: plugs, blocks, modules, outlets, leads."""

from .pages import Pages


def sealed_plug_on_bare_leads(p: Pages) -> None:
    """Two fog lamps with bare leads go on the machine's own dipped-beam wire, each by a sealed plug of its own."""
    p.begin("motorcycle", "middle", "Fog lamps on bare leads", job="fit/plug on a lead")
    p.add("tap", "dipped beam wire", place=p.at("headstock"), live="dip", rated_a=6, fused_a=10, source_mohm=70,
          wire_colour="yellow")
    for side in ("left", "right"):
        p.add("load", f"Fog lamp {side}", category="lamp", amount=18, at_v=13.5, window_low_v=9, window_high_v=16,
              live="dip", place=p.at("front"), feed=p["dipped beam wire"], lead_m=0.4)
        p.want("plug on a lead", lead_of=p[f"Fog lamp {side}"], lead_m=0.4, lead_mm2=0.75, family="sealed 2.8",
               live_wire="blue")


def distribution_module(p: Pages) -> None:
    """A solid-state module under the seat, woken by a pin that lives with the key: a lamp, a charger that wakes late, a
    quick-disconnect for the luggage; two ways stay spare."""
    p.begin("touring motorcycle", "large", "Module under the seat")
    p.add("module", "switching module", place=p.at("under the seat"), ways=6, total_a=40, way_most_a=15)
    common = {"feed": p["switching module"], "live": "key", "at_v": 13.5, "window_low_v": 9, "window_high_v": 32}
    p.add("load", "Spot lamp", category="lamp", amount=36, place=p.at("front"), inrush_a=8, inrush_ms=1, **common)
    p.add("load", "Logger charger", category="electronics", amount=12, place=p.at("tail"), **common)
    p.add("lead", "luggage outlet", place=p.at("tail"), feed=p["switching module"], live="key", rated_a=10)
    p.add("load", "In the luggage", category="other", behaviour="current", unit="A", amount=5, at_v=13.5,
          window_low_v=0, window_high_v=16, live="key", place=p.at("tail"), feed=p["luggage outlet"],
          minutes_per_hour=30)
    p.add("load", "Heated seat", category="heating", behaviour="resistor", amount=40, place=p.at("under the seat"),
          **{**common, "at_v": 14.2, "window_high_v": 15.5})
    p.change("Logger charger way", on_delay_s=5, off_delay_s=30)
    p.change("Spot lamp way", soft_start_ms=200)


def plug_to_block(p: Pages) -> None:
    """A small block on the accessory plug, its ground on the battery; grips, a charger and a navigation unit on it, and
    a third heavy user that the plug would not carry."""
    p.begin("touring motorcycle", "middle", "Block on the accessory plug")
    p.change("accessory plug pin 1", rated_a=6, fused_a=10, source_mohm=50)
    p.press(kind="confirm", ids=[p["accessory plug"], p["accessory plug pin 1"], p["accessory plug pin 2"]])
    p.want("block on plug", block_at=p.at("side panel"), plug=p["accessory plug pin 1"], ground="battery", ways=4)
    block = p["fuse block on the plug"]
    p.add("load", "Heated grips", category="heating", behaviour="resistor", amount=30, at_v=14.2, live="key",
          place=p.at("handlebar"), feed=block, window_low_v=9, window_high_v=15.5)
    p.add("load", "Charger", category="electronics", amount=12, at_v=13.5, live="key", place=p.at("handlebar"),
          feed=block, window_low_v=9, window_high_v=24)
    p.add("load", "Heated seat", category="heating", behaviour="resistor", amount=55, at_v=14.2, live="key",
          place=p.at("under the seat"), feed=block, window_low_v=9, window_high_v=15.5)


def factory_plug(p: Pages) -> None:
    """A radio on a factory plug, nothing cut: the plug is written down and found live with the key, and the radio's
    own lead is plugged in as it came."""
    p.begin("motorcycle", "large", "Radio on a factory plug")
    p.plug(
        "radio plug",
        p.at("under the seat"),
        [
            {"function": "feed/key", "wire_colour": "orange", "rated_a": 7},
            {"function": "ground", "wire_colour": "brown"},
        ],
        use="accessory",
        housing="sealed 2.8 mm blade",
        reach="seat off",
    )
    p.change("radio plug pin 1", fused_a=10, source_mohm=60)
    p.add("load", "Two-way radio", category="electronics", amount=60, at_v=13.5, live="key", place=p.at("tail"),
          feed=p["radio plug pin 1"], window_low_v=11, window_high_v=15.5, minutes_per_hour=3, standby_ma=900,
          lead_m=1.1, lead_mm2=1.5, plugged=True)


def second_socket(p: Pages) -> None:
    """A second socket beside the first by a Y lead, nothing cut: the heavy user goes on the old one and is said
    never to
    run with what is on the new."""
    p.begin("scooter", "large", "Second socket on one feed")
    p.add("lead", "Y lead behind the panel", place=p.at("fuse box"), end="spliced", feed=p["battery"], live="key")
    socket = {
        "category": "other",
        "behaviour": "current",
        "unit": "A",
        "at_v": 13.5,
        "window_low_v": 0,
        "window_high_v": 16,
        "live": "key",
        "place": p.at("fuse box"),
        "feed": p["Y lead behind the panel"],
    }
    p.add("load", "Old socket: inflator", amount=9, minutes_per_hour=5, inrush_a=30, inrush_ms=300,
          inrush_shape="decay", **socket)
    p.add("load", "New socket: charger", amount=3, minutes_per_hour=60,
          never_with=[p["Old socket: inflator"]], **socket)


def switched_and_constant(p: Pages) -> None:
    """A block with switched and constant ways, its trigger taken over from a sister machine; two outlets with fuses of
    their own, a charging lead straight off the battery, and rings on the post counted."""
    p.begin("motorcycle", "large", "Switched and constant ways")
    p.add("block", "fuse block", place=p.at("under the seat"), ways=8, total_a=60, way_most_a=25)
    p.change("tail lamp wire", rated_a=2, fused_a=10, standing="believed")
    p.add("load", "Tracker", category="tracker", amount=2.5, at_v=12.8, live="always", place=p.at("tail"),
          feed=p["fuse block"], window_low_v=8, window_high_v=30, standby_ma=12, minutes_per_hour=2,
          reason_always="It reports while parked.")
    for name, amps in (("vest outlet", 5), ("compressor outlet", 12)):
        p.add("lead", name, place=p.at("side panel"), feed=p["fuse block"], live="key", rated_a=15)
        p.add("load", f"On the {name}", category="other", behaviour="current", unit="A", amount=amps, at_v=13.5,
              window_low_v=0, window_high_v=16, live="key", place=p.at("side panel"), feed=p[name],
              minutes_per_hour=15)
    p.want("charging lead", end_at=p.at("side panel"), feed=p["battery"], most_a=4, rated_a=10)
    for n in (1, 2):
        p.add("load", f"Camera {n}", category="electronics", amount=4, at_v=13.5, live="always", place=p.at("front"),
              feed=p["battery"], window_low_v=9, window_high_v=30, reason_always="It records while parked.")


def navigation_two_feeds(p: Pages) -> None:
    """A navigation unit with a memory wire and a wake wire on a factory plug that goes dead some time after the key;
    its
    step-down box stays in, and what came off is bagged."""
    p.begin("touring motorcycle", "large", "Navigation on the factory plug")
    p.change("accessory plug pin 1", rated_a=5, fused_a=7.5, off_delay_s=40)
    p.press(kind="confirm", ids=[p["accessory plug"], p["accessory plug pin 1"], p["accessory plug pin 2"]])
    p.want("navigation", unit_at=p.at("handlebar"), feed=p["accessory plug pin 1"], memory_feed=p["battery"], watts=8,
           memory_ma=3)
    p.add(
        "removed", "old phone cradle", place=p.at("handlebar"), stored="bag 3, shelf by the door", note="screws with it"
    )


JOBS = {
    "01-sealed-plug": sealed_plug_on_bare_leads,
    "02-distribution-module": distribution_module,
    "04-plug-to-block": plug_to_block,
    "05-factory-plug": factory_plug,
    "06-second-socket": second_socket,
    "18-switched-and-constant": switched_and_constant,
    "19-navigation": navigation_two_feeds,
}
