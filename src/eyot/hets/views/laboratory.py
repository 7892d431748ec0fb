"""The simulated laboratory's counter."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.middleware import CollectionRequest
from eyot.collection.queries import own_animals
from eyot.hets.forms import OrderForm
from eyot.hets.laboratory import DAYS, SENSITIVITY, SPECIFICITY, offered, order_rows, order_test, take_step
from eyot.hets.models import LabOrder
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on


def laboratory_page(request: CollectionRequest, *, refused: Refused | None = None, **step: object) -> HttpResponse:
    """Orders, and what came of them."""
    context = {
        "rows": order_rows(request.collection, timezone.localdate()),
        "offered": offered(request.collection),
        "animals": list(own_animals(request.collection).values_list("name", flat=True)),
        "form": as_sent(
            refused, OrderForm, collection=request.collection, initial={"animal": request.GET.get("animal", "")}
        ),
        "chosen_genes": request.POST.getlist("genes") or request.GET.getlist("gene"),
        "rates": (SENSITIVITY, SPECIFICITY, DAYS),
        "today": timezone.localdate(),
        "refused": refused,
        "here": "hets",
    }
    return render(request, "hets/laboratory.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(laboratory_page)
def order(request: CollectionRequest) -> HttpResponse:
    """Tests of one animal are ordered."""
    animal = entered(request, OrderForm, collection=request.collection)["animal"]
    if animal is None:
        raise Refused("Say of which animal the shed is. Nothing was ordered.", field="animal")
    order_test(animal, request.member, request.POST.getlist("genes"), timezone.now())
    return redirect("laboratory")


@require_POST
@refusals_on(laboratory_page)
def step(request: CollectionRequest, number: int, step: str) -> HttpResponse:
    """The next step of an order."""
    order = get_object_or_404(
        LabOrder.objects.select_related("animal__collection"), pk=number, animal__collection=request.collection
    )
    take_step(order, request.member, step, timezone.now())
    return redirect("laboratory")
