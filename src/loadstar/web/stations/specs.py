"""What each form asks: machine, supplies, places, runs, feeds and accessories, in words."""

from loadstar.core.plan import model as m

from .fields import Spec

LIVE = (("always", "always"), ("key", "with the key"), ("engine", "with the engine"))
BEHAVES = (("power", "constant power (converter, LED driver, charger)"), ("resistor", "resistor (heating element)"),
           ("filament", "filament lamp"), ("current", "constant current"))
CATEGORIES = (("lamp", "lamp"), ("heating", "heating"), ("electronics", "electronics, charger"),
              ("tracker", "tracker, alarm"), ("motor", "motor, pump"), ("other", "other"))
KINDS = tuple((k, k) for k in ("touring motorcycle", "motorcycle", "small motorcycle", "scooter", "utility bike",
                               "trail e-bike", "cargo e-bike", "e-scooter"))
SYSTEMS = (("battery", "battery and generator"), ("total_loss", "battery that nothing charges"),
           ("magneto", "magneto lighting, no battery"), ("ignition_only", "ignition only, no battery yet"),
           ("pack", "traction pack (e-bike)"))
CHASSIS = (("negative", "battery negative"), ("floating", "nothing: it floats"), ("winding", "one end of the winding"))


def _name(label: str = "Name") -> Spec:
    return Spec("name", label, kind="text")


def _place(label: str = "Where it sits") -> Spec:
    return Spec("place", label, kind="choice")


def _whole(name: str, label: str, values: tuple[int, ...], words: str = "{}") -> Spec:
    return Spec(name, label, kind="whole", choices=tuple((str(v), words.format(v)) for v in values))


