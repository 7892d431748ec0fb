"""How allauth is set to our ways: nobody signs up by himself, guessing is slowed by name and address, words are Eyot's."""

from __future__ import annotations

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from allauth.core import context
from allauth.mfa.adapter import DefaultMFAAdapter
from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest, HttpResponse

from eyot.accounts.guessing import remember
from eyot.shared.codes import svg_of
from eyot.shared.proxy import client_address

NAME = "Eyot"


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]  # its library has no types
    """Accounts are made by an invitation or by the code of the first visit, never by a form that stands open."""

    error_messages = DefaultAccountAdapter.error_messages | {
        "username_password_mismatch": "Name and password don’t belong together. Nothing was changed; try again.",
        "incorrect_password": "That is not your password. Nothing was changed; try again.",
    }

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Never."""
        return False

    def pre_authenticate(self, request: HttpRequest, **credentials: Any) -> None:
        """Who guesses is held up by axes (:mod:`eyot.accounts.guessing`), not twice."""

    def post_login(self, request: HttpRequest, user: AbstractBaseUser, **more: Any) -> HttpResponse:
        """The browser is known from now on."""
        response: HttpResponse = super().post_login(request, user, **more)
        remember(request, response, user.get_username())
        return response

    def get_client_ip(self, request: HttpRequest) -> str:
        """Where a request came from; behind a proxy of ours what the proxy says."""
        return client_address(request)

    def add_message(self, *args: Any, **more: Any) -> None:
        """Our own pages say what was done."""

    def send_mail(self, *args: Any, **more: Any) -> None:
        """Mail goes out from our own actions only."""


class SecondFactorAdapter(DefaultMFAAdapter):  # type: ignore[misc]  # its library has no types
    """The second factor under Eyot's name."""

    error_messages = DefaultMFAAdapter.error_messages | {
        "incorrect_code": "That is not the code that counts now. Wait for the next one and try again."
    }

    def get_totp_issuer(self) -> str:
        """As the authenticator app shows it."""
        return NAME

    def build_totp_svg(self, url: str) -> str:
        """The code to scan."""
        return svg_of(url)

    def generate_authenticator_name(self, user: AbstractBaseUser, type: Any) -> str:
        """A passkey is called after its device by whoever adds it."""
        return ""

    def get_public_key_credential_rp_entity(self) -> dict[str, str]:
        """Who asks for a passkey: the name under which this server was opened."""
        return {"id": context.request.get_host().partition(":")[0], "name": NAME}
