"""The order list as a table: RFC 4180, UTF-8; cells that a spreadsheet would compute are made harmless."""

import csv
import io

from loadstar.core.order import Order

from .survey import harmless

COLUMNS = ("group", "what", "needed", "order", "unit", "for")


def to_csv(order: Order) -> str:
    """A line for each item."""
    text = io.StringIO()
    table = csv.writer(text, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for item in order.items:
        table.writerow([harmless(cell) for cell in (
            item.group, item.what, f"{item.need:.2f}".rstrip("0").rstrip("."),
            f"{item.order:.1f}".removesuffix(".0"), item.unit or "pieces", item.why)])
    return text.getvalue()