MACHINE_HEAD = (
    Spec("name", "Machine", kind="text"), Spec("kind", "Kind", kind="choice", choices=KINDS),
    Spec("system", "Runs on", kind="choice", choices=SYSTEMS),
    _whole("system_v", "Nominal voltage", (6, 12, 24, 36, 48, 52, 60, 72), "{} V"),
    Spec("chassis", "Its frame is joined to", kind="choice", choices=CHASSIS),
)
MACHINE = (
    *MACHINE_HEAD, Spec("idle_rpm", "Idle speed"), Spec("town_rpm", "Town speed"), Spec("cruise_rpm", "Cruise speed"),
    Spec("cranking_a", "Starter current", "Measured with a clamp, or 100-130 A for a mid-size engine; 0 with a kick-start."),
)
MACHINE_PACK = (*MACHINE_HEAD, Spec("range_km", "Range you know from one full pack", unit="km"))
BATTERY = (
    _name(), _place(),
    Spec("chemistry", "Chemistry", kind="choice", choices=(("agm", "AGM"), ("flooded", "flooded"), ("lfp", "LiFePO4"))),
    _whole("nominal_v", "Voltage", (12, 6), "{} V"),
    Spec("capacity_ah", "Capacity"), Spec("rate_h", "stated at the rate of"),
    Spec("internal_mohm", "Internal resistance, full and warm", "8-20 mΩ for 8-14 Ah; about 2700 / cold-cranking amps."),
    Spec("charge_frac", "Charge it is judged at, engine off", "1 is full."),
    Spec("charge_a", "Charging current it takes", "A tenth of the Ah is usual."),
)
GENERATOR = (
    _name(), _place("Where its regulator sits"), _whole("phases", "Phases", (3, 1)),
    Spec("rating1_w", "Output at low speed"), Spec("rating1_rpm", "at"),
    Spec("rating2_w", "Output at high speed"), Spec("rating2_rpm", "at"),
    Spec("rating_v", "both as battery current times"), Spec("phase_ohm", "Resistance of a phase, hot",
         "Half of what is read between two leads, times 1.3 for the heat."),
    Spec("diode_v", "Drop of one rectifier diode"),
    Spec("regulator", "Regulator", kind="choice", choices=(("series", "series"), ("shunt", "shunt"),
                                                           ("field", "field winding"))),
    Spec("set_v", "Regulator set-point"), Spec("limit_a", "Regulator limit, if known", optional=True),
    Spec("field_a", "Field current, if it has one"),
    Spec("tied", "The winding's end is", kind="choice", choices=(("floating", "on nothing: it floats"), ("frame", "on the frame"))),
    Spec("rectifier", "Rectifier", kind="choice", choices=(("full", "full-wave"), ("half", "half-wave"))),
)
COIL = (
    _name(), _place(), Spec("emf_mv_per_rpm", "Open voltage per rpm, rms", "Volts read open, times 1000, over the rpm.", unit="mV/rpm"),
    Spec("reactance_mohm_per_rpm", "Reactance per rpm", "Open volts over short-circuit amps, over the rpm.", unit="mΩ/rpm"),
    Spec("winding_ohm", "Winding resistance"), Spec("clamp_v", "AC regulator's limit, if there is one", optional=True),
)
PACK = (
    _name(), _place(), Spec("chemistry", "Cells", kind="choice", choices=(("nmc", "NMC / NCA"), ("lfp", "LiFePO4"))),
    Spec("series", "In series", kind="whole", choices=tuple((str(n), str(n)) for n in range(4, 25))),
    Spec("parallel", "In parallel", kind="whole", choices=tuple((str(n), str(n)) for n in range(1, 41))),
    Spec("cell_ah", "Capacity of a cell"), Spec("cell_mohm", "Resistance of a cell", "25-60 mΩ is usual for round cells."),
    Spec("extra_mohm", "Protection circuit and wiring"), Spec("charge_frac", "Charge it is judged at"),
    Spec("rested_v", "or its measured rested voltage", optional=True),
    Spec("bms_continuous_a", "Protection: continuous"), Spec("bms_peak_a", "Protection: peak"),
    Spec("charge_limit_a", "May be charged with"), Spec("data_line", "Has a data line", kind="yes"),
    Spec("bms", "Protection circuit", kind="choice", choices=(("in place", "in place"), ("bypassed", "bypassed"))),
    Spec("bypass_by", "If bypassed: by whom", kind="text", optional=True),
)
DRIVE = (
    _name(), _place(), Spec("assist_w", "Takes in assist"), Spec("full_w", "At full power"), Spec("idle_w", "Switched on, idle"),
    Spec("limit_a", "Controller's current limit"), Spec("cut_off_v", "Cuts out below", "0 if the pack alone decides."),
    Spec("needs_data", "Needs the pack's data line", kind="yes"),
)
CONVERTER = (
    _name(), _place(), Spec("window_low_v", "Input from"), Spec("window_high_v", "up to"), Spec("out_v", "Output"),
    Spec("rated_a", "Output rating"), Spec("efficiency_frac", "Efficiency", "1 is all of it."), Spec("idle_w", "Draws when idle"),
    Spec("isolated", "Input and output isolated", kind="yes"),
)
PORT = (_name("Light port"), _place(), Spec("out_v", "Gives"), Spec("limit_w", "Up to"),
        Spec("enabled", "Enabled by service software", kind="yes"), Spec("live", "Live", kind="choice", choices=LIVE))
COMBINER = (
    _name(), _place(), Spec("way", "Joins two packs by", kind="choice", choices=(
        ("changeover", "changeover switch"), ("diode", "ideal-diode combiner"), ("parallel", "plain parallel lead"))),
    Spec("position", "Switch stands at", kind="choice", choices=(("a", "the first pack"), ("b", "the second pack"))),
    Spec("rated_a", "Rated"), Spec("drop_mv", "Diode drop", unit="mV"), Spec("contact_mohm", "Contact"),
    Spec("data_switched", "Takes the data lines along", kind="yes"),
)
MODULE = (Spec("name", "Distribution module", kind="text"), _place(), _whole("ways", "Ways", (4, 6, 8, 10, 12)),
          Spec("total_a", "All ways together"), Spec("way_most_a", "Most of one way"), Spec("way_mohm", "Resistance of a way"))
JUNCTION = (_name(), _place(), Spec("form", "Kind", kind="choice", choices=tuple((k, k) for k in (
    "bus bar", "stud", "star point", "splice"))), Spec("terminals", "Places for terminals", kind="whole", choices=tuple(
        (str(n), str(n)) for n in range(1, 25))))
