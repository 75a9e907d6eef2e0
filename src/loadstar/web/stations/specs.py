"""What each form asks: the fields of machine, battery, generator, places, runs, feeds and accessories, in words."""

from loadstar.core.plan import model as m

from .fields import Spec

LIVE = (("always", "always"), ("key", "with the key"), ("engine", "with the engine"))
BEHAVES = (("power", "constant power (converter, LED driver, charger)"),
           ("resistor", "resistor (heating element)"), ("current", "constant current"))
CATEGORIES = (("lamp", "lamp"), ("heating", "heating"), ("electronics", "electronics, charger"),
              ("tracker", "tracker, alarm"), ("motor", "motor, pump"), ("other", "other"))
KINDS = tuple((k, k) for k in ("touring motorcycle", "motorcycle", "scooter", "utility bike"))

MACHINE = (
    Spec("name", "Machine", kind="text"), Spec("kind", "Kind", kind="choice", choices=KINDS),
    Spec("idle_rpm", "Idle speed"), Spec("town_rpm", "Town speed"), Spec("cruise_rpm", "Cruise speed"),
    Spec("cranking_a", "Starter current", "Measured with a clamp, or 100-130 A for a mid-size engine."),
)
BATTERY = (
    Spec("name", "Name", kind="text"), Spec("place", "Where it sits", kind="choice"),
    Spec("chemistry", "Chemistry", kind="choice", choices=(("agm", "AGM"), ("flooded", "flooded"))),
    Spec("capacity_ah", "Capacity"), Spec("rate_h", "stated at the rate of"),
    Spec("internal_mohm", "Internal resistance, full and warm", "8-20 mΩ for 8-14 Ah; about 2700 / cold-cranking amps."),
    Spec("charge_frac", "Charge it is judged at, engine off", "1 is full."),
    Spec("charge_a", "Charging current it takes", "A tenth of the Ah is usual."),
)
GENERATOR = (
    Spec("name", "Name", kind="text"), Spec("place", "Where its regulator sits", kind="choice"),
    Spec("phases", "Phases", kind="whole", choices=(("3", "three"), ("1", "one"))),
    Spec("rating1_w", "Output at low speed"), Spec("rating1_rpm", "at"),
    Spec("rating2_w", "Output at high speed"), Spec("rating2_rpm", "at"),
    Spec("rating_v", "both as battery current times"), Spec("phase_ohm", "Resistance of a phase, hot",
         "Half of what is read between two leads, times 1.3 for the heat."),
    Spec("diode_v", "Drop of one rectifier diode"),
    Spec("regulator", "Regulator", kind="choice", choices=(("series", "series"), ("shunt", "shunt"))),
    Spec("set_v", "Regulator set-point"), Spec("limit_a", "Regulator limit, if known", optional=True),
)
OWN = (Spec("name", "What it is", kind="text"), Spec("place", "Where it is", kind="choice"), Spec("power_w", "Power"),
       Spec("live", "Uses power", kind="choice", choices=LIVE))
PLACE = (
    Spec("name", "Place", kind="text"),
    Spec("x_mm", "Forward of the rear axle", "Negative is behind it."), Spec("y_mm", "Above the rear axle"),
    Spec("ambient_c", "Air around the wires there, at work"),
)
RUN = (
    Spec("a", "From", kind="choice"), Spec("b", "To", kind="choice"),
    Spec("length_m", "Length along the way", "Measured with a string where the wires will lie."),
    Spec("ambient_c", "Air around it, at work", "Empty: the warmer of its two ends.", optional=True),
)
TAP = (
    Spec("name", "Plug or wire", kind="text"), Spec("place", "Where it is", kind="choice"),
    Spec("live", "Live", kind="choice", choices=LIVE), Spec("rated_a", "May give"),
    Spec("fused_a", "Factory fuse before it, if any", optional=True),
    Spec("source_mohm", "Resistance of the machine's own wiring to it", "Drop measured under a known load, over the amps."),
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
    Spec("standby_ma", "Standby draw"),
    Spec("supplied_lead", "In the maker's lead", "A step-down box, fuse or switch that stays in.", kind="note",
         optional=True),
    Spec("reason_always", "Why always live", "Only if it must live with the key off.", kind="note", optional=True),
)
RULES = (
    Spec("fuse_share_frac", "Fuse share: most of a fuse's rating that is used"),
    Spec("thermal_margin_k", "Thermal margin below the wire's class", unit="K"),
    Spec("drop_lamp_frac", "Drop allowed to lamps, share of the posts' voltage"),
    Spec("drop_other_frac", "Drop allowed to others"),
    Spec("end_allowance_m", "Allowance at each wire end"), Spec("local_length_m", "Wire within one place"),
    Spec("unfused_limit_m", "Longest wire before a fuse"), Spec("contact_mohm", "Resistance of a termination"),
    Spec("crank_limit_v", "Lowest voltage while cranking"), Spec("parked_days", "Days parked wanted", unit="days"),
)

MODELS = {
    "machine": (m.Machine, MACHINE), "battery": (m.Battery, BATTERY), "generator": (m.Generator, GENERATOR),
    "own": (m.OwnLoad, OWN), "place": (m.Place, PLACE), "run": (m.Run, RUN), "tap": (m.Tap, TAP),
    "block": (m.Block, BLOCK), "load": (m.LoadPart, LOAD), "rules": (m.HouseRules, RULES),
}
