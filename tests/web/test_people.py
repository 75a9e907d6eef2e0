"""Setting up, signing in, throttling, inviting, demo entry, preferences."""

import pytest
from django.contrib.auth import get_user_model
from django.core.management import call_command

from loadstar.demo import PLANS
from loadstar.web.service.demo import load_demo
from loadstar.web.workshop.models import Invitation, Membership, Workshop

pytestmark = pytest.mark.django_db
STRONG = "eelgrass-and-samphire"


@pytest.fixture
def code(settings, tmp_path):
    """A set-up code as the launcher prints it."""
    settings.SETUP_CODE_FILE = tmp_path / "setup-code"
    settings.SETUP_CODE_FILE.write_text("beef1234")
    return "beef1234"


def test_an_empty_database_leads_to_set_up(client, code):
    assert client.get("/").url == "/setup/"
    form = {"code": code, "workshop": "Harbour Bench", "username": "Ana", "password1": STRONG, "password2": STRONG}
    for change, said in (({"code": "guess"}, "not the code"), ({"password2": "other-words-entirely"}, "differ"),
                         ({"password1": "short", "password2": "short"}, "too short"), ({"workshop": ""}, "required")):
        answer = client.post("/setup/", {**form, **change})
        assert answer.status_code == 422
        assert said in answer.content.decode()
        assert not Workshop.objects.exists()
    answer = client.post("/setup/", form)
    assert answer.url == "/w/harbour-bench/"
    assert Membership.objects.get().role == "owner"
    assert client.get(answer.url).status_code == 200


def test_set_up_happens_once(client, code, settings):
    form = {"code": code, "workshop": "One", "username": "Ana", "password1": STRONG, "password2": STRONG}
    client.post("/setup/", form)
    assert not settings.SETUP_CODE_FILE.exists()
    client.post("/sign-out/")
    assert client.post("/setup/", {**form, "username": "Eve"}).status_code == 302
    assert get_user_model().objects.count() == 1


def test_sign_in_and_out(client, shop):
    answer = client.post("/sign-in/", {"username": "Mudflat owner", "password": "wrong-words"})
    assert answer.status_code == 422
    assert "do not go together" in answer.content.decode()
    assert client.post("/sign-in/", {"username": "Mudflat owner", "password": "estuary-tide-tables"}).status_code == 302
    assert client.get("/").url == f"/w/{shop.workshop.slug}/"
    client.post("/sign-out/")
    assert client.get("/").url == "/sign-in/"


def test_the_case_of_a_name_does_not_matter_at_sign_in(client, shop):
    answer = client.post("/sign-in/", {"username": " mudflat OWNER", "password": "estuary-tide-tables"})
    assert answer.status_code == 302 and client.get("/").url == f"/w/{shop.workshop.slug}/"


@pytest.mark.parametrize(("wanted", "led_to"), [
    ("/me/", "/me/"), ("https://elsewhere.example/", "/"), ("//elsewhere.example/", "/"), ("javascript:x", "/"),
    ("", "/")])
def test_after_signing_in_one_goes_where_one_wanted(client, shop, wanted, led_to):
    page = client.get("/sign-in/", {"next": wanted}).content.decode()
    assert f'name="next" value="{led_to}"' in page
    answer = client.post("/sign-in/", {"username": "Mudflat owner", "password": "estuary-tide-tables", "next": wanted})
    assert answer.url == led_to


def test_guessing_the_set_up_code_is_throttled(client, code):
    form = {"code": "guess", "workshop": "One", "username": "Ana", "password1": STRONG, "password2": STRONG}
    for _ in range(7):
        assert "not the code" in client.post("/setup/", form).content.decode()
    assert client.post("/setup/", form).status_code == 429
    assert "Too many tries" in client.post("/setup/", {**form, "code": code}).content.decode()
    assert not Workshop.objects.exists()


def test_a_name_of_any_length_is_no_fault(client, shop):
    assert client.post("/sign-in/", {"username": "a" * 300, "password": "x"}).status_code == 422


def test_data_of_a_demonstration_go_to_who_sets_up(client, code):
    load_demo()
    call_command("prepare")
    assert client.get("/").url == "/setup/"
    client.post("/setup/", {"code": code, "workshop": "One", "username": "Ana", "password1": STRONG,
                            "password2": STRONG})
    assert Membership.objects.filter(person__username="Ana", role="owner").count() == 2


def test_passwords_are_argon2(shop):
    assert shop.owner.password.startswith("argon2$")


