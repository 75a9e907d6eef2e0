"""What a finger meets: what can be pressed and is too small for it."""

# A box to tick is pressed by its label.
TOO_SMALL = """all => all.filter(e => !e.closest("svg, p")
    && (e.type === "checkbox" && e.closest("label") || e).getBoundingClientRect().height < 40)
  .map(e => e.outerHTML.slice(0, 90))"""


def too_small(page) -> list[str]:
    """Links, buttons and fields of the open page that a finger misses; those in a sentence or a picture have others."""
    return page.locator("main :is(a, button, input:not([type=hidden]), select):visible").evaluate_all(TOO_SMALL)
