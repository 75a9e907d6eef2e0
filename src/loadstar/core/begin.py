"""Begin a plan: from the kind of machine, its size class and what is wanted, to a whole plan with every circuit.

Everything that nobody has said yet is what such machines usually have (materials/typical.py) and marked so; connectors
and found wires are believed until they are found. Made by the same edits that the pages use.
"""

from dataclasses import dataclass
from typing import Any

from .doc.states import Live
from .edits import BodyPlaces, PutPlug
from .edits.builder import Builder
from .edits.stepped import put_converter
from .errors import refuse
from .materials.accessories import ACCESSORIES, MAGNETO, Usual
from .materials.typical import CELL_V, SIZES, Electric, Engine, Magneto, SizeClass, size_class
from .parts.base import Part
from .parts.selector import Selector
from .plan.bodies import BODY_KINDS
from .plan.model import Plan

MOST_WANTED = 40
RATED_RPM = 5000  # that generators are stated at here
CELL_AH = 3.4  # of a usual cell; so many side by side as the pack's watt-hours take
STRAIGHT_A = 5.0  # what a button or brake switch at the bars is usually made for
# What works an accessory, by the occasion it lives with: its use, its name, and where on a machine it goes.
WORKED_BY: dict[Live, tuple[str, str, str]] = {"horn": ("button", "horn button", "handlebar"),
                                               "brake": ("brake switch", "brake pedal switch", "generator")}
SPARE_WAYS, MOST_WAYS = 2, 24  # of a block


@dataclass(frozen=True)
class Wish:
    """What is asked at the beginning: kind of machine, its size class, its name, and keys of usual accessories."""

    kind: str
    size: str
    machine: str = ""
    wanted: tuple[str, ...] = ()


def begun(plan: Plan, wish: Wish) -> Plan:
    """A plan that has nothing yet but its name and house rules, as the wish has it. PlanError where it cannot be."""
    size = size_class(wish.kind, wish.size) if wish.kind in SIZES else None
    if size is None:
        raise refuse("", "kind", "Choose the kind of machine and its size first.")
    if len(wish.wanted) > MOST_WANTED:
        raise refuse("", "wanted", f"At most {MOST_WANTED} accessories can be chosen at the beginning.")
    unfit = [key for key in wish.wanted if size.system not in getattr(ACCESSORIES.get(key), "systems", ())]
    if unfit:
        names = ", ".join(ACCESSORIES[key].name if key in ACCESSORIES else key[:30] for key in unfit[:4])
        raise refuse("", "wanted", f"On such a machine there is nothing that could feed: {names}.")
    return _Beginning(plan, wish, size).whole()


