"""What was proven of a hatchling, and how well calls held."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from eyot.bench.actions import prove
from eyot.bench.forms import ProofForm
from eyot.bench.scores import scores_of
from eyot.bench.siblings import judged_one
from eyot.collection.middleware import CollectionRequest
from eyot.season.models import Egg
from eyot.season.queries import clutch_of_any, egg_of
from eyot.shared.forms import as_sent, sent
from eyot.shared.refusal import Refused, refusals_on


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


def _proof_page(request: CollectionRequest, code: str, number: int, refused: Refused | None = None) -> HttpResponse:
    egg = egg_of(clutch_of_any(request.collection, code), number)
    kept = {f"copies-{row.gene}": str(row.copies) for row in egg.proofs.all()}
    form = as_sent(refused, ProofForm, genes=_genes(egg), initial=kept)
    context = {"clutch": egg.clutch, "egg": egg, "form": form, "refused": refused}
    return render(request, "bench/proof.html", context, status=422 if refused else 200)


def _genes(egg: Egg) -> list[tuple[str, str]]:
    judgement = judged_one(egg.clutch)
    return [(gene, judgement.naming.gene(gene)) for gene in judgement.listed_genes]


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_proof_page)
def proof(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """What genes turned out to be."""
    if request.method != "POST":
        return _proof_page(request, code, number)
    egg = egg_of(clutch_of_any(request.collection, code), number)
    form = sent(request, ProofForm, genes=_genes(egg))
    given = form.values()
    prove(egg, request.member, form.copies(), given["how"], given["on"], timezone.now())
    return redirect("bench", code, number)
