"""What forms ask of what is no part: machine, places and runs, connectors and readings, house rules. Parts say it
themselves."""

from loadstar.core.doc.machine import Machine
from loadstar.core.doc.places import Place, Run
from loadstar.core.doc.rules import HouseRules
from loadstar.core.doc.survey import Removed
from loadstar.core.doc.types import Doc
from loadstar.core.materials.hazards import HAZARDS, OPEN
from loadstar.core.materials.terminals import FAMILIES
from loadstar.core.parts.asks import COLOURS, NEVER, Ask, name, place, whole
from loadstar.core.parts.registry import KINDS

BODY_KINDS = tuple((k, k) for k in ("touring motorcycle", "motorcycle", "small motorcycle", "scooter", "utility bike",
                               "trail e-bike", "cargo e-bike", "e-scooter"))
SYSTEMS = (("battery", "battery and generator"), ("total_loss", "battery that nothing charges"),
           ("magneto", "magneto lighting, no battery"), ("ignition_only", "ignition only, no battery yet"),
           ("pack", "traction pack (e-bike)"))
CHASSIS = (("negative", "battery negative"), ("floating", "nothing: it floats"), ("winding", "one end of the winding"))


INSULATIONS = (("A", "class A, 85 °C"), ("B", "class B, 100 °C"), ("105", "105 °C"), ("C", "class C, 125 °C"),
               ("D", "class D, 150 °C"))

MACHINE_HEAD = (
    Ask("name", "Machine", kind="text"), Ask("kind", "Kind", kind="choice", choices=BODY_KINDS),
    Ask("size", "Size class", "Decides what is usual for it.", kind="choice", optional=True),
    Ask("system", "Runs on", kind="choice", choices=SYSTEMS),
    whole("system_v", "Nominal voltage", (6, 12, 18, 24, 36, 48, 52, 60, 72), "{} V"),
    Ask("chassis", "Its frame is joined to", kind="choice", choices=CHASSIS),
)
MACHINE = (
    *MACHINE_HEAD, Ask("idle_rpm", "Idle speed"), Ask("town_rpm", "Town speed"), Ask("cruise_rpm", "Cruise speed"),
    Ask("rev_rpm", "Over-revved to", "Empty: not looked at.", optional=True),
    Ask("cranking_a", "Starter current",
        "Measured with a clamp, or 100-130 A for a mid-size engine; 0 with a kick-start."),
)
MACHINE_PACK = (*MACHINE_HEAD, Ask("range_km", "Range you know from one full pack", unit="km"),
                Ask("range_wh", "known with a pack of", "Another pack goes by its energy. Empty: the first as it is.",
                    unit="Wh", optional=True))
PLACE = (
    Ask("name", "Place", kind="text"),
    Ask("x_mm", "Forward of the rear axle", "Negative is behind it."), Ask("y_mm", "Above the rear axle"),
    Ask("zone", "Air around the wires there", kind="choice", optional=True, choices=(
        ("", "as given below"), ("open", "open, by house rule"), ("under the tank", "under the tank, by house rule"),
        ("near the engine", "near the engine, by house rule"))),
    Ask("ambient_c", "Air there, at work"),
    Ask("side", "On the machine's", kind="choice", optional=True,
        choices=(("", "middle"), ("left", "left side"), ("right", "right side"))),
    Ask("reach", "To reach it", "What must come off.", kind="text", optional=True),
    Ask("water", "Water there", kind="choice", choices=tuple((k, k) for k in ("dry", "splashed", "washed over"))),
    Ask("moves", "It moves", kind="choice",
        choices=(("still", "not at all"), ("with the steering", "with the steering"),
                                                      ("with the suspension", "with the suspension"))),
    Ask("room", "Room there", "Length, width, depth in mm, as measured.", kind="text", optional=True),
    Ask("depth_mm", "Free behind its panel", optional=True),
)
REMOVED = (name("Part taken off"), Ask("place", "From", kind="choice", optional=True),
           Ask("mass_g", "Weighs", unit="g", optional=True), Ask("estimated", "That is estimated", kind="yes"),
           Ask("stored", "Kept at", kind="text", optional=True),
           Ask("note", "Note", kind="note", optional=True))
