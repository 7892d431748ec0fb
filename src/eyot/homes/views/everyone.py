"""What becomes of all of them, on one page; what homes add to today; and the rules."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from eyot_core.wording.names import Naming

from eyot.collection.actions import SellingRules, change_rules
from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.homes.actions import decide_all
from eyot.homes.entered import decision_in
from eyot.homes.forms import FateForm, RulesForm
from eyot.homes.listing import HERE, SORTS, STATES, Asked, genes_in, page_of, shown, without_page
from eyot.homes.standing import all_kept, chosen, not_to_be_sold
from eyot.homes.today import tasks_of_homes
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on


def homes_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """All hatchlings with what becomes of each; filters apply as they change."""
    rows = all_kept(request.collection)
    naming = Naming(catalogue_of(request.collection))
    asked = Asked.of(request.GET, request.collection.currency, HERE)
    context = {
        "rows": page_of(shown(rows, asked), request.GET),
        "query": without_page(request.GET),
        "total": sum(not row.egg.clutch.elsewhere or row.fate is not None for row in rows),
        "asked": asked,
        "states": STATES,
        "sorts": SORTS,
        "genes": genes_in(rows, naming),
        "ticked": request.POST.getlist("egg"),
        "form": as_sent(refused, FateForm),
        "refused": refused,
        "here": "homes",
    }
    part = request.headers.get("HX-Target") == "home-rows"
    page = "homes/parts/rows.html" if part else "homes/homes.html"
    return render(request, page, context, status=422 if refused else 200)


@require_POST
@refusals_on(homes_page)
def decided(request: CollectionRequest) -> HttpResponse:
    """What becomes of all that were ticked."""
    rows = chosen(all_kept(request.collection), request.POST.getlist("egg"))
    if not rows:
        raise Refused("Tick whom it is about. Nothing was changed.")
    naming = Naming(catalogue_of(request.collection))
    names = {gene: naming.gene(gene) for gene in naming.catalogue.genes}
    forbidden = {row.egg.pk: not_to_be_sold(row, names) for row in rows}
    said = decision_in(entered(request, FateForm), request.collection)
    count = decide_all(rows, request.member, said, timezone.now(), forbidden)
    messages.success(request, f"Kept for {count} hatchling{'' if count == 1 else 's'}.")
    return redirect(f"{reverse('homes')}?{request.GET.urlencode()}")


def today(request: CollectionRequest) -> HttpResponse:
    """What homes add to what needs doing today."""
    return render(
        request, "homes/parts/today.html", {"tasks": tasks_of_homes(request.collection, timezone.localdate())}
    )


def _rules(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    catalogue = catalogue_of(request.collection)
    names = ("ready_meals", "ready_sheds", "ready_grams", "currency", "not_sold")
    stands = {name: getattr(request.collection, name) for name in names}
    form = as_sent(refused, RulesForm, catalogue=catalogue, initial=stands)
    return render(
        request,
        "homes/rules.html",
        {"form": form, "refused": refused, "here": "homes"},
        status=422 if refused else 200,
    )


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_rules)
def rules_page(request: CollectionRequest) -> HttpResponse:
    """When one may leave, in what is paid, and what may not be sold."""
    if request.method != "POST":
        return _rules(request)
    values = entered(request, RulesForm, catalogue=catalogue_of(request.collection))
    change_rules(request.collection, request.member, SellingRules(**values), timezone.now())
    return redirect("homes")
