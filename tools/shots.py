"""`./loadstar shots`: one picture of each main view from demo data, into docs/screenshots."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
from demo_server import browsing, served

INTO = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
TELEPHONE = {"width": 390, "height": 844}
PLAN = "/w/saltmarsh-survey-workshop/p/1/"
VIEWS = {
    "bench": "/w/saltmarsh-survey-workshop/", "survey": PLAN.replace("/1/", "/7/") + "survey/?sel=P5",
    "route": PLAN + "route/?sel=R3", "board": PLAN + "route/?view=board",
    "connectors": PLAN.replace("/1/", "/7/") + "survey/?view=plugs&sel=AP1",
    "loads": PLAN + "loads/?sel=L2",
    "budget": PLAN + "budget/?state=idle", "circuits": PLAN + "circuits/?state=idle&sel=W18",
    "handover": PLAN + "handover/", "ends": PLAN + "ends/?sel=W8",
    "build": PLAN + "build/", "prove": PLAN + "prove/", "fault": PLAN + "prove/?view=find&sel=L1",
    "answers": "/w/saltmarsh-survey-workshop/pocket/?q=wire&amount=6&length_m=3&area_mm2=0.75",
}


def main() -> int:
    """Take them all."""
    INTO.mkdir(parents=True, exist_ok=True)
    with served() as server, browsing(server.address) as page:
        for name, path in VIEWS.items():
            page.goto(path)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=INTO / f"{name}.png")
        page.goto("/w/saltmarsh-survey-workshop/begin/")
        page.locator("input[value='touring motorcycle/middle']").check()
        for wish in ("grips", "lamp pair", "tracker"):
            page.locator(f"input[name=wanted][value='{wish}']:visible").check()
        page.evaluate("scrollTo(0, 0)")
        page.screenshot(path=INTO / "begin.png")
        page.locator("#begin-send").click()
        page.wait_for_url("**/circuits/**")
        page.goto(page.url.split("circuits/")[0] + "survey/?view=measure")
        page.wait_for_selector("#measure:not([data-again])", timeout=120_000)
        page.reload()
        page.screenshot(path=INTO / "measure.png")
        page.goto(PLAN + "circuits/?state=idle&sel=W18")
        page.wait_for_selector("html[data-redrawn]", state="attached")
        page.locator("#findings-open").click()
        page.screenshot(path=INTO / "findings.png")
        page.locator("#findings .act").click()
        page.locator(".headline .figure").nth(2).click()
        page.wait_for_selector("dialog .working")
        page.screenshot(path=INTO / "working.png")
        page.set_viewport_size(TELEPHONE)
        page.goto(PLAN + "prove/")
        page.wait_for_load_state("networkidle")
        page.screenshot(path=INTO / "telephone.png")
    print(f"- {len(list(INTO.glob('*.png')))} pictures in {INTO}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
