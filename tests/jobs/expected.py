"""What each job has to find, besides what a new plan of that machine says anyway, and the figures that matter.

Stops and cautions are named whole: one more is a false alarm, one less a false clear. Figures are hand calculations: of
amps from stated watts and volts, of shares, of metres along the runs.
"""

from dataclasses import dataclass

BEGUN = {"budget.short", "budget.parked", "feed.unknown-fuse", "budget.never"}  # of the machine as it is begun


@dataclass(frozen=True)
class Expected:
    """Stops and cautions by rule, what else must be said, and figures by key with how near they must be."""

    grave: frozenset[str] = frozenset()
    also: frozenset[str] = frozenset()
    figures: tuple[tuple[str, float, float], ...] = ()


def _of(*grave: str, also: tuple[str, ...] = (), figures: tuple[tuple[str, float, float], ...] = ()) -> Expected:
    return Expected(frozenset(grave), frozenset(also), figures)


EXPECTED: dict[str, Expected] = {
    # two 18 W lamps at 12.0 V on the dipped beam's wire: 3.0 A of the 6 A that its pin may give
    "01-sealed-plug": _of(figures=(("tap/T4", 3.0, 0.01),)),
    "02-distribution-module": _of(figures=(("peak/Y3", 5.0, 0.01),)),
    # 3 x 4 mm2 in a barrel of 10 mm2; the drive at its controller's limit of 32 A
    "03-pack-leads": _of("terminal.barrel", "pack.bypassed", "pack.bms", figures=(("peak/F1", 32, 0.5),)),
    # 30 W and 55 W resistors at 14.2 V and a 12 W charger, at 12.0 V: 1.79 + 3.27 + 1.0 A of 6 A
    "04-plug-to-block": _of("feed.plug-overloaded", figures=(("tap/T2", 6.06, 0.02),)),
    "05-factory-plug": _of(also=("load.lead-short", "load.drops-out"), figures=(("tap/T4", 5.0, 0.01),)),
    "06-second-socket": _of(also=("belief.together",), figures=(("peak/LD1", 12.0, 0.01),)),
    "07-second-pack": _of("data.not-carried"),
    "08-lamp-on-the-port": _of("port.overloaded", figures=(("port/LP1", 21, 0.01),)),
    "09-battery-and-starter": _of("start.no-safety", "feed.trigger-overloaded", also=("starter.leads",)),
    # 12 W and 15 W at 12 V: 2.25 A out of the converter
    "10-step-down": _of(figures=(("converter_out/CV1", 2.25, 0.01),)),
    "11-full-electrics": _of("flasher.load", also=("starter.leads",), figures=(("flasher/FL1", 3.0, 0.01),)),
    "12-off-road-to-dc": _of("reference.two-on-frame", also=("feed.run-on", "return.school")),
    # 7.7 V on 6 V lamps: (7.7 / 6) ** -13 is 4 % of their hours
    "13-magneto-lighting": _of(also=("lamp.over-volts", "lamp.takes-others"),
                               figures=(("lamp_v/L4/rev", 0.04, 0.006),)),
    "14-survey": _of(),
    "15-many-leads": _of("connector.rating", figures=(("peak/CN2.w1", 5.98, 0.05),)),
    "16-materials": _of(),
    "17-competition": _of(also=("rules.no-reason",), figures=(("length/W18", 0.42, 0.001),)),
    "18-switched-and-constant": _of(also=("survey.believed",)),
    "19-navigation": _of(also=("feed.run-on", "load.drops-out")),
    "20-generator": _of("supply.winding-leads"),
    "21-packs-in-parallel": _of("pack.joined"),
}
