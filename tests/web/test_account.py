"""Passwords, sessions, second factor; roles, leaving, taking out; several workshops; the trail."""

import re
import time

import pytest
from conftest import make_shop
from django.contrib.auth import get_user_model
from django.core.management import CommandError, call_command
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice

from loadstar.web.workshop.models import Invitation, Membership, ResetCode, Trail, Workshop

pytestmark = pytest.mark.django_db
OLD, NEW = "estuary-tide-tables", "eelgrass-and-samphire"


def signed_in(client, shop, name="owner", password=OLD):
    client.logout()
    return client.post("/sign-in/", {"username": f"{shop.workshop.name} {name}", "password": password})


def done(what):
    return Trail.objects.filter(what=what).count()


def test_a_password_is_changed_and_other_sessions_end(client, shop):
    other = client.__class__()
    signed_in(other, shop)
    signed_in(client, shop)
    form = {"old_password": OLD, "new_password1": NEW, "new_password2": NEW}
    for change, said in (({"old_password": "wrong"}, "That is not your password"), ({"new_password2": "x"}, "differ"),
                         ({"new_password1": "short", "new_password2": "short"}, "too short")):
        answer = client.post("/me/password/", {**form, **change})
        assert answer.status_code == 422 and said in answer.content.decode()
    assert client.post("/me/password/", form).status_code == 302
    assert client.get("/me/").status_code == 200 and other.get("/me/").status_code == 302
    assert "this one" in client.get("/me/").content.decode()
    assert signed_in(client, shop).status_code == 422 and signed_in(client, shop, password=NEW).status_code == 302
    assert done("password") == 1


def test_sessions_are_listed_and_ended(client, shop):
    other = client.__class__(headers={"User-Agent": "Bench tablet"}, REMOTE_ADDR="192.0.2.7")
    signed_in(client, shop)
    assert "had not used before" not in client.get("/me/").content.decode()  # there was nothing before it
    signed_in(other, shop)
    assert "had not used before" in other.get("/me/").content.decode()
    signed_in(other, shop)
    assert "had not used before" not in other.get("/me/").content.decode()  # the same browser for the second time
    other.logout()
    signed_in(client, shop)
    signed_in(other, shop)
    page = client.get("/me/").content.decode()
    assert "Bench tablet" in page and "192.0.2.7" in page
    number = re.search(r'name="sign_in" value="(\d+)"', page)[1]
    for wrong in ("0", "²", "x", "9" * 30):
        assert client.post("/me/sessions/", {"sign_in": wrong}).status_code == 404
    stranger = make_shop("Creek")
    client.__class__().force_login(stranger.owner)
    assert client.post("/me/sessions/", {"sign_in": number}).status_code == 302
    assert other.get("/me/").status_code == 302 and client.get("/me/").status_code == 200
    signed_in(other, shop)
    assert "Sessions ended: 1." in client.post("/me/sessions/", {"all": "1"}, follow=True).content.decode()
    assert other.get("/me/").status_code == 302 and client.get("/me/").status_code == 200


def now_code(device, ahead=0):
    device.refresh_from_db()
    return f"{totp(device.bin_key, t0=device.t0) if not ahead else totp(device.bin_key, t0=device.t0 - 30 * ahead):06d}"


@pytest.fixture
def guarded(client, shop):
    """The owner with a second factor; gives the device and the recovery codes."""
    signed_in(client, shop)
    page = client.get("/me/second-factor/").content.decode()
    assert "<svg" in page
    device = TOTPDevice.objects.get(user=shop.owner)
    wrong = client.post("/me/second-factor/", {"code": "000000"})
    assert wrong.status_code == 422 and "not the code" in wrong.content.decode()
    TOTPDevice.objects.update(throttling_failure_count=0, throttling_failure_timestamp=None)
    codes = client.post("/me/second-factor/", {"code": now_code(device)}).content.decode()
    found = re.findall(r"\b[0-9a-f]{6}-[0-9a-f]{6}\b", codes)
    assert len(set(found)) == 8 and done("factor on") == 1
    return device, found


