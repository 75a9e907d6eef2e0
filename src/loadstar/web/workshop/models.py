"""People, workshops, who belongs to which and as what, open invitations, sign-ins, and the trail of who did what."""

import secrets
from datetime import timedelta
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.db.models.functions import Lower
from django.utils import timezone

from loadstar.core.doc.rules import HouseRules
from loadstar.core.plan.document import house_rules


class Person(AbstractUser):
    """Somebody who signs in, and how they like to read: units, theme, keys."""

    class Area(models.TextChoices):
        """How wire sizes are shown."""

        MM2 = "mm2", "mm² with AWG beside it"
        AWG = "awg", "AWG with mm² beside it"

    class Length(models.TextChoices):
        """How lengths are shown and typed."""

        METRE = "m", "metres"
        FOOT = "ft", "feet"

    class Temperature(models.TextChoices):
        """How temperatures are shown and typed."""

        CELSIUS = "C", "Celsius"
        FAHRENHEIT = "F", "Fahrenheit"

    class Theme(models.TextChoices):
        """Paper or dark bay."""

        AUTO = "auto", "as the device says"
        LIGHT = "light", "light"
        DARK = "dark", "dark"

    area_unit = models.CharField(max_length=4, choices=Area.choices, default=Area.MM2)
    length_unit = models.CharField(max_length=4, choices=Length.choices, default=Length.METRE)
    temperature_unit = models.CharField(max_length=4, choices=Temperature.choices, default=Temperature.CELSIUS)
    theme = models.CharField(max_length=8, choices=Theme.choices, default=Theme.AUTO)
    single_keys = models.BooleanField(default=True)
    tour = models.CharField(max_length=40, blank=True, default="", help_text="Empty: not offered yet; \"over\"; or the "
                            "tour's plan and step.")

    @classmethod
    def named(cls, name: str) -> "Person | None":
        """Who has this name. The database keeps letters' case apart; people do not."""
        return cls.objects.annotate(lower=Lower("username")).filter(lower=name.strip().lower()).first()

    @property
    def shown_name(self) -> str:
        """What others read."""
        return self.first_name or self.username


class Workshop(models.Model):
    """A workshop: whatever belongs to it is seen by its members only."""

    name = models.CharField(max_length=80)
    slug = models.SlugField(max_length=60, unique=True)
    house_rules = models.JSONField(default=dict, blank=True)

    @property
    def rules(self) -> HouseRules:
        """The house rules that new plans begin with; the usual ones where nothing else was agreed."""
        return house_rules(self.house_rules)[0]

    @property
    def rules_not_taken(self) -> tuple[str, ...]:
        """A sentence for each house rule that is kept but cannot be taken: the usual one stands in its place."""
        return house_rules(self.house_rules)[1]

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A person in a workshop, with a role."""

    class Role(models.TextChoices):
        """What a member may do: readers look, technicians edit, owners invite as well."""

        OWNER = "owner", "owner"
        TECHNICIAN = "technician", "technician"
        READER = "reader", "reader"

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="memberships")
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role.choices)

    class Meta:
        """One membership for each pair."""

        constraints = [models.UniqueConstraint(fields=["person", "workshop"], name="one_membership")]

    @property
    def may_edit(self) -> bool:
        """Whether this member may change plans."""
        return self.role in (self.Role.OWNER, self.Role.TECHNICIAN)


def _token() -> str:
    return secrets.token_urlsafe(24)


def _in_a_week() -> "timezone.datetime":
    return timezone.now() + timedelta(days=7)


class Invitation(models.Model):
    """An open invitation: whoever opens its address first joins with the role given."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=12, choices=Membership.Role.choices)
    token = models.CharField(max_length=40, unique=True, default=_token)
    expires = models.DateTimeField(default=_in_a_week)
    made_by = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    taken_by = models.ForeignKey(Person, null=True, on_delete=models.SET_NULL, related_name="+")

    @property
    def open(self) -> bool:
        """Whether it can still be taken up."""
        return self.taken_by_id is None and self.expires > timezone.now()


class ResetCode(models.Model):
    """A one-time code by which somebody who forgot their password sets a new one. Kept as its hash."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="reset_codes")
    digest = models.CharField(max_length=64, unique=True)
    expires = models.DateTimeField()


class Pairing(models.Model):
    """A one-time code by which somebody who is signed in signs their telephone in. Kept as its hash."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="pairings")
    digest = models.CharField(max_length=64, unique=True)
    expires = models.DateTimeField()


class FormerMember(models.Model):
    """Somebody who no longer belongs to a workshop, but may still hold what they pressed there without a network."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="former_members")

    class Meta:
        """One for each pair."""

        constraints = [models.UniqueConstraint(fields=["person", "workshop"], name="one_former_member")]


class RefusedAct(models.Model):
    """What a former member had pressed without a network, and sent when it was too late: not taken, kept for the
    owners to see. `act` is the id that the browser gave it: what comes twice is there once."""

    act = models.CharField(max_length=40, unique=True)
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="refused_acts")
    name = models.CharField(max_length=150, help_text="Of the person, as it was.")
    where = models.CharField(max_length=200)
    said = models.TextField(help_text="Every field that was sent.")
    at = models.DateTimeField(auto_now_add=True)


class SignIn(models.Model):
    """A sign-in of a person: where from, and its session as long as that lasts."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="sign_ins")
    session = models.CharField(max_length=40, db_index=True)
    at = models.DateTimeField(auto_now_add=True)
    address = models.CharField(max_length=45)
    browser = models.CharField(max_length=200)


class Trail(models.Model):
    """Who did what, for owners to read. Added to, never changed: not by a page, nor by this class."""

    class What(models.TextChoices):
        """What is worth a line."""

        SIGNED_IN = "signed in", "signed in"
        PASSWORD = "password", "changed the password"
        RESET = "reset", "made a code for a new password"
        FACTOR_ON = "factor on", "set up a second factor"
        FACTOR_OFF = "factor off", "took the second factor away"
        INVITED = "invited", "made an invitation"
        REVOKED = "revoked", "took an invitation back"
        JOINED = "joined", "joined"
        ROLE = "role", "changed a role"
        REMOVED = "removed", "took a member out"
        LEFT = "left", "left the workshop"
        EXPORTED = "exported", "took out a file"
        IMPORTED = "imported", "took in a file"
        ARCHIVED = "archived", "put a plan into the archive"
        RESTORED = "restored", "took a plan out of the archive"
        DELETED = "deleted", "deleted a plan for good"
        TAKEN = "taken", "took things off the shelf"

    workshop = models.ForeignKey(Workshop, null=True, on_delete=models.SET_NULL, related_name="trail",
                                 help_text="Null: about the person, in whichever workshop they are.")
    person = models.ForeignKey(Person, null=True, on_delete=models.SET_NULL, related_name="+")
    name = models.CharField(max_length=150, help_text="Of the person, as it was.")
    what = models.CharField(max_length=12, choices=What.choices)
    about = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        """Read newest first."""

        indexes = [models.Index(fields=["workshop", "-at"])]

    def save(self, *args: Any, **options: Any) -> None:
        """Only once."""
        if self.pk is not None:
            raise RuntimeError("the trail is never changed")
        super().save(*args, **options)

    def delete(self, *args: Any, **options: Any) -> tuple[int, dict[str, int]]:
        """Never."""
        raise RuntimeError("the trail is never changed")