FRAME = (_name(), _place(), Spec("joint_mohm", "Resistance of the joint now"),
         Spec("ageing", "Judged at so many times that", "Corrosion; 5 is usual.", unit="×"))
STARTER = (_name(), _place())
KILL = (_name(), _place())
RELAY = (_name(), _place(), Spec("contact_a", "Contact, resistive", "Empty: Loadstar chooses.", optional=True),
         Spec("coil_ohm", "Coil"), Spec("pull_in_v", "Pulls in at, 20 °C"),
         Spec("hold_v", "Holds down to", "Empty: two fifths of its pull-in voltage.", optional=True),
         Spec("contact_mohm", "Contact resistance"), Spec("suppression", "Across the coil", kind="choice", choices=(
             ("resistor", "resistor"), ("diode", "diode"), ("none", "nothing"))))
SWITCH = (_name(), _place(), Spec("contact_a", "Contact rating", "Empty: Loadstar chooses.", optional=True),
          Spec("contact_mohm", "Contact resistance"))
OWN = (Spec("name", "What it is", kind="text"), Spec("place", "Where it is", kind="choice"), Spec("power_w", "Power"),
       Spec("live", "Uses power", kind="choice", choices=LIVE), Spec("low_v", "Works down to", "0 if it does not matter."))
PLACE = (
    Spec("name", "Place", kind="text"),
    Spec("x_mm", "Forward of the rear axle", "Negative is behind it."), Spec("y_mm", "Above the rear axle"),
    Spec("zone", "Air around the wires there", kind="choice", optional=True, choices=(
        ("", "as given beside"), ("open", "open, by house rule"), ("under the tank", "under the tank, by house rule"),
        ("near the engine", "near the engine, by house rule"))),
    Spec("ambient_c", "given, at work"),
    Spec("side", "On the machine's", kind="choice", optional=True, choices=(("", "middle"), ("left", "left side"), ("right", "right side"))),
    Spec("reach", "To reach it", "What must come off.", kind="text", optional=True),
    Spec("water", "Water there", kind="choice", choices=tuple((k, k) for k in ("dry", "splashed", "washed over"))),
    Spec("moves", "It moves", kind="choice", choices=(("still", "not at all"), ("with the steering", "with the steering"),
                                                      ("with the suspension", "with the suspension"))),
    Spec("room", "Room there", "Length, width, depth in mm, as measured.", kind="text", optional=True),
)
REMOVED = (_name("Part taken off"), Spec("place", "From", kind="choice", optional=True), Spec("stored", "Kept at", kind="text", optional=True),
           Spec("note", "Note", kind="note", optional=True))
PLUG = (
    _name("Connector"), _place(), Spec("use", "Meant for", kind="choice", choices=tuple((k, k) for k in (
        "accessory", "heated gear", "navigation", "alarm", "lamp", "brake lamp", "indicator", "horn", "diagnostic", "light port", "generator",
        "motor", "switch", "other"))),
    Spec("ways", "Ways", unit=""), _whole("rows", "in rows", (1, 2, 3, 4)),
    Spec("half", "This half has", kind="choice", optional=True, choices=(("", "not noted"), ("tabs", "tabs (male)"),
                                                                         ("receptacles", "receptacles (female)"))),
    Spec("seen", "Counted looking", kind="choice", choices=(("mouth", "into the mouth"), ("wires", "at the wire side"))),
    Spec("latch", "Latch faces", kind="choice", choices=tuple((k, k) for k in ("up", "down", "left", "right", "none"))),
    Spec("housing", "Housing", "In general words: sealed 2.8 mm blade.", kind="text", optional=True),
    Spec("reach", "To reach it", kind="text", optional=True),
    Spec("never", "Belongs to", kind="choice", optional=True, choices=(
        ("", "nothing that is never tapped"), *((k, k) for k in ("airbag", "ABS", "throttle", "CAN")))),
    Spec("note", "Note", kind="text", optional=True),
)
PIN = (  # what it is can be chosen by one letter: each begins with another
    Spec("wire_colour", "Colour", kind="text", optional=True),
    Spec("function", "What it is", kind="choice", choices=(
        ("unknown", "not known yet"), ("feed/always", "constant"), ("feed/key", "key: live with it"), ("feed/engine", "engine: live with it"),
        ("lamp", "lamp: live with it"), ("ground", "ground"), ("signal", "signal: leave it"), ("other", "own circuit"), ("unused", "unused"))),
    Spec("rated_a", "May give"), Spec("others", "Also on it", kind="text", optional=True), Spec("others_a", "which draw"),
    Spec("on_delay_s", "Live after"), Spec("off_delay_s", "Runs on for"), Spec("goes_to", "Goes to", kind="text", optional=True),
    Spec("new_colour", "New part's wire", kind="text", optional=True),
)
READING = (Spec("element", "At", kind="choice"), Spec("quantity", "What", kind="choice", choices=(
    ("V", "volts to battery negative"), ("A", "amps"), ("ohm", "ohms to frame, key off"), ("beep", "beep to frame (1) or none (0)"),
    ("s", "seconds it stays live after"))),
           Spec("state", "With", kind="choice", choices=(("key_off", "key off"), ("key_on", "key on, lamps off"), ("lamp_on", "its lamp on"),
                                                         ("cranking", "cranking"), ("idle", "engine idling"), ("raised", "raised speed"))),
           Spec("value", "Shows", unit=""), Spec("instrument", "Instrument", kind="text", optional=True))