def test_with_a_second_factor_a_password_opens_nothing(client, shop, guarded):
    device, codes = guarded
    assert signed_in(client, shop).url == "/sign-in/code/"
    assert client.get("/me/").status_code == 302
    assert client.post("/sign-in/code/", {"code": "abcdef"}).status_code == 422
    TOTPDevice.objects.update(throttling_failure_count=0, throttling_failure_timestamp=None, last_t=-1)
    from django_otp.plugins.otp_static.models import StaticDevice
    StaticDevice.objects.update(throttling_failure_count=0, throttling_failure_timestamp=None)
    assert client.post("/sign-in/code/", {"code": now_code(device)}).status_code == 302
    assert client.get("/me/").status_code == 200
    signed_in(client, shop)
    assert client.post("/sign-in/code/", {"code": f" {codes[0]} "}).status_code == 302
    signed_in(client, shop)
    assert client.post("/sign-in/code/", {"code": codes[0]}).status_code == 422  # each once


def test_half_a_sign_in_does_not_outlive_a_new_password(client, shop, guarded):
    signed_in(client, shop)
    assert client.get("/sign-in/code/").status_code == 200
    shop.owner.set_password(NEW)
    shop.owner.save()
    assert client.post("/sign-in/code/", {"code": guarded[1][0]}).url == "/sign-in/"
    assert client.get("/me/").status_code == 302


def test_waiting_for_the_code_ends(client, shop, guarded, monkeypatch):
    signed_in(client, shop)
    begun = time.time()
    monkeypatch.setattr("loadstar.web.workshop.signs.time.time", lambda: begun + 301)
    assert client.post("/sign-in/code/", {"code": guarded[1][1]}).url == "/sign-in/"
    client.logout()
    assert client.get("/sign-in/code/").url == "/sign-in/"


def test_a_second_factor_is_taken_away_with_the_password_only(client, shop, guarded):
    client.force_login(shop.owner)
    assert client.post("/me/no-second-factor/", {"password": "wrong"}).status_code == 422
    assert client.post("/me/no-second-factor/", {"password": OLD}).status_code == 302
    assert signed_in(client, shop).url == "/"


def act(client, shop, what, **data):
    return client.post(f"/w/{shop.workshop.slug}/members/{what}/", data)


def pk(shop, person):
    return Membership.objects.get(workshop=shop.workshop, person=person).pk


def test_only_owners_change_members_and_one_owner_stays(client, shop):
    for person in (shop.technician, shop.reader):
        client.force_login(person)
        for what in ("role", "remove", "reset", "revoke"):
            assert act(client, shop, what, id=pk(shop, shop.reader), role="owner").status_code == 403
        assert client.get(f"/w/{shop.workshop.slug}/trail/").status_code == 403
    client.force_login(shop.owner)
    act(client, shop, "role", id=pk(shop, shop.owner), role="reader")
    act(client, shop, "remove", id=pk(shop, shop.owner))
    act(client, shop, "leave")
    assert Membership.objects.get(person=shop.owner).role == "owner"
    act(client, shop, "role", id=pk(shop, shop.reader), role="owner")
    assert Membership.objects.get(person=shop.reader).role == "owner" and done("role") == 1
    assert act(client, shop, "leave").status_code == 302 and not shop.owner.memberships.exists()
    assert client.get(shop.url("loads/")).status_code == 404
    assert done("left") == 1


def test_an_owner_makes_a_technician_a_reader_and_one_of_two_owners_less(client, shop):
    client.force_login(shop.owner)
    told = act(client, shop, "role", id=pk(shop, shop.technician), role="reader")
    assert told.status_code == 302 and Membership.objects.get(person=shop.technician).role == "reader"
    act(client, shop, "role", id=pk(shop, shop.technician), role="reader")  # as it is: nothing to note
    assert done("role") == 1
    act(client, shop, "role", id=pk(shop, shop.reader), role="owner")
    act(client, shop, "role", id=pk(shop, shop.owner), role="technician")
    assert Membership.objects.get(person=shop.owner).role == "technician" and done("role") == 3


