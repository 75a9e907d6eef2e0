"""What the Loads station shows: every accessory with what it draws, where it lives and how it fares."""

from typing import Any

from loadstar.core.feeds.taps import which_tap
from loadstar.core.intents import offered as intents
from loadstar.core.materials.accessories import offered

from ...frame.forms import OTHER
from ...frame.frame import Frame


def loads(frame: Frame) -> dict[str, Any]:
    """Every accessory with what it draws, where it lives and how it fares."""
    a = frame.analysis
    rows = []
    for load in frame.plan.loads:
        live = a.volts.lives(load, frame.state)
        item = next((i for i in a.ledgers[frame.state].items if i.id == load.id), None)
        volts = a.volts.across_v(load.id, frame.state)
        rows.append({"load": load, "live": live, "volts": volts,
                     "effect": None if volts is None else load.effect_frac(volts),
                     "average": item.average_a if item else None, "by_coil": frame.plan.by_coil(load),
                     "waits": bool(item and item.waits), "place": frame.plan.place(load.place).name,
                     "feed": frame.plan.part(load.feed).name, "findings": a.by_element.get(load.id, ())})
    account = a.ledgers[frame.state]
    get = frame.request.GET
    can_add = bool(frame.plan.supply and frame.plan.places)
    picking = can_add and frame.may_edit and get.get("add") == "load" and not get.get("usual")
    return {"rows": rows, "account": account, "can_add": can_add,
            "picking": offered(frame.plan.machine.system) if picking else None, "other": OTHER,
            "circuits": [(kind.KEY, kind.TITLE, frame.link("job", sel="", want=kind.KEY))
                         for kind in intents(frame.plan) if kind.ADDS] if picking else [], **_asked(frame)}


def _asked(frame: Frame) -> dict[str, Any]:
    """The answer to "which feed" and "which tap" for the selected accessory, when it is asked for."""
    load = next((p for p in frame.plan.loads if p.id == frame.select), None)
    if load is None or frame.request.GET.get("ask") != "feeds":
        return {"asking": None}
    return {"asking": load, "options": frame.loaded.known.feeds(load.id), "taps": which_tap(frame.plan, load)}
