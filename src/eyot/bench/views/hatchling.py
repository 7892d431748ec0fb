"""One hatchling on the bench."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any
from uuid import uuid4

from django.contrib import messages
from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST
from django_htmx.http import reswap

from eyot_core.body_places import BY_ID, place_of
from eyot_core.photo.picture import NoPicture

from eyot.bench.actions import Answer, OnGene, make_call, possible_from_outside, record_look, withdraw_look
from eyot.bench.claims import USUAL, claim_view, latest_claim, photos_to_ask, read_claim
from eyot.bench.forms import ClaimForm
from eyot.bench.judgement import ClutchJudgement, Judgement, trait_words
from eyot.bench.live import stamp_of
from eyot.bench.look_rows import changed_rows
from eyot.bench.measured import offered
from eyot.bench.models import CalledGene
from eyot.bench.next_hatchling import next_hatchling
from eyot.bench.queries import answered_by_anyone, bench_view, rarely_asked
from eyot.bench.siblings import filmstrip, judged_one
from eyot.bench.table_judgement import TableJudgement
from eyot.collection.middleware import CollectionRequest
from eyot.photos.actions import add_photo, lender
from eyot.photos.models import Photo
from eyot.photos.places import Shot, best_shot, nearest_in_age
from eyot.photos.queries import latest_belly, latest_strips, other_on_card, progress_of, strips_of_other_stages
from eyot.season.models import Clutch, Egg, Stage
from eyot.season.queries import clutch_of_any, egg_of
from eyot.shared.devices import entered_at, key_from
from eyot.shared.forms import as_sent
from eyot.shared.refusal import Refused, refusals_as_text

MOST_PHOTOS = 40


def bench_page(request: CollectionRequest, code: str, number: int, refused: Refused | None = None) -> HttpResponse:
    """The bench, or what can be said of an egg that is not open."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    if clutch.elsewhere and egg.kept_as is None:
        messages.info(request, "What stood here was joined with a hatchling of the record; it lies there now.")
        return redirect("animals")
    if request.headers.get("HX-Target") == "judgement" and egg.is_open:
        return _changed(request, clutch, egg)
    stamp = stamp_of(clutch)
    judgement = judged_one(clutch)
    context = {
        "clutch": clutch,
        "egg": egg,
        "stamp": stamp,
        "frames": filmstrip(judgement, clutch) if isinstance(judgement, ClutchJudgement) else [],
        **_neighbours(clutch, egg),
    }
    if not egg.is_open:
        return render(request, "bench/shut.html", context)
    stage = stage_of_page(request, egg)
    context |= _fragment(request, judgement, clutch, egg, stage)
    context |= _photos(egg, request.GET.get("photo", ""), stage)
    if refused:
        context |= _on_the_table(judgement, egg, stage, refused)
    return render(request, "bench/page.html", context, status=422 if refused else 200)


def _on_the_table(judgement: Judgement, egg: Egg, stage: str, refused: Refused | None = None) -> dict[str, Any]:
    """What is shown besides of an animal that is judged by itself: its claim, and what to ask a seller for."""
    if not isinstance(judgement, TableJudgement):
        return {}
    claim = latest_claim(egg)
    first = {"line": claim.line, "trust": claim.trust_percent} if claim else {"trust": USUAL}
    return {
        "claim": claim_view(judgement, claim, read_claim(judgement.clutch.collection, claim.line)) if claim else None,
        "claim_form": as_sent(refused, ClaimForm, initial=first),
        "refused": refused,
        "photos_to_ask": photos_to_ask(judgement.next_looks(egg, stage)),
    }


def _photos(egg: Egg, asked: str, stage: str) -> dict[str, object]:
    """An egg's photos, the one shown large: the one asked for, or the last from above."""
    photos = list(egg.photos.select_related("light_from__egg", "egg__clutch"))
    above = [photo for photo in photos if photo.kind == Photo.Kind.BACK]
    last = (above or photos)[-1] if photos else None
    shown = next((photo for photo in photos if str(photo.pk) == asked), last)
    return {
        "photos": photos,
        "shown": shown,
        "lender": lender(shown) if shown else None,
        "on_card": other_on_card(shown) if shown else None,
        "progress": progress_of(photos),
        "wiped_to": strips_of_other_stages(photos, stage),
    }


