"""Ways on the map by pointer, keys and finger."""

import pytest
from browser.touch import too_small

from loadstar.demo import winter
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store

pytestmark = pytest.mark.django_db(transaction=True)


def middle(spot) -> tuple[float, float]:
    box = spot.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_run_is_bent_by_pointer_keys_and_finger(walk, shop):
    row = store.take_in(shop.workshop, shop.owner, winter()[0])

    def points():
        return store.load(PlanHead.objects.get(pk=row.pk)).plan.run("R2").points

    someone = walk(shop.technician, has_touch=True)
    page = someone.goto(f"/w/{shop.workshop.slug}/p/{row.pk}/route/")
    page.locator("#run-R2").focus()
    someone.redraw(lambda: page.keyboard.press("Enter"))
    x, y = middle(page.locator("[id='spot-R2+0'] circle").first)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 30, steps=4)
    someone.redraw(page.mouse.up)
    (bent,) = points()
    page.locator("[id='spot-R2.0']").focus()
    someone.redraw(lambda: page.keyboard.press("ArrowUp"))
    assert points()[0].y_mm == pytest.approx(bent.y_mm + 10, abs=1)
    assert page.evaluate("document.activeElement.id") == "spot-R2.0"  # so that it can be pressed again
    someone.redraw(lambda: page.keyboard.press("ArrowRight"))
    assert points()[0].x_mm == pytest.approx(bent.x_mm + 10, abs=1)
    x, y = middle(page.locator("[id='spot-R2.0'] circle").first)
    drag = "new PointerEvent(type, { clientX: x, clientY: y, pointerId: 5, pointerType: 'touch', bubbles: true })"
    someone.redraw(lambda: page.evaluate(f"""([x, y]) => {{
        const spot = document.getElementById("spot-R2.0").querySelector("circle");
        const box = spot.closest(".map-box");
        box.setPointerCapture = () => {{}};
        const send = (at, type, x, y) => at.dispatchEvent({drag});
        send(spot, "pointerdown", x, y); send(box, "pointermove", x + 12, y); send(box, "pointerup", x + 12, y);
    }}""", [x, y]))
    assert points()[0].x_mm > bent.x_mm + 15
    page.locator("[id='spot-R2.0']").focus()
    someone.redraw(lambda: page.keyboard.press("Delete"))
    assert points() == ()


def test_what_is_pressed_on_route_and_ends_is_large_enough_for_a_finger(walk, shop):
    someone = walk(shop.technician, has_touch=True)
    someone.page.set_viewport_size({"width": 800, "height": 1280})
    for path in ("route/", "route/?sel=R3", "route/?view=board", "route/?view=returns", "route/?view=weigh", "ends/",
                 "ends/?sel=W8", "ends/?view=connectors", "ends/?view=pins", "ends/?view=buy", "ends/?view=cut"):
        page = someone.goto(shop.url(path))
        assert too_small(page) == [], path
        assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth + 1"), path


def test_ends_with_keys_alone(walk, shop):
    someone = walk(shop.technician)
    page = someone.goto(shop.url("ends/"))
    page.locator("#of-W8\\.a").focus()
    someone.redraw(lambda: page.keyboard.press("Enter"))
    page.locator("#id_tb").focus()
    page.keyboard.type("blade 4")
    page.keyboard.press("Tab")
    someone.redraw(lambda: page.keyboard.press("Enter"))
    made = store.load(PlanHead.objects.get(pk=shop.row.pk)).plan
    assert made.part(made.wire("W8").b.part).termination == "blade 4.8"
    page.locator("#tab-pins").focus()
    someone.redraw(lambda: page.keyboard.press("Enter"))
    page.locator("#id_leads").fill("lamp;ground;;2\nhorn;ground;;3")
    page.locator("#pins-go").focus()
    someone.redraw(lambda: page.keyboard.press("Enter"))
    assert "2 leads on 1 pin: fewer are impossible" in page.locator("#pins").inner_text()
