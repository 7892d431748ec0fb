"""The list, an animal's page, entering and changing, and the record of changes."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_http_methods, require_POST

from eyot_core.wording.line import understood

from eyot.animals.actions import archive, change_animal, enter_animal, remove_animal, resting_on, weigh
from eyot.animals.forms import NEW, AnimalForm, AnimalPhotosForm, ParentsForm, SameAsForm, stated_of
from eyot.animals.individuals import seen_as, stage_of
from eyot.animals.lines import LONGEST_LINE, asked_of, names_of, unknown_in
from eyot.animals.queries import (
    ROLES,
    Asked,
    animal_of,
    clutches_with,
    listed,
    names_in,
    naming_of,
    newest_pictures,
    newest_strip,
    photos_of,
    stated_genes,
    strip_key,
    young_of,
)
from eyot.collection.history import changes_of, subject_of, take_back
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Change, Sex
from eyot.collection.rights import may_take_back
from eyot.season.forms import WeightForm
from eyot.season.growth import grown_of, plot_of
from eyot.season.models import Weighing
from eyot.shared.forms import as_sent, entered, sent
from eyot.shared.refusal import Refused, refusals_on


def animals(request: CollectionRequest) -> HttpResponse:
    """Who is here."""
    asked = Asked(
        request.GET.get("q", "").strip()[:120],
        request.GET.get("sex", ""),
        request.GET.get("role", ""),
        request.GET.get("page", "1"),
    )
    query = request.GET.copy()
    query.pop("page", None)
    context = {
        "asked": asked,
        "listed": (shown := listed(request.collection, asked)),
        "pictured": newest_pictures(shown.page),
        "naming": naming_of(request.collection),
        "roles": ROLES,
        "query": query.urlencode(),
        "here": "animals",
    }
    part = request.htmx and not request.htmx.boosted  # type: ignore[attr-defined]
    return render(request, "animals/parts/rows.html" if part else "animals/list.html", context)


def animal(request: CollectionRequest, number: int, refused: Refused | None = None) -> HttpResponse:
    """One animal."""
    one = animal_of(request.collection, number)
    naming = naming_of(request.collection)
    context = {
        "animal": one,
        "genes": stated_genes(one, naming),
        "strip_key": strip_key(one, naming),
        "plot": plot_of(list(one.weighings.all())),
        "grown": grown_of(one.weighings.all(), seen_as(one)),
        "weights": list(one.weighings.all())[::-1],
        "clutches": clutches_with(one),
        "young": young_of(one),
        "photos": (photos := photos_of(one)),
        "own_strip": newest_strip(photos),
        "seen_as": seen_as(one),
        "photos_form": as_sent(refused, AnimalPhotosForm, initial={"stage": stage_of(one, timezone.localdate())}),
        "same_form": as_sent(refused, SameAsForm),
        "parents_form": as_sent(refused, ParentsForm),
        "changes": changes_of(request.collection, subject_of(one), 8),
        "resting": resting_on(one),
        "weight_form": as_sent(refused, WeightForm),
        "refused": refused,
        "here": "animals",
    }
    return render(request, "animals/animal.html", context, status=422 if refused else 200)


def line(request: CollectionRequest) -> HttpResponse:
    """What a line is understood as, while it is typed."""
    typed = request.GET.get("line", "")[:LONGEST_LINE]
    return render(request, "animals/parts/understood.html", _understood(request, typed))


def _understood(request: CollectionRequest, typed: str) -> dict[str, object]:
    read = understood(names_of(request.collection), typed)
    return {
        "read": read,
        "names": names_of(request.collection),
        "asked_of_line": asked_of(typed, read),
        "unknown_words": unknown_in(typed, read),
    }


def _form_page(request: CollectionRequest, number: int | None = None, refused: Refused | None = None) -> HttpResponse:
    """The form of an animal, a new one's without ``number``."""
    one = animal_of(request.collection, number) if number else None
    stated = stated_of(one, request.collection) if one else {}
    form = as_sent(refused, AnimalForm, about=number or NEW, collection=request.collection, initial=stated)
    context = {
        "form": form,
        "animal": one,
        "refused": refused,
        "dams": names_in(request.collection, sex=Sex.MALE),
        "sires": names_in(request.collection, sex=Sex.FEMALE),
        "here": "animals",
        **_understood(request, str(form["line"].value() or "")[:LONGEST_LINE]),
    }
    return render(request, "animals/form.html", context, status=422 if refused else 200)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_form_page)
def enter(request: CollectionRequest) -> HttpResponse:
    """A new animal."""
    if request.method != "POST":
        return _form_page(request)
    details, read = sent(request, AnimalForm, about=NEW, collection=request.collection).details()
    made = enter_animal(request.collection, request.member, details, read.statements, timezone.now())
    return redirect("animal", made.pk)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_form_page)
def edit(request: CollectionRequest, number: int) -> HttpResponse:
    """What is stated of an animal, to be changed."""
    if request.method != "POST":
        return _form_page(request, number)
    one = animal_of(request.collection, number)
    details, read = sent(request, AnimalForm, about=number, collection=request.collection).details()
    change_animal(one, request.member, details, read.statements, timezone.now())
    return redirect("animal", one.pk)


@require_POST
def put_aside(request: CollectionRequest, number: int) -> HttpResponse:
    """To the archive, or back."""
    one = animal_of(request.collection, number)
    archive(one, request.member, timezone.now(), back=bool(one.archived_on))
    return redirect("animal", one.pk)


@require_POST
@refusals_on(animal)
def remove(request: CollectionRequest, number: int) -> HttpResponse:
    """Deleted, if nothing rests on it."""
    remove_animal(animal_of(request.collection, number), request.member, timezone.now())
    return redirect("animals")


@require_POST
@refusals_on(animal)
def add_weight(request: CollectionRequest, number: int) -> HttpResponse:
    """A weight, typed or read off the scale."""
    one = animal_of(request.collection, number)
    given = entered(request, WeightForm)
    weigh(one, request.member, given["grams"], given["on"], Weighing.Source.TYPED, timezone.now())
    return redirect("animal", one.pk)


def history_page(request: CollectionRequest, *, refused: Refused | None = None, **change: object) -> HttpResponse:
    """The last changes, each with who and when."""
    context = {"changes": changes_of(request.collection, most=100), "refused": refused, "here": "history"}
    return render(request, "animals/history.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(history_page)
def undo(request: CollectionRequest, number: int) -> HttpResponse:
    """A change is taken back."""
    change = get_object_or_404(Change, collection=request.collection, pk=number)
    if not may_take_back(request.membership.role, own=change.by_id == request.member.pk):
        raise Refused(f"As {request.membership.role} you take back what you did yourself. Nothing was changed.")
    take_back(change, request.member, timezone.now())
    return redirect(_back_to(request))


def _back_to(request: HttpRequest) -> str:
    wanted = request.POST.get("next", "")
    safe = url_has_allowed_host_and_scheme(wanted, allowed_hosts={request.get_host()})
    return wanted if safe else reverse("history")
