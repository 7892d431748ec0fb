"""What was proven of a hatchling, and how well calls held."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from eyot.bench.actions import prove
from eyot.bench.models import Proof
from eyot.bench.scores import scores_of
from eyot.bench.siblings import judged
from eyot.collection.middleware import CollectionRequest
from eyot.season.queries import clutch_of, egg_of
from eyot.season.reading import day_from
from eyot.shared.refusal import Refused

COPIES = {"": None, "0": 0, "1": 1, "2": 2}


def scores_page(request: CollectionRequest) -> HttpResponse:
    """How well calls held, of everybody or of one member."""
    members = list(request.collection.members.order_by("username"))
    asked = request.GET.get("who", "")
    who = next((one for one in members if one.get_username() == asked), None)
    context = {
        "scores": scores_of(request.collection, who.pk if who else None),
        "members": members,
        "who": who,
        "here": "season",
    }
    return render(request, "bench/scores.html", context)


def proof(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """What genes turned out to be."""
    egg = egg_of(clutch_of(request.collection, code), number)
    judgement, refused = judged(egg.clutch), ""
    genes = judgement.model.pairing.given_genes
    if request.method == "POST":
        try:
            given = {gene: COPIES.get(request.POST.get(f"copies-{gene}", "")) for gene in genes}
            on = day_from(request.POST.get("on", ""), "Day") or timezone.localdate()
            prove(egg, request.member, given, request.POST.get("how", ""), on, timezone.now())
            return redirect("bench", code, number)
        except Refused as reason:
            refused = str(reason)
    kept = {row.gene: str(row.copies) for row in egg.proofs.all()}
    context = {
        "clutch": egg.clutch,
        "egg": egg,
        "rows": [(gene, judgement.naming.gene(gene), kept.get(gene, "")) for gene in genes],
        "hows": Proof.How.choices,
        "today": timezone.localdate(),
        "refused": refused,
    }
    return render(request, "bench/proof.html", context, status=422 if refused else 200)