def _neighbours(clutch: Clutch, egg: Egg) -> dict[str, object]:
    eggs = list(clutch.eggs.all())
    place = [other.pk for other in eggs].index(egg.pk)
    return {"previous": eggs[place - 1] if place else None, "next": eggs[place + 1] if place + 1 < len(eggs) else None}


def stage_of_page(request: HttpRequest, egg: Egg) -> str:
    """The stage that a page is asked for, else the hatchling's own."""
    asked = request.GET.get("stage") or request.POST.get("stage") or ""
    return asked if asked in Stage.values else egg.stage


def _fragment(request: CollectionRequest, judgement: Judgement, clutch: Clutch, egg: Egg, stage: str) -> dict[str, Any]:
    view = bench_view(judgement, egg, stage, request.member)
    strips = latest_strips(clutch, stage)
    measured = next((photo for photo in strips if photo.egg_id == egg.pk), None)
    answered = answered_by_anyone(judgement, egg, stage)
    suggesting = [(photo, offered(photo, strips, answered)) for photo in (measured, latest_belly(egg, stage)) if photo]
    return {
        "view": view,
        "blind": view.sight.blind,
        "may_be_stranger": not view.sight.blind and (view.contradiction or bool(view.surprises)),
        "looks_blind": view.sight.chosen,
        "measured": measured,
        "asked_at": _asked_at(egg, view.next_step.trait, stage) if view.next_step else None,
        "suggesting": [(photo, words) for photo, words in suggesting if words],
        "clutch": clutch,
        "egg": egg,
        "verdicts": [row for row in CalledGene.Verdict.choices if row[0] != CalledGene.Verdict.EITHER],
        "call_key": uuid4(),
        "stages": Stage.choices,
        **_on_the_table(judgement, egg, stage),
    }


def _asked_at(egg: Egg, trait: str, stage: str) -> Shot | None:
    """Where the look that is asked is seen, in the photo that shows it best; none where no photo has a line there."""
    photos = [photo for photo in egg.photos.order_by("taken_at", "added_at") if photo.has_sizes]
    place = place_of(trait, trait_words(trait)["region"])
    shot = best_shot(nearest_in_age(photos, stage), BY_ID[place]) if photos else None
    return None if shot is None or shot.is_whole else shot