RUN = (
    Spec("a", "From", kind="choice"), Spec("b", "To", kind="choice"),
    Spec("length_m", "Length along the way", "Measured with a string where the wires will lie."),
    Spec("ambient_c", "Air around it, at work", "Empty: the warmer of its two ends.", optional=True),
)
TAP = (
    Spec("name", "Plug or wire", kind="text"), Spec("place", "Where it is", kind="choice"),
    Spec("live", "Live", kind="choice", choices=LIVE), Spec("rated_a", "May give"),
    Spec("fused_a", "Factory fuse before it", "Empty: not known yet.", optional=True),
    Spec("unfused", "Found to have no factory fuse", kind="yes"),
    Spec("source_mohm", "Resistance of the machine's own wiring to it", "Drop measured under a known load, over the amps."),
    Spec("others_a", "The machine's own users draw"), Spec("on_delay_s", "Live after"), Spec("off_delay_s", "Stays live for, after"),
    Spec("never", "Belongs to", kind="choice", optional=True, choices=(
        ("", "nothing that is never tapped"), *((k, k) for k in ("airbag", "ABS", "throttle", "CAN")))),
    Spec("wire_colour", "Wire colour as found", kind="text", optional=True),
)
BLOCK = (Spec("name", "Fuse block", kind="text"), Spec("place", "Where it sits", kind="choice"),
         Spec("ways", "Ways", kind="whole", choices=tuple((str(n), str(n)) for n in (4, 6, 8, 10, 12))))