def test_guessing_is_throttled(client, shop):
    for _ in range(8):
        last = client.post("/sign-in/", {"username": "Mudflat owner", "password": "guess"})
    assert last.status_code in (403, 429)
    right = client.post("/sign-in/", {"username": "Mudflat owner", "password": "estuary-tide-tables"})
    assert right.status_code in (403, 429)
    assert "Too many tries" in right.content.decode()


def test_only_owners_invite_and_an_invitation_works_once(client, shop):
    address = f"/w/{shop.workshop.slug}/members/"
    client.force_login(shop.technician)
    assert client.post(address, {"role": "owner"}).status_code == 403
    client.force_login(shop.owner)
    client.post(address, {"role": "technician"})
    invitation = Invitation.objects.get()
    client.logout()
    join = f"/join/{invitation.token}/"
    assert "Join Mudflat" in client.get(join).content.decode()
    form = {"username": "Newcomer", "password1": STRONG, "password2": STRONG}
    assert client.post(join, {**form, "username": "mudflat OWNER"}).status_code == 422
    assert client.post(join, form).url == f"/w/{shop.workshop.slug}/"
    assert Membership.objects.get(person__username="Newcomer").role == "technician"
    assert client.get(join).status_code == 404
    assert client.get("/join/no-such-token/").status_code == 404


def test_a_strange_role_is_refused(client, shop):
    client.force_login(shop.owner)
    client.post(f"/w/{shop.workshop.slug}/members/", {"role": "emperor"})
    assert not Invitation.objects.exists()


def test_the_demo_door_is_shut_outside_demo_mode(client, shop, settings):
    assert client.post("/enter-demo/").status_code == 404
    settings.DEMO = True
    assert client.post("/enter-demo/").status_code == 404  # nobody of that name


def test_demo_data_is_loaded_once_and_entered_with_one_press(client, settings):
    from loadstar.web.plans.models import PlanHead
    settings.DEMO = True
    load_demo()
    load_demo()
    assert PlanHead.objects.count() == len(PLANS)
    assert "Enter the demo workshop" in client.get("/sign-in/").content.decode()
    assert client.post("/enter-demo/").url == "/"
    body = client.get("/", follow=True).content.decode()
    assert "Survey season fit-out" in body
    assert "Winter counts" in body


def test_preferences(client, shop):
    client.force_login(shop.owner)
    form = {"area_unit": "awg", "length_unit": "ft", "temperature_unit": "F", "theme": "dark"}
    assert client.post("/me/", form).status_code == 302
    shop.owner.refresh_from_db()
    assert (shop.owner.length_unit, shop.owner.theme, shop.owner.single_keys) == ("ft", "dark", False)
    body = client.get(shop.url("circuits/?sel=W8")).content.decode()
    assert 'data-theme="dark" data-keys="off"' in body
    assert "AWG (" in body
    assert "\xa0ft" in body


def test_another_workshop_s_bench_is_not_there(client, shop):
    client.force_login(get_user_model().objects.create_user("Stray"))
    assert client.get(f"/w/{shop.workshop.slug}/").status_code == 404
    assert client.get("/w/nowhere/").status_code == 404
    assert client.get("/").status_code == 403


def test_policy_and_cookie_headers(client, shop, settings):
    client.force_login(shop.owner)
    answer = client.get(shop.url("loads/"))
    policy = answer["Content-Security-Policy"]
    assert "unsafe" not in policy
    assert "default-src 'none'" in policy
    assert answer["X-Frame-Options"] == "DENY"
    assert "Server-Timing" not in answer and answer["Cache-Control"] == "private, no-store"
    settings.DEMO = True
    assert "app;dur=" in client.get(shop.url("loads/"))["Server-Timing"]
    assert settings.SESSION_COOKIE_HTTPONLY


def test_only_the_published_password_of_the_demonstration_is_locked(db, settings, tmp_path, capsys):
    """Somebody may be named as its person is."""
    settings.SETUP_CODE_FILE = tmp_path / "setup-code"
    person = get_user_model().objects.create_user("Demo technician", password=STRONG)
    call_command("prepare")
    person.refresh_from_db()
    assert person.check_password(STRONG) and "locked" not in capsys.readouterr().out
    person.set_password("mudflats-at-low-tide")
    person.save()
    call_command("prepare")
    person.refresh_from_db()
    assert not person.has_usable_password() and "has been locked" in capsys.readouterr().out
