"""Addresses, forms as a browser fills them, files that are sent."""

import io

from PIL import Image

from loadstar.web.records import store

LOAD = {"for_kind": "load", "id": "", "name": "Inflator", "category": "motor", "amount": "60", "unit": "W",
        "at_v": "13.5",
        "behaviour": "power", "live": "key", "minutes_per_hour": "5", "window_low_v": "10.5", "window_high_v": "16",
        "inrush_a": "0", "inrush_ms": "0", "standby_ma": "0", "supplied_lead": "", "reason_always": ""}


def filled(shop, **changes) -> dict[str, str]:
    """A whole accessory form for the demonstration plan."""
    plan = store.load(shop.row).plan
    return {**LOAD, "place": plan.places[0].id, "feed": plan.of_kind("block")[0].id, "base": str(shop.row.head),
            **changes}


def page(shop, tail="") -> str:
    """An address of a workshop."""
    return f"/w/{shop.workshop.slug}/{tail}"


def on(shop, row, tail="") -> str:
    """An address of a plan."""
    return page(shop, f"p/{row.pk}/{tail}")


def jpeg(size=(640, 480), **save) -> bytes:
    """A photograph."""
    out = io.BytesIO()
    Image.new("RGB", size, "teal").save(out, "JPEG", **save)
    return out.getvalue()