PLUG = (
    name("Connector"), place(), Ask("use", "Meant for", kind="choice", choices=tuple((k, k) for k in (
        "accessory", "heated gear", "navigation", "alarm", "lamp", "brake lamp", "indicator", "horn", "diagnostic",
        "light port", "generator",
        "motor", "switch", "other"))),
    Ask("ways", "Ways", unit=""), whole("rows", "in rows", (1, 2, 3, 4)),
    Ask("half", "This half has", kind="choice", optional=True, choices=(("", "not noted"), ("tabs", "tabs (male)"),
                                                                         ("receptacles", "receptacles (female)"))),
    Ask("seen", "Counted looking", kind="choice", choices=(("mouth", "into the mouth"), ("wires", "at the wire side"))),
    Ask("latch", "Latch faces", kind="choice", choices=tuple((k, k) for k in ("up", "down", "left", "right", "none"))),
    Ask("housing", "Housing", "In general words: sealed 2.8 mm blade.", kind="text", optional=True),
    Ask("reach", "To reach it", kind="text", optional=True),
    Ask("never", "Belongs to", kind="choice", optional=True, choices=NEVER),
    Ask("note", "Note", kind="text", optional=True),
)
PIN = (  # what it is can be chosen by one letter: each begins with another
    Ask("wire_colour", "Colour", kind="text", optional=True),
    Ask("function", "What it is", kind="choice", choices=(
        ("unknown", "not known yet"), ("feed/always", "always live"), ("feed/key", "key: live with it"),
        ("feed/engine", "engine: live with it"), ("feed/brake", "brake: live with it"),
        ("feed/horn", "horn: live with it"),
        ("feed/left", "turning left"), ("feed/right", "right, turning"), ("feed/dip", "dipped beam"),
        ("feed/main", "main beam"), ("feed/park", "parking lamp"), ("feed/hot", "warm: live when it is"),
        ("lamp", "lamp: live with it"), ("ground", "ground"), ("signal", "signal: leave it"), ("other", "own circuit"),
        ("unused", "unused"))),
    Ask("rated_a", "May give", optional=True), Ask("fused_a", "Factory fuse", optional=True),
    Ask("others", "Also on it", kind="text", optional=True),
    Ask("others_a", "which draw"),
    Ask("on_delay_s", "Live after"), Ask("off_delay_s", "Runs on for"),
    Ask("goes_to", "Goes to", kind="text", optional=True),
    Ask("new_colour", "New part's wire", kind="text", optional=True),
)
READING = (Ask("element", "At", kind="choice"), Ask("quantity", "What", kind="choice", choices=(
    ("V", "volts to battery negative"), ("A", "amps"), ("ohm", "ohms to frame, key off"),
    ("beep", "continuity to frame: 1 beeps, 0 silent"),
    ("s", "seconds it stays live after"))),
           Ask("state", "With", kind="choice"),
           Ask("value", "Shows", unit=""), Ask("instrument", "Instrument", kind="text", optional=True))
_BESIDE = tuple(
    Ask(field, hazard.asked, kind="choice", optional=True,
        choices=(("", "none"), (OPEN, "yes, not protected yet"), *((k, k) for k in hazard.cures)))
    for field, hazard in HAZARDS.items())
