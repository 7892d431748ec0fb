"""The balance of one gene, and what would be if looks were answered otherwise."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render

from eyot.bench.blind import sight_of
from eyot.bench.siblings import judged_one
from eyot.bench.why import why_view
from eyot.collection.middleware import CollectionRequest
from eyot.season.queries import clutch_of_any, egg_of


def why_page(request: CollectionRequest, code: str, number: int, gene: str) -> HttpResponse:
    """Why a gene stands where it stands; a what-if comes as a fragment."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    judgement = judged_one(clutch)
    if gene not in judgement.given_genes or not egg.is_open:
        raise Http404(f"egg {number} of {code} can't have {gene}")
    if sight_of(egg, request.member, egg.stage).blind:
        return redirect("bench", code, number)
    copies = 2 if request.GET.get("copies") == "2" or judgement.catalogue.genes[gene].is_recessive else 1
    asked = {key: str(value) for key, value in request.GET.items() if "." in key}
    context = {"clutch": clutch, "egg": egg, "view": why_view(judgement, egg, gene, copies, asked)}
    part = bool(request.headers.get("HX-Request"))
    return render(request, "bench/parts/balance.html" if part else "bench/why.html", context)
