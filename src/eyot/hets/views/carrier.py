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
from eyot.hets.forms import BreedingForm, LabResultForm
from eyot.hets.kinship import recessives_of
from eyot.hets.models import GeneTest, PastBreeding
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

Change = Callable[[CollectionRequest, Animal, str], None]


def _animal(request: CollectionRequest, number: int, gene: str) -> Animal:
    if gene not in recessives_of(catalogue_of(request.collection)):
        raise Http404(f"{gene} is no recessive gene")
    animals = request.collection.animals.select_related("collection", "hatched_from__clutch", "dam", "sire")
    return get_object_or_404(animals.prefetch_related("genes"), pk=number)


def carrier_page(request: CollectionRequest, number: int, gene: str, refused: Refused | None = None) -> HttpResponse:
    """Where it stands, and why; with what was typed, where something was refused."""
    animal = _animal(request, number, gene)
    context = {
        "animal": animal,
        "gene": gene,
        "view": carrier_details(animal, gene),
        "breeding_form": as_sent(refused, BreedingForm),
        "result_form": as_sent(refused, LabResultForm),
        "refused": refused,
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
    row = PastBreeding(gene=gene, **entered(request, BreedingForm))
    add_breeding(animal, request.member, row, timezone.now())


@keeping
def test(request: CollectionRequest, animal: Animal, gene: str) -> None:
    """A laboratory's result, typed."""
    row = GeneTest(gene=gene, **entered(request, LabResultForm))
    add_test(animal, request.member, row, timezone.now())


@keeping
def enter(request: CollectionRequest, animal: Animal, gene: str) -> None:
    """What is certain enters the animal's record."""
    enter_carrier(animal, request.member, gene, timezone.now())
