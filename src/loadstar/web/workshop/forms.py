"""Forms for setting up, inviting, joining and preferences."""

import secrets
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
        tries = {"username": "set-up code"}
        if not AxesProxyHandler.is_allowed(self.request, tries):
            raise ValidationError("Too many tries: wait a quarter of an hour.")
        path = settings.SETUP_CODE_FILE
        wanted = path.read_text().strip() if path.exists() else ""
        given = str(self.cleaned_data["code"]).strip()
        if not wanted or not secrets.compare_digest(given.encode(), wanted.encode()):
            user_login_failed.send(__name__, credentials=tries, request=self.request)
            raise ValidationError("That is not the code that the terminal shows.")
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
    """A code of a second factor, or a recovery code; blanks in it do not matter."""

    code = forms.CharField(max_length=40, label="Code", widget=forms.TextInput(
        attrs={"autocomplete": "one-time-code", "autofocus": True}))

    def clean_code(self) -> str:
        """Without blanks."""
        return "".join(str(self.cleaned_data["code"]).split())


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

    error_messages = {**NewPasswordForm.error_messages, "password_incorrect": "That is not your password."}

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["old_password"].label = "Password now"
        self.fields["old_password"].widget.attrs.pop("autofocus", None)


class PasswordForm(forms.Form):
    """One's password, before what weakens the account."""

    password = forms.CharField(widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}), strip=False,
                               label="Your password")

    def __init__(self, person: Person, data: Any = None) -> None:
        super().__init__(data)
        self.person = person

    def clean_password(self) -> str:
        """The right one."""
        given = str(self.cleaned_data["password"])
        if not self.person.check_password(given):
            raise ValidationError("That is not your password.")
        return given
