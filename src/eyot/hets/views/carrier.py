"""One animal and one recessive gene: what is held of it, why, and what would settle it."""

from __future__ import annotations

from collections.abc import Callable

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Animal
from eyot.hets.actions import add_breeding, add_test, enter_carrier, keep_marks
from eyot.hets.carriers import carrier_details
from eyot.hets.kinship import recessives_of
from eyot.hets.laboratory import SENSITIVITY, SPECIFICITY
from eyot.hets.models import GeneTest, PastBreeding
from eyot.hets.reading import share_from
from eyot.season.reading import day_from, number_from
from eyot.shared.refusal import refusals_on

Change = Callable[[CollectionRequest, Animal, str], None]


def _animal(request: CollectionRequest, number: int, gene: str) -> Animal:
    if gene not in recessives_of(catalogue_of(request.collection)):
        raise Http404(f"{gene} is no recessive gene")
    animals = request.collection.animals.select_related("collection", "hatched_from__clutch", "dam", "sire")
    return get_object_or_404(animals.prefetch_related("genes"), pk=number)


def carrier_page(request: CollectionRequest, number: int, gene: str, refused: str = "") -> HttpResponse:
    """Where it stands, and why; with what was typed, where something was refused."""
    animal = _animal(request, number, gene)
    context = {
        "animal": animal,
        "gene": gene,
        "view": carrier_details(animal, gene),
        "partners": PastBreeding.Partner.choices,
        "results": GeneTest.Result.choices,
        "rates": (SENSITIVITY, SPECIFICITY),
        "today": timezone.localdate(),
        "refused": refused,
        "given": request.POST if refused else {},
        "here": "hets",
    }
    return render(request, "hets/carrier.html", context, status=422 if refused else 200)


def keeping(change: Change) -> Callable[[CollectionRequest, int, str], HttpResponse]:
    """A view that keeps what was sent on an animal and a gene."""

    def view(request: CollectionRequest, number: int, gene: str) -> HttpResponse:
        change(request, _animal(request, number, gene), gene)
        return redirect("carrier", number, gene)

    return require_POST(refusals_on(carrier_page)(view))


@keeping
def marks(request: CollectionRequest, animal: Animal, gene: str) -> None:
    """Which marks are there."""
    answers = {key: str(value) for key, value in request.POST.items() if "." in key}
    keep_marks(animal, request.member, gene, answers, timezone.now())


@keeping
def breeding(request: CollectionRequest, animal: Animal, gene: str) -> None:
    """A breeding outside the record."""
    given = request.POST
    row = PastBreeding(
        gene=gene,
        partner=given.get("partner", ""),
        chance=given.get("chance", "").strip(),
        hatchlings=number_from(given.get("hatchlings", ""), "Hatchlings"),
        visuals=number_from(given.get("visuals", ""), "Visuals"),
        on=day_from(given.get("on", ""), "Day") or timezone.localdate(),
        note=given.get("note", "")[:200],
    )
    add_breeding(animal, request.member, row, timezone.now())


@keeping
def test(request: CollectionRequest, animal: Animal, gene: str) -> None:
    """A laboratory's result, typed."""
    given = request.POST
    row = GeneTest(
        gene=gene,
        result=given.get("result", ""),
        sensitivity=share_from(given.get("sensitivity", ""), "Sensitivity", SENSITIVITY),
        specificity=share_from(given.get("specificity", ""), "Specificity", SPECIFICITY),
        on=day_from(given.get("on", ""), "Day") or timezone.localdate(),
        laboratory=given.get("laboratory", "").strip()[:60],
    )
    add_test(animal, request.member, row, timezone.now())


@keeping
def enter(request: CollectionRequest, animal: Animal, gene: str) -> None:
    """What is certain enters the animal's record."""
    enter_carrier(animal, request.member, gene, timezone.now())
