"""What joins accessories' own leads to the harness, compared: the whole plan made with splices, with bullets spread
along the loom, with sealed plugs; what each has to be bought and done, and what it gives."""

from collections.abc import Mapping
from dataclasses import dataclass

from .analysis import Analysis, analyse
from .build.whole import work
from .edits import SetRules, apply
from .ends.choose import of_family
from .findings import Finding
from .materials.terminals import SEALED, Family
from .order import order
from .parts.terminals import OWN_LEAD
from .whatif.trial import speaks_newly

WAYS: Mapping[Family, str] = {
    "splice": "spliced, shrunk over", "bullet 3.9": "bullets along the loom", "sealed small": "small sealed plugs",
    "sealed 2.8": "sealed 2.8 mm plugs"}
SHUT: tuple[Family, ...] = ("splice",)  # to be cut if it is to come apart
CRIMPS = ("crimp core", "splice", "solder")


@dataclass(frozen=True)
class JoinedBy:
    """One way: whether it is the house's, terminals and connectors to buy, crimps or soldered joints to make, minutes
    of work on the whole plan, contact resistance of one new and aged (mΩ), and what is found then that is not now."""

    family: Family
    words: str
    here: bool
    terminals: float
    housings: float
    crimps: int
    minutes: float
    mohm: tuple[float, float]
    findings: tuple[Finding, ...] = ()

    @property
    def hours(self) -> float:
        """Of work."""
        return self.minutes / 60

    @property
    def is_sealed(self) -> bool:
        """Whether it keeps water out; a splice does under its lined tube."""
        return self.family in (*SEALED, *SHUT)

    @property
    def comes_apart(self) -> bool:
        """Whether it does by hand."""
        return self.family not in SHUT


def has_leads(base: Analysis) -> bool:
    """Whether any wire of a plan is joined to an accessory's own lead in the house's way."""
    plan = base.plan
    own = {(p.id, t.name) for p in plan.parts if not p.termination for t in p.TERMINALS if t.ends_in == OWN_LEAD}
    return any((end.part, end.name) in own for wire in plan.wires for end in (wire.a, wire.b))


def compared(base: Analysis) -> tuple[JoinedBy, ...]:
    """Every way, the house's first."""
    found = [_way(base, family) for family in WAYS]
    return tuple(sorted(found, key=lambda one: not one.here))


def _way(base: Analysis, family: Family) -> JoinedBy:
    here = base.plan.rules.leads == family
    made = base if here else analyse(apply(base.plan, SetRules(values={"leads": family})))
    bought = {group: sum(item.need for item in order(made).items if item.group == group)
              for group in ("Terminals", "Housings, seals and plugs")}
    todo = work(made).operations.values()
    return JoinedBy(
        family, WAYS[family], here, bought["Terminals"], bought["Housings, seals and plugs"],
        sum(o.kind in CRIMPS for o in todo), sum(o.minutes for o in todo), of_family(family)[0].mohm,
        () if here else speaks_newly(base, made))