LOAD = (
    Spec("name", "What it is", kind="text"), Spec("category", "Kind", kind="choice", choices=CATEGORIES),
    Spec("amount", "Draws", unit=""), Spec("unit", "in", kind="choice", choices=(("W", "watts"), ("A", "amps"))),
    Spec("at_v", "at", "The voltage that the maker states it for."),
    Spec("behaviour", "Behaves as", kind="choice", choices=BEHAVES),
    Spec("live", "Must live", kind="choice", choices=LIVE),
    Spec("place", "Sits at", kind="choice"), Spec("feed", "Fed from", kind="choice"),
    Spec("minutes_per_hour", "On for, each hour"),
    Spec("window_low_v", "Works from"), Spec("window_high_v", "up to"),
    Spec("inrush_a", "Inrush peak", "0 if it has none."), Spec("inrush_ms", "Inrush lasts"),
    Spec("inrush_shape", "Inrush is", kind="choice", choices=(("rectangle", "even, for that long"),
                                                              ("decay", "a peak that falls; the time is its time constant"))),
    Spec("standby_ma", "Standby draw"),
    Spec("returns", "Returns by", kind="choice", choices=(("own wire", "a wire of its own"), ("frame", "the frame"))),
    Spec("body", "Its body is", kind="choice", choices=(("isolated", "isolated"), ("on the frame", "its negative, on the frame"))),
    Spec("maker_fuse_a", "Maker asks for a fuse of", kind="choice", optional=True),
    Spec("supplied_lead", "In the maker's lead", "A step-down box, fuse or switch that stays in.", kind="note",
         optional=True),
    Spec("reason_always", "Why always live", "Only if it must live with the key off.", kind="note", optional=True),
)
SCHOOLS = {
    "returns": ("own wire", "frame"), "joints": ("crimp only", "crimp then solder", "solder splice"),
    "covering": ("braided sleeve", "loom tape", "PVC tape"), "feeds": ("block", "relay", "module", "plug"),
    "always_loads": ("allowed", "with a reason"),
}
RULE_GROUPS: tuple[tuple[str, tuple[Spec, ...]], ...] = (
    ("Voltage drop, share of the supply's voltage", (
        Spec("drop_lamp_frac", "to lamps"), Spec("drop_heating_frac", "to heating"), Spec("drop_electronics_frac", "to electronics"),
        Spec("drop_motor_frac", "to motors"), Spec("drop_other_frac", "to others"), Spec("starter_drop_v", "in starter leads"))),
    ("Fuses and heat", (
        Spec("fuse_share_frac", "Most of a fuse's rating that is used"), Spec("thermal_margin_k", "Margin below the wire's class", unit="K"),
        Spec("unfused_limit_m", "Longest wire before a fuse"), Spec("chafe_arc_v", "Volts left in the arc of a touch",
                                                                    "0 for the usual 12 V; 10-20 V on 48 V packs."))),
    ("Air around the wires, by zone", (
        Spec("ambient_open_c", "in the open"), Spec("ambient_tank_c", "under the tank"), Spec("ambient_engine_c", "near the engine"))),
    ("Wire and joints", (
        Spec("least_area_mm2", "Least cross-section", kind="choice", choices=tuple((f"{a:g}", f"{a:g} mm²") for a in (0.35, 0.5, 0.75, 1.0))),
        Spec("insulation", "Insulation", kind="choice", choices=(("A", "class A, 85 °C"), ("B", "class B, 100 °C"), ("105", "105 °C"),
                                                                 ("C", "class C, 125 °C"), ("D", "class D, 150 °C"))),
        Spec("tinned", "Tinned copper", kind="yes"), Spec("contact_mohm", "Resistance of a termination"),
        Spec("end_allowance_m", "Allowance at each wire end"), Spec("local_length_m", "Wire within one place"),
        Spec("stud_terminals", "Ring terminals on a post", kind="whole", choices=tuple((str(n), str(n)) for n in range(1, 9))))),
    ("Schools", tuple(Spec(name, words, kind="choice", choices=tuple((k, k) for k in SCHOOLS[name])) for name, words in (
        ("returns", "Returns"), ("feeds", "Feeds, first choice"), ("joints", "Joints"), ("covering", "Covering"),
        ("always_loads", "Always-live accessories")))),
    ("Battery", (Spec("crank_limit_v", "Lowest voltage while cranking"), Spec("parked_days", "Days parked wanted", unit="days"))),
)
RULES = tuple(spec for _, specs in RULE_GROUPS for spec in specs)

MODELS: dict[str, tuple[type[m.Doc], tuple[Spec, ...]]] = {
    "machine": (m.Machine, MACHINE), "battery": (m.Battery, BATTERY), "generator": (m.Generator, GENERATOR),
    "coil": (m.Coil, COIL), "pack": (m.Pack, PACK), "drive": (m.Drive, DRIVE), "converter": (m.Converter, CONVERTER),
    "port": (m.Port, PORT), "combiner": (m.Combiner, COMBINER), "own": (m.OwnLoad, OWN), "place": (m.Place, PLACE),
    "run": (m.Run, RUN), "tap": (m.Tap, TAP), "block": (m.Block, BLOCK), "module": (m.Module, MODULE),
    "junction": (m.Junction, JUNCTION), "frame": (m.FramePoint, FRAME), "starter": (m.Starter, STARTER), "kill": (m.KillWire, KILL),
    "relay": (m.Relay, RELAY), "switch": (m.Switch, SWITCH), "load": (m.LoadPart, LOAD), "rules": (m.HouseRules, RULES),
    "removed": (m.Removed, REMOVED),
}
