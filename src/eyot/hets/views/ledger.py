"""The ledger, the switch of marks, a laboratory's file, and what proven animals say of marks."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.catalogue import Catalogue
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Sex
from eyot.hets.actions import import_tests, switch_markers, take_over_ratio
from eyot.hets.kinship import recessives_of
from eyot.hets.ledger import SORTS, Asked, counts_of, ledger
from eyot.hets.markers import LEAST_PROVEN
from eyot.hets.results_file import results_in
from eyot.shared.refusal import Refused, refusals_on


def ledger_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """Every animal that may carry a recessive."""
    given = request.GET
    asked = Asked(
        given.get("gene", ""),
        given.get("sex", ""),
        given.get("role", ""),
        given.get("sort", "worth"),
        given.get("page", "1"),
    )
    query = given.copy()
    query.pop("page", None)
    context = {
        "asked": asked,
        "ledger": ledger(request.collection, asked),
        "query": query.urlencode(),
        "sorts": SORTS,
        "sexes": [(value, words) for value, words in Sex.choices if value],
        "refused": refused,
        "here": "hets",
    }
    return render(request, "hets/ledger.html", context, status=422 if refused else 200)


@require_POST
def markers(request: CollectionRequest) -> HttpResponse:
    """Marks count, or don't."""
    switch_markers(request.collection, request.member, timezone.now())
    return redirect("hets")


@require_POST
@refusals_on(ledger_page)
def tests(request: CollectionRequest) -> HttpResponse:
    """A laboratory's results from a file."""
    file = request.FILES.get("file")
    if file is None:
        raise Refused("No file came through. Nothing was changed.")
    count = import_tests(request.collection, request.member, results_in(file.read()), timezone.now())
    messages.success(request, f"{count} result{'s' * (count != 1)} taken from the file.")
    return redirect("hets")


def counts(request: CollectionRequest, gene: str, refused: Refused | None = None) -> HttpResponse:
    """What proven animals say of a gene's marks."""
    catalogue = _catalogue_with(request, gene)
    naming = Naming(catalogue)
    context = {
        "gene": gene,
        "name": naming.gene(gene),
        "schools": naming.text(gene, "carriers"),
        "rows": counts_of(request.collection, gene),
        "least": LEAST_PROVEN,
        "refused": refused,
        "here": "hets",
    }
    return render(request, "hets/counts.html", context, status=422 if refused else 200)


def _catalogue_with(request: CollectionRequest, gene: str) -> Catalogue:
    catalogue = catalogue_of(request.collection)
    if gene not in recessives_of(catalogue):
        raise Http404("no recessive gene of this name")
    return catalogue


@require_POST
@refusals_on(counts)
def take_over(request: CollectionRequest, gene: str) -> HttpResponse:
    """The collection's own ratio of a mark is used."""
    _catalogue_with(request, gene)
    take_over_ratio(request.collection, request.member, gene, request.POST.get("mark", ""))
    return redirect("mark-counts", gene)
