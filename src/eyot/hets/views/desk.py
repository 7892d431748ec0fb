"""The proving desk."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from eyot.collection.middleware import CollectionRequest
from eyot.hets.desk import HATCHLINGS, desk_of
from eyot.hets.desk_actions import add_named, enter_catalogue, keep_showings, open_trait
from eyot.hets.forms import PlacesForm, TogetherForm, TraitForm, WhoForm
from eyot.hets.models import NewTrait, Showing
from eyot.hets.two_genes import one_gene_or_two, one_place_or_two
from eyot.shared.forms import EntryForm, as_sent, entered, sent
from eyot.shared.refusal import Refused, refusals_on


def _traits(
    request: CollectionRequest, *, refused: Refused | None = None, form: EntryForm | None = None, message: str = ""
) -> HttpResponse:
    """All traits on the desk; ``form`` and ``message``: what was asked of two look-alikes, and the answer."""
    forms = {kind.__name__: as_sent(refused, kind) for kind in (TraitForm, TogetherForm, PlacesForm)}
    if form:
        forms[type(form).__name__] = form
    context = {
        "traits": list(request.collection.new_traits.prefetch_related("showings")),
        "forms": forms,
        "refused": refused,
        "message": message,
        "here": "hets",
    }
    return render(request, "hets/traits.html", context, status=422 if refused else 200)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_traits)
def traits(request: CollectionRequest) -> HttpResponse:
    """All traits on the desk; a new one is put there."""
    if request.method != "POST":
        return _traits(request)
    made = open_trait(request.collection, request.member, **entered(request, TraitForm), at=timezone.now())
    return redirect("trait", made.pk)


def reckoned(kind: type[EntryForm], reckon: Callable[..., str]) -> Callable[[CollectionRequest], HttpResponse]:
    """A view that reckons something from what was entered, and shows the answer on the desk."""

    def view(request: CollectionRequest) -> HttpResponse:
        if request.method != "POST":
            return redirect("proving")
        form = sent(request, kind)
        return _traits(request, form=form, message=reckon(**form.values()))

    return refusals_on(_traits)(view)


def _together(first: str, second: str, hatchlings: int, visuals: int) -> str:
    copies = {"visual": 2, "het": 1}
    return one_gene_or_two(copies.get(first, 1), copies.get(second, 1), hatchlings, visuals)


together = reckoned(TogetherForm, _together)
"""Two recessive look-alikes bred together: one gene, or two that complement each other?"""
same_place_or_two = reckoned(PlacesForm, one_place_or_two)
"""An animal with a new gene and one of a known complex, bred to normals: one place or two?"""


def _trait(request: CollectionRequest, number: int) -> NewTrait:
    rows = request.collection.new_traits.select_related("proband__animal", "proband__egg__clutch", "collection")
    return get_object_or_404(rows, pk=number)


def trait(request: CollectionRequest, number: int, refused: Refused | None = None) -> HttpResponse:
    """One trait."""
    trait_row = _trait(request, number)
    context = {
        "trait": trait_row,
        "desk": desk_of(trait_row),
        "rows": list(trait_row.showings.select_related("animal", "egg__clutch")),
        "shows": Showing.Shows.choices,
        "hatchlings": HATCHLINGS,
        "animals": list(request.collection.animals.values_list("name", flat=True)),
        "who_form": as_sent(refused, WhoForm),
        "refused": refused,
        "here": "hets",
    }
    return render(request, "hets/trait.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(trait)
def who(request: CollectionRequest, number: int) -> HttpResponse:
    """An animal, a hatchling ("W-04 3") or a whole clutch ("W-04") joins the pedigree."""
    trait_row, given = _trait(request, number), entered(request, WhoForm)
    add_named(trait_row, request.member, given["who"], given["shows"], timezone.now())
    return redirect("trait", number)


@require_POST
@refusals_on(trait)
def shows(request: CollectionRequest, number: int) -> HttpResponse:
    """What each of them shows."""
    trait_row = _trait(request, number)
    given = {key[6:]: str(value) for key, value in request.POST.items() if key.startswith("shows-")}
    keep_showings(trait_row, request.member, given, timezone.now())
    return redirect("trait", number)


@require_POST
@refusals_on(trait)
def enter(request: CollectionRequest, number: int) -> HttpResponse:
    """A proven gene enters the collection's catalogue."""
    trait_row = _trait(request, number)
    enter_catalogue(trait_row, request.member)
    return redirect("opinions")
