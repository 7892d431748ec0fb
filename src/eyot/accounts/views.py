"""The login, and one's own account."""

from __future__ import annotations

import ipaddress
from typing import Any

from allauth.account.views import LoginView as AllauthLoginView
from allauth.core import ratelimit
from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from django.conf import settings
from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from eyot.accounts import actions
from eyot.accounts.forms import ForgottenForm, LoginForm, MailForm, PasswordForm, RemovalForm
from eyot.accounts.logins import logins_of
from eyot.collection.forms import NewPasswordForm
from eyot.collection.member_actions import set_password_by, user_by
from eyot.collection.middleware import CollectionRequest, outside
from eyot.collection.models import Removal
from eyot.collection.removal_actions import DAYS_TO_THINK
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on


class LoginView(AllauthLoginView):  # type: ignore[misc]  # its library has no types
    """Name and password; who has a second factor is asked for it next."""

    form_class = LoginForm
    template_name = "accounts/login.html"

    def get_context_data(self, **more: Any) -> dict[str, Any]:
        """Whether a forgotten password can be replaced by mail."""
        return {**super().get_context_data(**more), "by_mail": settings.MAIL_IS_SENT}


def _account_page(request: CollectionRequest, refused: Refused | None = None, **more: Any) -> HttpResponse:
    held = Authenticator.objects.filter(user_id=request.member.pk).order_by("pk")
    kinds = {one.type for one in held}
    context = {
        "form": as_sent(refused, PasswordForm),
        "mail_form": as_sent(refused, MailForm, initial={"mail": request.member.email}),  # type: ignore[attr-defined]
        "by_mail": settings.MAIL_IS_SENT,
        "has_app": Authenticator.Type.TOTP in kinds,
        "passkeys": [one.wrap() for one in held if one.type == Authenticator.Type.WEBAUTHN],
        "has_second": bool(kinds - {Authenticator.Type.RECOVERY_CODES}),
        "has_codes": Authenticator.Type.RECOVERY_CODES in kinds,
        "passkeys_work": _has_a_name(request),
        "logins": logins_of(request.member, request.session.session_key),
        "removal": Removal.objects.filter(user_id=request.member.pk).first(),
        "removal_form": as_sent(refused, RemovalForm),
        "days": DAYS_TO_THINK,
        "refused": refused,
        "to_collections": outside("collections"),
    }
    return render(request, "accounts/account.html", context, status=422 if refused else 200)


def _has_a_name(request: HttpRequest) -> bool:
    """Is this server asked for by a name? A passkey belongs to a name, never to an address (Web Authentication, 5.1.2)."""
    try:
        ipaddress.ip_address(request.get_host().rpartition(":")[0].strip("[]") or request.get_host())
    except ValueError:
        return True
    return False


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_account_page)
def account_page(request: CollectionRequest) -> HttpResponse:
    """One's own account; sent, another password."""
    if request.method != "POST":
        return _account_page(request)
    actions.change_password(request.member, **entered(request, PasswordForm))
    update_session_auth_hash(request, request.member)  # type: ignore[arg-type]
    UserSession.objects.create_from_request(request)
    messages.success(request, "The password is changed. Other logins of yours have ended.")
    return redirect(outside("account"))


@require_POST
@refusals_on(_account_page)
def mail_changed(request: CollectionRequest) -> HttpResponse:
    """Where a link for a new password may go."""
    given = entered(request, MailForm)
    actions.change_mail(request.member, **given)
    words = f"A link for a new password goes to {given['mail']}." if given["mail"] else "No mail address is kept."
    messages.success(request, words)
    return redirect(outside("account"))


@require_POST
@refusals_on(_account_page)
def login_ended(request: CollectionRequest, number: int) -> HttpResponse:
    """Logged out there."""
    actions.end_login(request.member, number)
    messages.success(request, "That device is logged out.")
    return redirect(outside("account"))


@require_POST
@refusals_on(_account_page)
def removal_asked(request: CollectionRequest) -> HttpResponse:
    """One's own account is to go."""
    actions.ask_removal(request.member, entered(request, RemovalForm)["password"], timezone.now())
    return redirect(outside("account"))


@require_POST
def kept(request: CollectionRequest) -> HttpResponse:
    """One's own account stays."""
    actions.keep_account(request.member)
    return redirect(outside("account"))


def _new_password_page(request: CollectionRequest, token: str, refused: Refused | None = None) -> HttpResponse:
    user = user_by(token)
    context = {"form": as_sent(refused, NewPasswordForm), "user_named": user, "refused": refused}
    return render(
        request, "accounts/new_password.html", context, status=404 if user is None else 422 if refused else 200
    )


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_new_password_page)
def new_password_page(request: CollectionRequest, token: str) -> HttpResponse:
    """A new password by a link; then the login."""
    if request.method != "POST" or user_by(token) is None:
        return _new_password_page(request, token)
    user = set_password_by(token, **entered(request, NewPasswordForm))
    messages.success(request, f"The new password of {user} counts from now on.")
    return redirect(outside("login"))


def _forgotten_page(request: CollectionRequest, refused: Refused | None = None, *, asked: bool = False) -> HttpResponse:
    context = {"form": as_sent(refused, ForgottenForm), "by_mail": settings.MAIL_IS_SENT, "asked": asked}
    return render(request, "accounts/forgotten.html", context | {"refused": refused}, status=422 if refused else 200)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_forgotten_page)
def forgotten_page(request: CollectionRequest) -> HttpResponse:
    """A link for a new password by mail, where this server sends any. What is answered does not say who has an account."""
    if request.method != "POST" or not settings.MAIL_IS_SENT:
        return _forgotten_page(request)
    asked = entered(request, ForgottenForm)["name"]
    if not ratelimit.consume(request, action="reset_password", key=asked.lower()):
        raise Refused("That was asked for often enough for now; wait a quarter of an hour. Nothing was sent.")
    if asked:
        actions.send_links(
            asked, request.get_host(), lambda token: request.build_absolute_uri(outside("new-password", token))
        )
    return _forgotten_page(request, asked=True)
