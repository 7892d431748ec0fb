"""The proving desk."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.middleware import CollectionRequest
from eyot.hets.desk import HATCHLINGS, desk_of
from eyot.hets.desk_actions import add_clutch, add_showing, enter_catalogue, keep_showings, open_trait
from eyot.hets.models import NewTrait, Showing
from eyot.hets.two_genes import one_gene_or_two, one_place_or_two
from eyot.season.queries import clutch_of, egg_of
from eyot.season.reading import animal_named, number_from
from eyot.shared.refusal import Refused, refusals_on


def traits(request: CollectionRequest, refused: str = "", message: str = "") -> HttpResponse:
    """All traits on the desk, and the test of two look-alikes."""
    given = request.POST if refused or message else {}
    if request.method == "POST" and not refused and not message:
        try:
            made = open_trait(
                request.collection,
                request.member,
                request.POST.get("name", ""),
                request.POST.get("note", ""),
                timezone.now(),
            )
            return redirect("trait", made.pk)
        except Refused as reason:
            refused, given = str(reason), request.POST
    context = {
        "traits": list(request.collection.new_traits.prefetch_related("showings")),
        "refused": refused,
        "message": message,
        "given": given,
        "here": "hets",
    }
    return render(request, "hets/traits.html", context, status=422 if refused else 200)


@refusals_on(traits)
def together(request: CollectionRequest) -> HttpResponse:
    """Two recessive look-alikes bred together: one gene, or two that complement each other?"""
    if request.method != "POST":
        return redirect("proving")
    given = request.POST
    counts = [number_from(given.get(key, ""), key.capitalize()) for key in ("hatchlings", "visuals")]
    first, second = (2 if given.get(key) == "visual" else 1 for key in ("first", "second"))
    return traits(request, message=one_gene_or_two(first, second, *counts))


@refusals_on(traits)
def same_place_or_two(request: CollectionRequest) -> HttpResponse:
    """An animal with a new gene and one of a known complex, bred to normals: one place or two?"""
    if request.method != "POST":
        return redirect("proving")
    counts = [number_from(request.POST.get(key, ""), key.capitalize()) for key in ("both", "one", "neither")]
    return traits(request, message=one_place_or_two(*counts))


def _trait(request: CollectionRequest, number: int) -> NewTrait:
    rows = request.collection.new_traits.select_related("proband__animal", "proband__egg__clutch", "collection")
    return get_object_or_404(rows, pk=number)


def trait(request: CollectionRequest, number: int, refused: str = "") -> HttpResponse:
    """One trait."""
    found = _trait(request, number)
    context = {
        "trait": found,
        "desk": desk_of(found),
        "rows": list(found.showings.select_related("animal", "egg__clutch")),
        "shows": Showing.Shows.choices,
        "hatchlings": HATCHLINGS,
        "animals": list(request.collection.animals.values_list("name", flat=True)),
        "refused": refused,
        "here": "hets",
    }
    return render(request, "hets/trait.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(trait)
def who(request: CollectionRequest, number: int) -> HttpResponse:
    """An animal, a hatchling ("W-04 3") or a whole clutch ("W-04") joins the pedigree."""
    found, given = _trait(request, number), request.POST.get("who", "").strip()
    shows, now = request.POST.get("shows", "unseen"), timezone.now()
    codes = {clutch.code.lower(): clutch.code for clutch in request.collection.clutches.all()}
    code, _, egg = given.partition(" ")
    if code.lower() in codes:
        clutch = clutch_of(request.collection, codes[code.lower()])
        if not egg:
            add_clutch(found, request.member, list(clutch.eggs.all()), now)
        else:
            add_showing(found, request.member, egg_of(clutch, number_from(egg, "Egg")), shows, now)
    else:
        animal = animal_named(request.collection, given, "Who")
        if animal is None:
            raise Refused("Say who: an animal, a hatchling such as “W-04 3”, or a clutch. Nothing was changed.")
        add_showing(found, request.member, animal, shows, now)
    return redirect("trait", number)


@require_POST
@refusals_on(trait)
def shows(request: CollectionRequest, number: int) -> HttpResponse:
    """What each of them shows."""
    found = _trait(request, number)
    given = {key[6:]: str(value) for key, value in request.POST.items() if key.startswith("shows-")}
    keep_showings(found, request.member, given, timezone.now())
    return redirect("trait", number)


@require_POST
@refusals_on(trait)
def enter(request: CollectionRequest, number: int) -> HttpResponse:
    """A proven gene enters the collection's catalogue."""
    found = _trait(request, number)
    enter_catalogue(found, request.member)
    return redirect("opinions")