def more_looks(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """The looks that tell little of this pairing."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    rows = rarely_asked(judged_one(clutch), egg, stage_of_page(request, egg), request.member)
    return render(request, "bench/more.html", {"rows": rows})


def _changed(request: CollectionRequest, clutch: Clutch, egg: Egg, refused: str = "") -> HttpResponse:
    """What changes on the bench with a look: of the rows only those that the page shows otherwise. The whole page where no script runs."""
    stage, stamp = stage_of_page(request, egg), stamp_of(clutch)
    if not request.headers.get("HX-Request") and not refused:
        return redirect(f"{reverse('bench', args=[clutch.code, egg.number])}?stage={stage}")
    context = _fragment(request, judged_one(clutch), clutch, egg, stage) | {"refused": refused, "is_fragment": True}
    changed = None if refused else changed_rows(context["view"].rows, request.headers.get("X-Rows-Shown", ""))
    if changed is None:
        shown = render(request, "bench/judgement.html", context, status=422 if refused else 200)
    else:
        shown = reswap(render(request, "bench/changed.html", context | {"changed": changed}), "none")
    shown["X-Stamp"] = stamp
    return shown


@require_POST
def answer(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """A look is answered."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    at = entered_at(request.POST, timezone.now())
    return carried_out(request, clutch, egg, lambda user: record_look(egg, user, answer_from(request), at))


def carried_out(
    request: CollectionRequest, clutch: Clutch, egg: Egg, change: Callable[[AbstractBaseUser], object]
) -> HttpResponse:
    """Carries out a change for the reader and shows the bench anew; with the reason, where it was refused. What a device had kept and
    sends later is answered without a page."""
    is_late = bool(request.headers.get("X-Outbox"))
    try:
        change(request.member)
    except Refused as reason:
        if is_late or not egg.is_open:
            return HttpResponse(str(reason), status=422, content_type="text/plain; charset=utf-8")
        return _changed(request, clutch, egg, str(reason))
    return HttpResponse(status=204) if is_late else _changed(request, clutch, egg)


def answer_from(request: HttpRequest) -> Answer:
    """An answer to a look, as it was sent."""
    given = request.POST
    return Answer(
        trait=given.get("trait", ""),
        level=given.get("level", ""),
        stage=given.get("stage", ""),
        confidence=given.get("confidence", "sure"),
        key=key_from(given.get("key", "")) or uuid4(),
        photo=given.get("photo", ""),
        follows=key_from(given.get("follows", "")),
    )


@require_POST
def withdraw(request: CollectionRequest, code: str, number: int, look_id: int) -> HttpResponse:
    """One's own look is taken back."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    return carried_out(request, clutch, egg, lambda user: withdraw_look(egg, user, look_id, timezone.now()))


def _on_gene(verdict: str, copies: str) -> OnGene:
    """One gene's verdict as sent: "1?" copies are one that may be two."""
    return OnGene(verdict, 2 if copies == "2" else 1, maybe_two=copies == "1?" and verdict in ("sure", "likely"))


@require_POST
def call(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """The call is made."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    given = request.POST
    judgement = judged_one(clutch)
    verdicts = {
        name[8:]: _on_gene(str(value), str(given.get(f"copies-{name[8:]}", "1")))
        for name, value in given.items()
        if name.startswith("verdict-")
    }
    if outside := given.get("outside", ""):
        verdicts[outside] = possible_from_outside(judgement, outside, given.get("reason", ""))
    stage, note, key = stage_of_page(request, egg), given.get("note", ""), key_from(given.get("key", "")) or uuid4()
    return carried_out(
        request,
        clutch,
        egg,
        lambda user: make_call(judgement, egg, user, verdicts, stage, note, key, timezone.now()),
    )


@require_POST
def photos(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """Pictures are added; what can't be taken is told by name, the others are kept."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    if request.headers.get("X-Outbox"):
        return _kept_photo(request, egg)
    troubles = []
    files = request.FILES.getlist("photos")
    if not files:
        troubles.append("No picture came through. Choose one and add it again; nothing was changed.")
    for file in files[:MOST_PHOTOS]:
        taken = add_photo(egg, request.member, file, stage_of_page(request, egg), timezone.now())
        if isinstance(taken, NoPicture):
            troubles.append(taken.message)
    if len(files) > MOST_PHOTOS:
        troubles.append(f"At most {MOST_PHOTOS} pictures at once; the first {MOST_PHOTOS} were taken.")
    if troubles and len(files) > len(troubles):
        troubles.append("The other pictures were added.")
    for trouble in troubles:
        messages.error(request, trouble)
    return redirect(f"{reverse('bench', args=[clutch.code, egg.number])}?stage={stage_of_page(request, egg)}")


@refusals_as_text
def _kept_photo(request: CollectionRequest, egg: Egg) -> HttpResponse:
    """One picture that a device had kept, answered without a page."""
    file, at = request.FILES.get("photo"), entered_at(request.POST, timezone.now())
    if file is None:
        raise Refused("No picture came through. Nothing was changed.")
    taken = add_photo(
        egg, request.member, file, stage_of_page(request, egg), at, key=key_from(request.POST.get("key", ""))
    )
    if isinstance(taken, NoPicture):
        raise Refused(taken.message)
    return HttpResponse(status=204)


def following(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """To the hatchling with the most telling open question: of this clutch, else of the season; else to the closing sheet."""
    clutch = clutch_of_any(request.collection, code)
    if clutch.elsewhere:
        return redirect("animal", egg_of(clutch, number).kept_as_id)
    egg = next_hatchling(clutch, number)
    return redirect("bench", egg.clutch.code, egg.number) if egg else redirect("closing", code)