RUN = (
    Ask("a", "From", kind="choice"), Ask("b", "To", kind="choice"),
    Ask("length_m", "Length along the way", "Measured with a string where the wires will lie."),
    Ask("ambient_c", "Air around it, at work", "Empty: the warmer of its two ends.", optional=True),
    Ask("used", "Wires may take it", kind="yes"),
    Ask("side", "It lies on the", kind="choice", optional=True,
        choices=(("", "middle, or not said"), ("left", "left"), ("right", "right"))),
    Ask("covering", "Covered with", kind="choice", optional=True, choices=(("", "as the house rule"), *(
        (k, k) for k in ("braided sleeve", "loom tape", "PVC tape")), ("original sleeve", "its own sleeve, used again"),
        ("bare", "nothing"))),
    *_BESIDE,
    Ask("tied_to", "Tied to", kind="choice", optional=True, choices=(
        ("", "not said"), ("frame", "the frame"), ("brake line or control cable", "a brake line or control cable"))),
    Ask("tied_mm", "Ties are apart", "Empty: by the house rule.", optional=True),
    Ask("bore_mm", "Narrowest hole on the way", optional=True),
    Ask("threaded", "Drawn through with its connectors on", kind="yes"), Ask("slack_mm", "Slack laid in"),
    Ask("drip", "A drip loop before its end", kind="yes"),
    Ask("above_mm", "Past the headstock: from the axis above", optional=True),
    Ask("below_mm", "from the axis below", optional=True), Ask("high_mm", "apart along it", optional=True),
    Ask("start_deg", "around it, straight ahead", unit="°"), Ask("lock_deg", "Bars turn either way", unit="°"),
)
WIRE_ENDS = (Ask("a", "From", kind="choice"), Ask("b", "To", kind="choice"))
WIRE = (
    Ask("origin", "It is", kind="choice", choices=(
        ("new", "new, bought for this work"), ("found", "there already"),
        ("supplied", "from a lead that came with it"))),
    Ask("made", "New ends", "Of a wire that is there, or came with something: where it is cut back and gets a new "
        "terminal.", kind="choice", optional=True, choices=(
            ("", "at neither end"), ("a", "where it begins"), ("b", "where it ends"), ("ab", "at both"))),
    Ask("area_mm2", "Size", kind="choice", optional=True),
    Ask("length_m", "Measured length", "Empty: along its runs.", optional=True),
    Ask("insulation", "Insulation", kind="choice", optional=True, choices=(("", "by house rule"), *INSULATIONS)),
    Ask("wall", "Its wall", kind="choice", choices=(("thin", "thin"), ("thick", "thick"))),
    Ask("voltage_class", "Voltage class", "Printed on it. Above 60 V it matters.", kind="choice", optional=True,
        choices=(("", "as its voltage needs"), ("60 V", "60 V"), ("600 V", "600 V"))),
    Ask("carries_a", "Carries, as somebody said", "Where nothing in the plan drives it. Its fuse, drop and faults are "
        "not judged.",
        optional=True),
    Ask("colour", "Colour", kind="choice", choices=(*COLOURS, ("", "not said")), optional=True),
    Ask("stripe", "Stripe", kind="choice", choices=(("", "none"), *COLOURS), optional=True),
)
SHORTER = {"bare with a boot": "bare, booted"}  # what a list has no room for
SCHOOLS = {
    "leads": ("splice", "bullet 3.9", "sealed small", "sealed 2.8"),
    "returns": ("own wire", "frame"), "joints": ("crimp only", "crimp then solder", "solder splice"),
    "covering": ("braided sleeve", "loom tape", "PVC tape"), "feeds": ("block", "relay", "module", "plug"),
    "always_loads": ("allowed", "with a reason"), "colours": ("coded", "red and black"),
    "terminals": ("bare with a boot", "pre-insulated"),
}
RULE_GROUPS: tuple[tuple[str, tuple[Ask, ...]], ...] = (
    ("Voltage drop, share of the supply's voltage", (
        Ask("drop_lamp_frac", "to lamps", "Wires to lamps are made thick enough to lose no more."),
        Ask("drop_heating_frac", "to heating", "The same for grips, vests and seats."),
        Ask("drop_electronics_frac", "to electronics", "The same for chargers, navigation, trackers."),
        Ask("drop_motor_frac", "to motors", "The same for horns, pumps and fans."),
        Ask("drop_other_frac", "to others", "The same for everything else."),
        Ask("starter_drop_v", "in starter leads", "Most that both leads together lose while cranking."))),
    ("Fuses and heat", (
        Ask("fuse_share_frac", "Most of a fuse's rating that is used", "A fuse is chosen large enough that its circuit "
            "takes no more of what it stands in the heat there."),
        Ask("thermal_margin_k", "Margin below the wire's class", "A wire is chosen that stays so far under its "
            "insulation's limit.", unit="K"),
        Ask("unfused_limit_m", "Longest wire before a fuse", "A longer wire gives a finding."),
        Ask("chafe_arc_v", "Voltage of the arc in a short to frame", "0 for the usual 12 V; 10-20 V on 48 V packs."))),
    ("Air around the wires, by zone", (
        Ask("ambient_open_c", "in the open", "Where a place says no more."),
        Ask("ambient_tank_c", "under the tank", "In slow traffic in summer."),
        Ask("ambient_engine_c", "near the engine", "Beside cylinders and exhaust."))),
    ("Wire and joints", (
        Ask("least_area_mm2", "Least cross-section", "Thinner wire breaks before it burns.", kind="choice",
            choices=tuple((f"{a:g}", f"{a:g} mm²") for a in (0.35, 0.5, 0.75, 1.0))),
        Ask("sizes", "Wire is bought in", "Of which sizes Loadstar chooses.", kind="choice",
            choices=(("metric", "mm²"), ("AWG", "AWG"))),
        Ask("insulation", "Insulation", "Of wire that is not said to be another.", kind="choice",
            choices=INSULATIONS),
        Ask("tinned", "Tinned copper", "A little more resistance, less corrosion.", kind="yes"),
        Ask("contact_mohm", "Resistance of a termination", "Of a good crimp; two count for every wire."),
        Ask("end_allowance_m", "Allowance at each wire end", "Added to every cut length."),
        Ask("local_length_m", "Wire within one place", "Between two things at the same place."),
        Ask("tie_spacing_mm", "Ties, at most apart", "Besides one beside every break-out and connector."),
        Ask("lay_mm", "Lay length", "0: straight. Twisted wires are longer."),
        Ask("hole_fill_frac", "Of a hole's bore, across", "That several wires may fill."),
        Ask("splice_off_mm", "Splices, from a break-out", "Nearer ones give a finding; Loadstar places them further "
                                                          "off."),
        Ask("work_pace_frac", "Work time factor", "Times the minutes shown under Build."),
        Ask("splices", "Splices may be", "Joints break where the harness moves.", kind="choice",
            choices=(("where it stands still", "still places"), ("anywhere", "anywhere"))),
        Ask("stud_terminals", "Ring terminals on a post", "More of them call for a bus bar.", kind="whole",
            choices=tuple((str(n), str(n)) for n in range(1, 9))))),
    ("Schools", tuple(Ask(name, words, said, kind="choice",
                          choices=tuple((k, SHORTER.get(k, k)) for k in SCHOOLS[name]))
                      for name, words, said in (
        ("returns", "Returns", "What a new accessory returns by."),
        ("feeds", "Feeds, first choice", "What a new plan's accessories are fed from."),
        ("joints", "Joints", "How wires are joined, under Ends and in the papers."),
        ("terminals", "Rings, blades, bullets", "Open barrels, slim; or coloured sleeves: quick, bulky, one crimp."),
        ("leads", "Accessories' own leads", "What joins them to the harness, where the accessory does not say."),
        ("colours", "Colours of new wires", "Coded by what they do, or two rolls with marked ends."),
        ("covering", "Covering", "What the harness is covered with."),
        ("always_loads", "Always-live accessories", "Whether each needs a reason.")))),
    ("Battery",
     (Ask("crank_limit_v", "Lowest voltage while cranking", "Of a 12 V battery; below it the engine can fail to "
         "start."),
      Ask("parked_days", "Days parked wanted", "So long a parked machine must still start.", unit="days"))),
)
RULES = tuple(spec for _, specs in RULE_GROUPS for spec in specs)

# Of every part: asked last, and folded.
SIZES = (
    Ask("long_mm", "Long", optional=True), Ask("wide_mm", "Wide", optional=True), Ask("deep_mm", "Deep", optional=True),
    Ask("mass_g", "Weighs", unit="g", optional=True), Ask("lead_m", "Its own lead is", optional=True),
    Ask("most_c", "Stands up to", optional=True),
    Ask("water", "Water that it stands", kind="choice", optional=True, choices=(
        ("", "not said"), ("dry", "none: keep it dry"), ("splashed", "splashes"), ("washed over", "a jet"))),
    Ask("stage", "Made in stage", "Stages are made and tried one after the other.", kind="choice", optional=True,
        choices=(("", "the first"), *((s, s) for s in "ABCD"))),
    Ask("termination", "Wires at it end in", kind="choice", optional=True,
        choices=(("", "as usual"), *((family, family) for family in FAMILIES))),
)

MODELS: dict[str, tuple[type[Doc], tuple[Ask, ...]]] = {
    "machine": (Machine, MACHINE), "place": (Place, PLACE), "run": (Run, RUN), "rules": (HouseRules, RULES),
    "removed": (Removed, REMOVED),
    **{name: (kind, kind.ASKS) for name, kind in KINDS.items()},
}