class _Beginning:
    """One plan being begun."""

    def __init__(self, plan: Plan, wish: Wish, size: SizeClass) -> None:
        self.b = Builder(plan.name, plan)
        self.wish, self.size = wish, size
        self.body = BODY_KINDS[wish.kind]
        self.wanted = [ACCESSORIES[key] for key in wish.wanted]

    def whole(self) -> Plan:
        """Machine, places and ways, what feeds it, what is usually found on it, and every accessory."""
        figures = self.size.figures
        if isinstance(figures, Engine):
            self._engine(figures)
        elif isinstance(figures, Electric):
            self._electric(figures)
        else:
            self._magneto(figures)
        return self.b.plan

    def _machine(self, *, typical: tuple[str, ...] = (), **values: Any) -> None:
        name = self.wish.machine.strip() or f"{'An' if self.wish.kind[0] in 'aeiou' else 'A'} {self.wish.kind}"
        self.b.machine(name=name, kind=self.wish.kind, size=self.size.key, system=self.size.system,
                       system_v=self.size.system_v, typical=typical, **values)
        self.b.do(BodyPlaces())

    def _at(self, use: str) -> str:
        """The place where something of a use goes."""
        name = self.body.goes[use]
        return next(p.id for p in self.b.plan.places if p.name == name)

    # -- with an engine and a battery --------------------------------------------------------------------------------

    def _engine(self, figures: Engine) -> None:
        half = self.size.half
        cranking = figures.cranking_a.half(half).usual
        self._machine(chassis="negative", idle_rpm=figures.idle_rpm, town_rpm=3000, cruise_rpm=RATED_RPM,
                      cranking_a=cranking, typical=("idle_rpm", "town_rpm", "cruise_rpm", "cranking_a"))
        there = self.size.system == "battery"
        added = "" if there else ", to be added"
        ah = figures.battery_ah.half(half).usual
        battery = self.b.add("battery", name=f"battery{added}", place=self._at("battery"), chemistry="agm",
                             capacity_ah=ah, rate_h=10, internal_mohm=figures.internal_mohm.half(half).usual,
                             charge_a=round(ah / 10, 2),
                             typical=("chemistry", "capacity_ah", "rate_h", "internal_mohm", "charge_a", "charge_frac"))
        watts = figures.generator_w.half(half).usual
        self.b.add("generator", name="generator" if there else "charging coils, to be added",
                   place=self._at("generator"), phases=figures.phases, rating1_rpm=figures.idle_rpm,
                   rating1_w=figures.idle_share.usual * watts, rating2_w=watts, rating2_rpm=RATED_RPM,
                   phase_ohm=figures.phase_ohm, regulator=figures.regulator, tied=figures.tied,
                   rectifier=figures.rectifier,
                   typical=("phases", "rating1_w", "rating1_rpm", "rating2_w", "rating2_rpm", "rating_v", "phase_ohm",
                            "diode_v", "regulator", "set_v", "tied", "rectifier"))
        own = (("ignition, injection and pump", "engine", "engine"),
               ("head and tail lamp, instruments", "lamps", "key"),
               ("clock, alarm and control units, key off", "standing", "always"))
        for name, usual, live in own if there else ():
            if watts := figures.own_w(usual).half(half).usual:
                self.b.add("own", name=name, place=self._at("battery"), power_w=watts, live=live, usual=usual,
                           typical=("power_w",))
        if there:
            self._usual_plugs()
        else:
            self.b.add("kill", name="engine kill wire", place=self._at("generator"))
            self.b.add("tap", name="light switch, to be added", place=self._at("trigger"), live="key", rated_a=3,
                       fused_a=5, standing="believed", typical=("rated_a", "source_mohm"))
        self._accessories(self._feed_12v(battery))

    def _usual_plugs(self) -> None:
        """A plug for accessories, and the wire that lives with the key: believed, until they are found here."""
        self.b.add("tap", name="tail lamp wire", place=self._at("trigger"), live="key", rated_a=2, fused_a=None,
                   source_mohm=120, typical=("rated_a", "source_mohm"), standing="believed")
        if self.wish.kind not in ("touring motorcycle", "motorcycle"):
            return
        self.b.do(PutPlug(
            values={"name": "accessory plug", "place": self._at("plug"), "use": "accessory", "ways": 2,
                    "reach": "seat off", "standing": "believed"},
            pins=({"way": 1, "function": "feed", "live": "key", "standing": "believed", "fused_a": None},
                  {"way": 2, "function": "ground", "standing": "believed"})))

    def _feed_12v(self, battery: str) -> str:
        """What the house rule would feed accessories from: a block, a module, or the battery straight."""
        school = self.b.plan.rules.feeds
        names = {"block": "fuse block", "module": "switching module"}
        if not self.wanted or school not in names or (school == "block" and len(self.wanted) < 2):
            return battery
        ways = len(self.wanted) + SPARE_WAYS
        return self.b.add(school, name=names[school], place=self._at("block"), ways=min(MOST_WAYS, max(6, ways)))

    def _accessories(self, feed: str) -> None:
        for usual in self.wanted:
            self._accessory(usual, feed)

    def _accessory(self, usual: Usual, feed: str) -> None:
        """An accessory with its circuit, and what works it where that is not there yet."""
        if usual.by and not _workers(self.b.plan, usual.by):
            use, name, where = WORKED_BY[usual.by]
            self.b.add("selector", name=name, use=use, place=self._at(where), feed=feed, live=self.b.lives(feed),
                       positions=f"off; {usual.by}: in+out")
        self.b.add("load", **wanted_values(self.b.plan, usual, place=self._at(usual.where), feed=feed))

    # -- with a traction pack ----------------------------------------------------------------------------------------

    def _electric(self, figures: Electric) -> None:
        series = self.size.series
        self._machine(chassis="floating", typical=("range_km",))
        parallel = max(1, round(figures.pack_wh.usual / (series * CELL_V * CELL_AH)))
        cell_ah = figures.pack_wh.times(1 / (series * CELL_V * parallel)).usual
        self.b.add("pack", name="pack", place=self._at("pack"), series=series, parallel=parallel, cell_ah=cell_ah,
                   cell_mohm=figures.cell_mohm.usual, bms_continuous_a=figures.bms_a.usual,
                   bms_peak_a=2 * figures.bms_a.usual, typical=(
                       "chemistry", "parallel", "cell_ah", "cell_mohm", "extra_mohm", "bms_continuous_a", "bms_peak_a",
                       "charge_limit_a", "charge_frac"))
        self.b.machine(range_wh=round(self.b.plan.packs[0].energy_wh), typical=("range_wh",))
        self.b.add("drive", name="drive", place=self._at("drive"), assist_w=figures.assist_w,
                   full_w=figures.full_w.usual, limit_a=figures.bms_a.usual,
                   typical=("assist_w", "full_w", "idle_w", "limit_a"))
        port = ""
        if figures.light_port_w is not None:
            port = self.b.add("port", name="light port", place=self._at("drive"), limit_w=figures.light_port_w.usual,
                              enabled=True, typical=("out_v", "limit_w", "enabled"))
        at_port, left_w = [], figures.light_port_w.usual if figures.light_port_w else 0.0
        for usual in self.wanted:
            if usual.feeds_from_port and usual.amount.usual <= left_w:
                at_port.append(usual)
                left_w -= usual.amount.usual
        others = [u for u in self.wanted if u not in at_port]
        box = put_converter(self.b, sum(usual.amount.usual for usual in others)) if others else ""
        for usual in self.wanted:
            self._accessory(usual, port if usual in at_port else box)

    # -- with lamps on a magneto -------------------------------------------------------------------------------------

    def _magneto(self, figures: Magneto) -> None:
        self._machine(chassis="winding", idle_rpm=1500, town_rpm=3000, cruise_rpm=4500, cranking_a=0,
                      typical=("idle_rpm", "town_rpm", "cruise_rpm"))
        coil = self.b.add("coil", name="lighting coil", place=self._at("coil"),
                          emf_mv_per_rpm=figures.emf_mv_per_rpm.usual,
                          reactance_mohm_per_rpm=figures.reactance_mohm_per_rpm.usual,
                          winding_ohm=figures.winding_ohm.usual,
                          typical=("emf_mv_per_rpm", "reactance_mohm_per_rpm", "winding_ohm"))
        self.b.add("kill", name="ignition kill wire", place=self._at("coil"))
        # the machine's own lamps are what its coil is made for
        self.wanted = [*(u for u in ACCESSORIES.values() if u.own), *(u for u in self.wanted if not u.own)]
        self._accessories(coil)


