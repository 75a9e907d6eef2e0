"""What axe has against a page, in light and dark, and names that stand twice."""

from axe_playwright_python.sync_playwright import Axe

TWICE = """() => {
    const ids = [...document.querySelectorAll('[id]')].map(e => e.id);
    return [...new Set(ids.filter((id, i) => ids.indexOf(id) !== i))];
}"""


def violations(page) -> list[str]:
    """What axe has against a page, and against its colours in the dark; elements of one name. It is put into the page
    once: that takes as long as the look itself."""
    found = Axe().run(page, options={"resultTypes": ["violations"]}).response["violations"]
    page.emulate_media(color_scheme="dark")
    found += page.evaluate("axe.run({runOnly: ['color-contrast']}).then(r => r.violations)")
    page.emulate_media(color_scheme="light")
    twice = [f"twice: {one}" for one in page.evaluate(TWICE)]
    return twice + [f"{v['id']}: {n['html'][:120]}" for v in found for n in v["nodes"]]


def faint(page) -> list[str]:
    """Words that stand out by less than 7 to 1, in light and dark."""
    options = {"runOnly": ["color-contrast-enhanced"], "resultTypes": ["violations"]}
    found = Axe().run(page, options=options).response["violations"]
    page.emulate_media(color_scheme="dark")
    found += page.evaluate("options => axe.run(options).then(r => r.violations)", options)
    page.emulate_media(color_scheme="light")
    return [n["html"][:120] for v in found for n in v["nodes"]]
