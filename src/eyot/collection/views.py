"""A person's collections, and a collection's members."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth import get_user_model, login
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from eyot.collection import member_actions as actions
from eyot.collection.forms import AccountForm, ClaimForm, MemberForm, NewCollectionForm
from eyot.collection.middleware import CollectionRequest, inside, outside
from eyot.collection.models import Role
from eyot.collection.rights import WORDS, may
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

RESET = "link-for-a-new-password"
"""Where the session keeps such a link until it was shown, once."""


def collections(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """The collections that the reader belongs to, and the way to one of his own."""
    memberships = request.member.memberships.select_related("collection__removal")  # type: ignore[attr-defined]
    context = {
        "rows": [(one, inside(one.collection), WORDS[one.as_role]) for one in memberships],
        "form": as_sent(refused, NewCollectionForm),
        "make": outside("new-collection"),
        "refused": refused,
    }
    return render(request, "collection/collections.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(collections)
def made(request: CollectionRequest) -> HttpResponse:
    """An empty collection of the reader's own."""
    given = entered(request, NewCollectionForm)
    collection = actions.new_collection(request.member, given.pop("collection"), **given)
    messages.success(request, f"{collection} is yours. Enter your animals first; everything else follows from them.")
    return redirect(inside(collection, "animals"))


def members_page(request: CollectionRequest, refused: Refused | None = None, **more: Any) -> HttpResponse:
    """Who belongs to the collection, and as what."""
    now, own = timezone.now(), request.membership
    may_change = may(own.role, "change-role")
    invitations = request.collection.member_invitations.filter(used_at=None, withdrawn_at=None, expires_at__gt=now)
    context = {
        "members": [(one, WORDS[one.as_role]) for one in request.collection.memberships.select_related("user")],
        "own": own,
        "may_change": may_change,
        "roles": [(role, role.label, words) for role, words in WORDS.items()],
        "invitations": [(one, request.build_absolute_uri(outside("join", one.token))) for one in invitations]
        if may_change
        else [],
        "form": as_sent(refused, MemberForm),
        "reset": request.session.pop(RESET, None),
        "refused": refused,
        "here": "members",
    }
    return render(request, "collection/members.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(members_page)
def invited(request: CollectionRequest) -> HttpResponse:
    """A link for one new member."""
    given = entered(request, MemberForm)
    one = actions.invite_member(request.collection, request.member, **given, at=timezone.now())
    messages.success(request, f"A link for {one.name} stands below. Whoever opens it first becomes {one.role} here.")
    return redirect("members")


@require_POST
@refusals_on(members_page)
def withdrawn(request: CollectionRequest, number: int) -> HttpResponse:
    """An invitation ends."""
    actions.withdraw_member_invitation(request.collection, request.member, number, timezone.now())
    return redirect("members")


@require_POST
@refusals_on(members_page)
def role_changed(request: CollectionRequest, number: int) -> HttpResponse:
    """A member may more, or less."""
    one = actions.change_role(request.collection, request.member, number, request.POST.get("role", ""), timezone.now())
    messages.success(request, f"{one.user} is {one.role} now.")
    return redirect("members")


@require_POST
@refusals_on(members_page)
def removed(request: CollectionRequest, number: int) -> HttpResponse:
    """A member is one no more."""
    one = actions.end_membership(request.collection, request.member, number, timezone.now())
    messages.success(request, f"{one.user} has no way in any more; what {one.user} did here keeps the name.")
    return redirect("members")


@require_POST
@refusals_on(members_page)
def left(request: CollectionRequest) -> HttpResponse:
    """The reader leaves."""
    actions.end_membership(request.collection, request.member, request.membership.pk, timezone.now())
    return redirect(outside("collections"))


def _join_page(request: CollectionRequest, token: str, refused: Refused | None = None) -> HttpResponse:
    invitation = actions.invitation_by(token)
    trouble = invitation.trouble(timezone.now()) if invitation else "leads nowhere"
    context = {
        "invitation": invitation,
        "trouble": trouble,
        "words": WORDS[Role(invitation.role)] if invitation else "",
        "form": as_sent(refused, AccountForm),
        "to_login": f"{outside('login')}?next={outside('join', token)}",
        "refused": refused,
    }
    status = 404 if trouble else 422 if refused else 200
    return render(request, "collection/join.html", context, status=status)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_join_page)
def join_page(request: CollectionRequest, token: str) -> HttpResponse:
    """What an invitation is for; and, sent, its use: by whoever is logged in, else by a new account."""
    invitation = actions.invitation_by(token)
    if request.method != "POST" or invitation is None or invitation.trouble(timezone.now()):
        return _join_page(request, token)
    if request.user.is_authenticated:
        membership = actions.join(invitation, request.user, timezone.now())
    else:
        with transaction.atomic():
            new = actions.new_account(**entered(request, AccountForm))
            membership = actions.join(invitation, new, timezone.now())
        login(request, new, backend="django.contrib.auth.backends.ModelBackend")
    return redirect(inside(membership.collection))


def _begin_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    taken = get_user_model().objects.exists()
    context = {"form": as_sent(refused, ClaimForm), "taken": taken, "to_login": outside("login"), "refused": refused}
    status = 410 if taken else 422 if refused else 200
    return render(request, "collection/begin.html", context, status=status)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_begin_page)
def begin_page(request: CollectionRequest) -> HttpResponse:
    """The first visit of a server without any account: the owner's account and collection, against the code."""
    if request.method != "POST":
        return _begin_page(request)
    owner, collection = actions.claim(**entered(request, ClaimForm))
    login(request, owner, backend="django.contrib.auth.backends.ModelBackend")
    return redirect(inside(collection))


@require_POST
@refusals_on(members_page)
def reset_made(request: CollectionRequest, number: int) -> HttpResponse:
    """A link by which a member sets a new password."""
    one, token = actions.reset_token(request.collection, request.member, number, timezone.now())
    link = request.build_absolute_uri(outside("new-password", token))
    request.session[RESET] = [str(one.user), link]
    return redirect("members")
