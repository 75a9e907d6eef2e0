"""Forms for setting up, inviting, joining and preferences."""

import secrets
from collections.abc import Callable
from typing import Any

from axes.handlers.proxy import AxesProxyHandler
from django import forms
from django.conf import settings
from django.contrib.auth import user_login_failed
from django.contrib.auth.forms import AuthenticationForm, PasswordChangeForm, SetPasswordForm
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.http import HttpRequest

from .models import Membership, Person


class Guess:
    """A secret that is asked for, whoever is signed in: guessing it is throttled like that of passwords."""

    def __init__(self, request: HttpRequest, what: str) -> None:
        self._request, self._tries = request, {"username": what}

    def allowed(self) -> None:
        """ValidationError after too many wrong ones."""
        if not AxesProxyHandler.is_allowed(self._request, self._tries):
            raise ValidationError("Too many tries: wait a quarter of an hour.")

    def wrong(self, words: str) -> ValidationError:
        """Count a wrong one; what to raise."""
        user_login_failed.send(__name__, credentials=self._tries, request=self._request)
        return ValidationError(words)


class SignInForm(AuthenticationForm):
    """Name and password. The case of a name does not matter, as it does not when it is chosen."""

    username = forms.CharField(max_length=60, label="Your name", widget=forms.TextInput(
        attrs={"autofocus": True, "autocomplete": "username"}))

    def clean_username(self) -> str:
        """The name as it was written when it was chosen."""
        typed = str(self.cleaned_data["username"]).strip()
        known = Person.named(typed)
        return known.username if known else typed

    error_messages = {"invalid_login": "That name and password do not go together.",
                      "inactive": "This person has left."}


class NewPersonForm(forms.Form):
    """A person's name to sign in with and a password, typed twice."""

    username = forms.CharField(max_length=60, label="Your name",
                               widget=forms.TextInput(attrs={"autocomplete": "username"}),
                               help_text="You sign in with it; your colleagues see it.")
    password1 = forms.CharField(widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}), label="Password",
                                strip=False, help_text="At least 12 characters that are not easily guessed.")
    password2 = forms.CharField(widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
                                label="Password again", strip=False)

    def clean_username(self) -> str:
        """A name nobody has yet."""
        name = str(self.cleaned_data["username"]).strip()
        if Person.named(name):
            raise ValidationError("Somebody here has this name already: choose another.")
        return name

    def clean(self) -> None:
        """Passwords that agree and are strong enough."""
        one, two = self.cleaned_data.get("password1"), self.cleaned_data.get("password2")
        if one and two and one != two:
            self.add_error("password2", "The two passwords differ.")
        elif one:
            try:
                validate_password(one, Person(username=self.cleaned_data.get("username", "")))
            except ValidationError as error:
                self.add_error("password1", error)

    def make(self) -> Person:
        """The person, stored."""
        return Person.objects.create_user(self.cleaned_data["username"], password=self.cleaned_data["password1"])


class SetupForm(NewPersonForm):
    """The first page on an empty database: the code from the terminal, the workshop, its first member."""

    code = forms.CharField(label="Set-up code", help_text="Printed in the terminal that runs Loadstar.")
    workshop = forms.CharField(max_length=80, label="Name of the workshop")
    field_order = ["code", "workshop", "username", "password1", "password2"]

    def __init__(self, request: HttpRequest, data: Any = None) -> None:
        super().__init__(data)
        self.request = request

    def clean_code(self) -> str:
        """The one-time code; guessing is throttled like that of passwords."""
        guess = Guess(self.request, "set-up code")
        guess.allowed()
        path = settings.SETUP_CODE_FILE
        wanted = path.read_text().strip() if path.exists() else ""
        given = str(self.cleaned_data["code"]).strip()
        if not wanted or not secrets.compare_digest(given.encode(), wanted.encode()):
            raise guess.wrong("That is not the code that the terminal shows.")
        return given


class InviteForm(forms.Form):
    """The role of the member to be."""

    role = forms.ChoiceField(choices=Membership.Role.choices, initial=Membership.Role.TECHNICIAN, label="Role")


class PreferencesForm(forms.ModelForm):
    """Units, theme, keys."""

    class Meta:
        """Fields of the person."""

        model = Person
        fields = ["area_unit", "length_unit", "temperature_unit", "theme", "single_keys"]
        labels = {"area_unit": "Wire sizes", "length_unit": "Lengths", "temperature_unit": "Temperatures",
                  "theme": "Look", "single_keys": "Single-key shortcuts"}


class WorkshopForm(forms.Form):
    """The name of one more workshop."""

    name = forms.CharField(max_length=80, label="Name of the workshop")


class CodeForm(forms.Form):
    """A code of a second factor, or a recovery code; blanks in it do not matter. `matches` says whether it is the
    one."""

    code = forms.CharField(max_length=40, label="Code", widget=forms.TextInput(
        attrs={"autocomplete": "one-time-code", "autofocus": True}))

    def __init__(self, request: HttpRequest, person: Person, matches: Callable[[str], bool], wrong: str) -> None:
        super().__init__(request.POST or None)
        self._guess, self._matches, self._wrong = Guess(request, f"code of {person.pk}"), matches, wrong

    def clean_code(self) -> str:
        """Without blanks; the right one."""
        self._guess.allowed()
        given = "".join(str(self.cleaned_data["code"]).split())
        if not self._matches(given):
            raise self._guess.wrong(self._wrong)
        return given


class NewPasswordForm(SetPasswordForm):
    """A new password, typed twice."""

    error_messages = {"password_mismatch": "The two passwords differ."}

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["new_password1"].label = "New password"
        self.fields["new_password1"].help_text = "At least 12 characters that are not easily guessed."
        self.fields["new_password2"].label, self.fields["new_password2"].help_text = "New password again", ""


class ChangePasswordForm(NewPasswordForm, PasswordChangeForm):
    """The same, given the old one."""

    def __init__(self, request: HttpRequest, data: Any = None) -> None:
        super().__init__(request.user, data)
        self._request = request
        self.fields["old_password"].label = "Password now"
        self.fields["old_password"].widget.attrs.pop("autofocus", None)

    def clean_old_password(self) -> str:
        """The right one."""
        return own_password(self._request, str(self.cleaned_data["old_password"]))


class PasswordForm(forms.Form):
    """One's password, before what weakens the account."""

    password = forms.CharField(widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}), strip=False,
                               label="Your password")

    def __init__(self, request: HttpRequest, data: Any = None) -> None:
        super().__init__(data)
        self._request = request

    def clean_password(self) -> str:
        """The right one."""
        return own_password(self._request, str(self.cleaned_data["password"]))


def own_password(request: HttpRequest, given: str) -> str:
    """The password of whoever is signed in; ValidationError where it is another, or after too many of those."""
    guess = Guess(request, f"password of {request.user.pk}")
    guess.allowed()
    if not request.user.check_password(given):
        raise guess.wrong("That is not your password.")
    return given
