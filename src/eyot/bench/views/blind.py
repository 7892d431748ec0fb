"""Blind first, and several persons' answers side by side."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.bench.blind import eyes_on, guess_blind, sight_of, switch_blind
from eyot.bench.forms import GuessForm, InviteForm
from eyot.bench.models import Invitation
from eyot.bench.siblings import judged_one
from eyot.collection.middleware import CollectionRequest, outside
from eyot.season.models import Clutch
from eyot.season.queries import clutch_of_any, egg_of
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_as_text


@require_POST
def switch(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """Blind, or not any more."""
    clutch = clutch_of_any(request.collection, code)
    switch_blind(clutch.collection, request.member)
    return redirect("bench", code, egg_of(clutch, number).number)


@require_POST
@refusals_as_text
def guess(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """The first guess, after which everything is shown."""
    egg = egg_of(clutch_of_any(request.collection, code), number)
    stage = request.POST.get("stage", "")
    guess_blind(egg, request.member, stage, entered(request, GuessForm)["guess"], timezone.now())
    return redirect(f"{reverse('bench', args=[code, number])}?stage={stage}")


def eyes(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """Who saw what; kept from those who have not guessed yet."""
    egg = egg_of(clutch_of_any(request.collection, code), number)
    if sight_of(egg, request.member, egg.stage).blind:
        return redirect("bench", code, number)
    return eyes_page(request, code, number)


def eyes_page(
    request: CollectionRequest, code: str, number: int, refused: Refused | None = None, **more: object
) -> HttpResponse:
    """The page, with what was refused."""
    egg = egg_of(clutch_of_any(request.collection, code), number)
    context = {
        "clutch": egg.clutch,
        "egg": egg,
        "eyes": eyes_on(judged_one(egg.clutch), egg),
        "invitations": invitations_of(egg.clutch, request),
        "form": as_sent(refused, InviteForm),
        "refused": refused,
    }
    return render(request, "bench/eyes.html", context, status=422 if refused else 200)


def invitations_of(clutch: Clutch, request: CollectionRequest) -> list[tuple[Invitation, str]]:
    """The invitations of a clutch with the link of those that are open: one query."""
    now = timezone.now()
    return [
        (one, request.build_absolute_uri(outside("invited", one.token)) if one.is_open(now) else "")
        for one in clutch.invitations.all()
    ]
