"""What somebody sees who was invited by a link: one clutch's photos and looks, no chance, no name, nobody else's answers."""

from __future__ import annotations

from collections.abc import Callable
from uuid import UUID, uuid4

from django.http import Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.bench.actions import Answer, record_look
from eyot.bench.blind import guess_blind
from eyot.bench.forms import GuessForm, InviteForm
from eyot.bench.invitations import check_room, invitation_of, invite, let_count, withdraw_invitation
from eyot.bench.judgement import counting
from eyot.bench.look_rows import look_rows
from eyot.bench.models import FirstGuess, Invitation
from eyot.bench.siblings import judged_one
from eyot.bench.views.blind import eyes_page
from eyot.collection.middleware import CollectionRequest
from eyot.photos.models import Photo
from eyot.photos.views.serving import sized
from eyot.season.models import Egg
from eyot.season.queries import clutch_of_any, egg_of
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

Page = Callable[..., HttpResponseBase]


def by_invitation(view: Page) -> Page:
    """Lets a view through for an open invitation; anybody else reads that it has ended."""

    def guarded(request: HttpRequest, token: str, **more: object) -> HttpResponseBase:
        invitation = invitation_of(token, timezone.now())
        if invitation is None:
            return render(request, "bench/invited/ended.html", status=404)
        return view(request, invitation, **more)

    return guarded


def _eggs(invitation: Invitation) -> list[Egg]:
    clutch = clutch_of_any(invitation.clutch.collection, invitation.clutch.code)
    return [egg for egg in clutch.eggs.all() if egg.is_open]


@by_invitation
def clutch(request: HttpRequest, invitation: Invitation) -> HttpResponse:
    """The hatchlings that may be looked at."""
    rows = [(egg, [photo for photo in egg.photos.all() if photo.has_sizes]) for egg in _eggs(invitation)]
    guessed = set(FirstGuess.objects.filter(by=invitation.eye).values_list("egg", flat=True))
    context = {"invitation": invitation, "rows": rows, "guessed": guessed}
    return render(request, "bench/invited/clutch.html", context)


@by_invitation
def hatchling(request: HttpRequest, invitation: Invitation, number: int) -> HttpResponse:
    """One hatchling: its photos, the looks, the guess."""
    return _hatchling(request, invitation, number)


def _egg(invitation: Invitation, number: int) -> Egg:
    clutch = clutch_of_any(invitation.clutch.collection, invitation.clutch.code)
    egg = egg_of(clutch, number)
    if not egg.is_open:
        raise Http404("not open")
    return egg


def _hatchling(
    request: HttpRequest, invitation: Invitation, number: int, refused: Refused | None = None
) -> HttpResponse:
    egg = _egg(invitation, number)
    judgement = judged_one(egg.clutch)
    own = counting(look for look in judgement.all_looks[egg.pk] if look.seen_by_id == invitation.eye_id)
    asked = judgement.worth_asking(egg.stage)
    context = {
        "invitation": invitation,
        "egg": egg,
        "photos": [photo for photo in egg.photos.all() if photo.has_sizes],
        "rows": look_rows(judgement, own, egg.stage, invitation.eye_id, "", asked.__contains__),
        "guess": FirstGuess.objects.filter(egg=egg, by=invitation.eye, stage=egg.stage).first(),
        "form": as_sent(refused, GuessForm),
        "refused": refused,
    }
    return render(request, "bench/invited/hatchling.html", context, status=422 if refused else 200)


@require_POST
@by_invitation
@refusals_on(_hatchling)
def answer(request: HttpRequest, invitation: Invitation, number: int) -> HttpResponse:
    """A look, or the guess."""
    egg, given, now = _egg(invitation, number), request.POST, timezone.now()
    if "guess" in given:
        guess_blind(egg, invitation.eye, egg.stage, entered(request, GuessForm)["guess"], now)
    else:
        check_room(invitation)
        look = Answer(given.get("trait", ""), given.get("level", ""), egg.stage, "sure", uuid4())
        record_look(egg, invitation.eye, look, now)
    place = f"#{given['trait']}" if "trait" in given else ""
    return redirect(reverse("invited-egg", args=[invitation.token, number]) + place)


@by_invitation
def photo(request: HttpRequest, invitation: Invitation, photo_id: UUID, size: str) -> HttpResponseBase:
    """A photo of the clutch; of no other."""
    shown = Photo.objects.filter(pk=photo_id, egg__clutch=invitation.clutch_id).first()
    if shown is None:
        raise Http404("not of this clutch")
    return sized(shown, size)


@require_POST
@refusals_on(eyes_page)
def invited(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """A member makes an invitation."""
    clutch = clutch_of_any(request.collection, code)
    given = entered(request, InviteForm)
    invite(clutch, request.member, given["name"], given["days"], timezone.now())
    return redirect("eyes", code, egg_of(clutch, number).number)


@require_POST
@refusals_on(eyes_page)
def counted(request: CollectionRequest, code: str, number: int, invitation_id: int) -> HttpResponse:
    """A member lets the answers of an outside eye count, or leaves them out."""
    let_count(request.collection, invitation_id, counts=request.POST.get("counts") == "yes")
    return redirect("eyes", code, egg_of(clutch_of_any(request.collection, code), number).number)


@require_POST
@refusals_on(eyes_page)
def withdrawn(request: CollectionRequest, code: str, number: int, invitation_id: int) -> HttpResponse:
    """A member ends an invitation."""
    withdraw_invitation(request.collection, invitation_id, timezone.now())
    return redirect("eyes", code, egg_of(clutch_of_any(request.collection, code), number).number)
