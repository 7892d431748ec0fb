"""The capture page: an egg is chosen, photos come in by themselves."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.capture.arrivals import take_in, watched_folder
from eyot.capture.camera import POSES, press
from eyot.collection.middleware import CollectionRequest
from eyot.photos.models import Photo
from eyot.photos.queries import progress_of
from eyot.season.models import Clutch, Egg, Stage
from eyot.season.queries import clutch_of, egg_of

SHOWN = 12


def capture_page(request: CollectionRequest, code: str) -> HttpResponse:
    """The clutch's eggs to choose from, and what came for the chosen one."""
    clutch = clutch_of(request.collection, code)
    eggs = [egg for egg in clutch.eggs.all() if egg.is_open]
    chosen = next((egg for egg in eggs if str(egg.number) == request.GET.get("egg")), eggs[0] if eggs else None)
    watched_folder(request.collection)
    return render(request, "capture/page.html", _context(request, clutch, chosen) | {"eggs": eggs})


def _context(request: CollectionRequest, clutch: Clutch, egg: Egg | None) -> dict[str, object]:
    stage = request.GET.get("stage") or request.POST.get("stage") or (egg.stage if egg else "")
    kind = request.GET.get("kind") or request.POST.get("kind") or Photo.Kind.BACK
    photos = list(egg.photos.order_by("-added_at")[:SHOWN]) if egg else []
    progress = progress_of(photos)
    return {
        "clutch": clutch,
        "egg": egg,
        "stage": stage if stage in Stage.values else (egg.stage if egg else ""),
        "kind": kind if kind in Photo.Kind.values else Photo.Kind.BACK,
        "stages": Stage.choices,
        "kinds": Photo.Kind.choices,
        "poses": POSES.items(),
        "photos": photos,
        "progress": progress,
        "seen": f"{progress.done}/{progress.total}/{len(progress.stuck)}",
        "folder": f"arriving/{request.collection.pk}",
    }


@require_POST
def arrivals(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """What came into the watched folder is taken in for the chosen egg; the list of its photos anew, or 204 where it is as
    the page shows it."""
    clutch = clutch_of(request.collection, code)
    egg = egg_of(clutch, number)
    context = _context(request, clutch, egg)
    came = take_in(request.collection, egg, request.member, str(context["stage"]), str(context["kind"]), timezone.now())
    if any(not arrival.trouble for arrival in came):
        context |= _context(request, clutch, egg)
    if not came and context["seen"] == request.POST.get("seen"):
        return HttpResponse(status=204)
    return render(
        request, "capture/arrived.html", context | {"refused": [arrival for arrival in came if arrival.trouble]}
    )


@require_POST
def shoot(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """The simulated camera takes a photo of the chosen egg."""
    clutch = clutch_of(request.collection, code)
    egg = egg_of(clutch, number)
    stage = request.POST.get("stage") or egg.stage
    try:
        press(egg, request.member, request.POST.get("pose", ""), stage, timezone.now())
    except ValueError as wrong:
        messages.error(request, f"No photo was taken: {wrong}.")
    return redirect(f"{reverse('capture', args=[clutch.code])}?egg={egg.number}&stage={stage}")
