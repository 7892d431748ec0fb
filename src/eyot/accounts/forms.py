"""What is entered of an account."""

from __future__ import annotations

from typing import Any

from allauth.account.forms import LoginForm as AllauthLoginForm
from django import forms

from eyot.collection.forms import NewPasswordForm, password
from eyot.shared.forms import EntryForm, LineField


class LoginForm(AllauthLoginForm):  # type: ignore[misc]  # its library has no types
    """Name and password."""

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self.fields["login"] = forms.CharField(
            label="Name", widget=forms.TextInput(attrs={"autocomplete": "username", "autocapitalize": "none"})
        )
        self.fields["password"].label = "Password"
        self.fields["password"].help_text = ""
        self.fields["password"].widget.attrs.pop("placeholder", None)


class PasswordForm(NewPasswordForm):
    """A password of one's own."""

    field_order = ("old", "new")
    old = password("Password so far", "Password so far", "current-password")


class RemovalForm(EntryForm):
    """One's own account is to go."""

    password = password("Your password, to say that you mean it", "Password", "current-password")


class MailForm(EntryForm):
    """Where a link for a new password goes."""

    mail = LineField(200, label="Mail address, empty for none", called="Mail")
    password = password("Your password", "Password", "current-password")


class ForgottenForm(EntryForm):
    """Somebody forgot a password."""

    name = LineField(200, label="Your name here, or your mail address", called="Name")