def _workers(plan: Plan, live: Live) -> list[Part]:
    """What there is on a plan that lives by an occasion: its switches, then wires found on the machine."""
    taps = [t for t in plan.taps if t.live == live and not plan.never(t)]
    return [*(p for p in plan.of(Selector) if any(at.name == live for at in p.table)), *taps]


def wanted_values(plan: Plan, usual: Usual, *, place: str, feed: str) -> dict[str, Any]:
    """The fields of a load from the list on a plan: named apart from its like, alive as it should be and can be. What
    is worked by a button or brake switch is fed by it; through a relay where it asks for more than that stands."""
    taken = {load.name for load in plan.loads}
    name = next(n for n in (usual.name, *(f"{usual.name} {k}" for k in range(2, 400))) if n not in taken)
    live: str = usual.live
    if usual.by and (workers := _workers(plan, usual.by)):
        live = usual.by
        fed_by = plan.part_by_id.get(feed)
        if usual.amount.usual / usual.at_v <= STRAIGHT_A or fed_by is None or not fed_by.RELAYS:
            feed = workers[0].id
    values = {**usual.figures(), "usual": usual.key, "guest": usual.guest, "name": name, "place": place,
              "feed": feed, "live": live, "supplied_lead": usual.lead,
              "reason_always": usual.reason if usual.live == "always" else "",
              "returns": plan.rules.returns}
    if plan.machine.system in MAGNETO:
        volts = plan.machine.system_v
        peak_a = round(usual.inrush[0] * usual.at_v / volts, 1)
        values |= {"at_v": volts, "window_high_v": round(1.3 * volts, 2), "returns": "frame", "inrush_a": peak_a}
    return values