def test_a_member_of_another_workshop_is_out_of_reach(client, shop):
    other = make_shop("Creek")
    client.force_login(shop.owner)
    for what in ("role", "remove", "reset"):
        assert act(client, shop, what, id=pk(other, other.reader), role="owner").status_code == 404
    invitation = Invitation.objects.create(workshop=other.workshop, role="owner", made_by=other.owner)
    assert act(client, shop, "revoke", id=invitation.pk).status_code == 404
    for wrong in ("", "²", "x", "9" * 40):
        assert act(client, shop, "remove", id=wrong).status_code == 404
    assert act(client, shop, "role", id=pk(shop, shop.reader), role="king").status_code == 404
    assert act(client, shop, "nothing", id=1).status_code == 404


def test_taken_out_one_sees_nothing_and_what_one_did_stays(client, shop):
    client.force_login(shop.owner)
    act(client, shop, "remove", id=pk(shop, shop.technician))
    assert shop.row.revisions.filter(author=shop.technician).exists()
    client.force_login(shop.technician)
    assert client.get(shop.url("loads/")).status_code == 404


def test_an_invitation_is_taken_back(client, shop):
    client.force_login(shop.owner)
    client.post(f"/w/{shop.workshop.slug}/members/", {"role": "technician"})
    invitation = Invitation.objects.get()
    page = client.get(f"/w/{shop.workshop.slug}/members/").content.decode()
    assert "Open invitations" in page and invitation.token not in page.split("Open invitations")[1]
    act(client, shop, "revoke", id=invitation.pk)
    assert client.get(f"/join/{invitation.token}/").status_code == 404 and done("revoked") == 1


def test_a_new_password_by_a_code_from_an_owner(client, shop):
    client.force_login(shop.owner)
    page = client.get(act(client, shop, "reset", id=pk(shop, shop.reader)).url).content.decode()
    address = re.search(r"http://testserver(/new-password/[\w-]+/)", page)[1]
    assert ResetCode.objects.get().digest not in address
    other = client.__class__()
    signed_in(other, shop, "reader")
    client.logout()
    assert client.post(address, {"new_password1": NEW, "new_password2": OLD}).status_code == 422
    assert client.post(address, {"new_password1": NEW, "new_password2": NEW}).url == "/sign-in/"
    assert other.get("/me/").status_code == 302
    assert client.get(address).status_code == 404
    assert signed_in(client, shop, "reader", NEW).status_code == 302


def test_an_owner_gets_no_code_for_somebody_of_another_owner_s_workshop(client, shop):
    other = make_shop("Creek")
    Membership.objects.create(person=other.owner, workshop=shop.workshop, role="reader")
    client.force_login(shop.owner)
    page = client.get(act(client, shop, "reset", id=pk(shop, other.owner)).url).content.decode()
    assert "also belongs to a workshop that you do not own" in page and not ResetCode.objects.exists()


def test_whoever_runs_the_server_helps_an_owner(shop, capsys):
    call_command("reset", "mudflat OWNER")
    assert "/new-password/" in capsys.readouterr().out
    with pytest.raises(CommandError, match="nobody named Nobody"):
        call_command("reset", "Nobody")


def test_several_workshops_on_one_server(client, shop):
    client.force_login(shop.owner)
    assert client.post("/workshops/", {"name": ""}).status_code == 422
    assert client.post("/workshops/", {"name": "Creek Bench"}).url == "/w/creek-bench/"
    assert client.get("/").url == "/workshops/"
    page = client.get("/workshops/").content.decode()
    assert "Creek Bench" in page and "Mudflat" in page
    client.force_login(shop.technician)
    assert client.get("/w/creek-bench/").status_code == 404
    assert client.post("/workshops/", {"name": "Mine"}).status_code == 403
    assert Workshop.objects.count() == 2


def test_the_trail_is_read_by_owners_and_changed_by_nobody(client, shop):
    other = make_shop("Creek")
    signed_in(client, other)
    signed_in(client, shop, "technician")
    client.get(shop.url("plan.json"))
    client.get(shop.url("survey.csv"))
    signed_in(client, shop)
    page = client.get(f"/w/{shop.workshop.slug}/trail/").content.decode()
    assert page.count("took out a file") == 2 and "Mudflat technician" in page and "Creek" not in page
    line = Trail.objects.first()
    line.name = "somebody else"
    for change in (line.save, line.delete):
        with pytest.raises(RuntimeError, match="never changed"):
            change()
    assert get_user_model().objects.filter(username="Mudflat technician").exists()
