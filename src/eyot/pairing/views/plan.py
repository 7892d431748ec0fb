"""The planner: a dam, her sires, what can come, what speaks against it; and the search for a goal."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.db.models import prefetch_related_objects
from django.http import HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.errors import InputError
from eyot_core.genetics.inheritance import SEXES
from eyot_core.genetics.pairing import Pairing
from eyot_core.hatchery.outcomes import ORDERS
from eyot_core.hatchery.wishes import Wish
from eyot_core.wording.names import Naming
from eyot_core.wording.wishing import wish_in

from eyot.animals.lines import names_of
from eyot.animals.queries import names_in, naming_of, stated_genes
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Animal, Sex
from eyot.pairing.forecast import Sorted, forecast_of, pairing_for, trouble_of, wish_of
from eyot.pairing.forms import USUAL_EGGS, PlanForm, SaveForm
from eyot.pairing.goals import goal_of
from eyot.pairing.paired_before import paired_before
from eyot.pairing.warnings import last_weight, warnings_of
from eyot.season.pairing_actions import MOST_SIRES, next_code, save_pairing
from eyot.season.queries import clutches_of
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on


@dataclass(frozen=True)
class Chosen:
    """Who was chosen, and for how many eggs."""

    dam: Animal | None
    sires: list[Animal]
    eggs: int
    wish: str
    sire_unknown: bool = False


NOBODY = Chosen(None, [], USUAL_EGGS, "")


def plan(request: CollectionRequest) -> HttpResponse:
    """The planner's page; for a change of what is chosen only its result."""
    chosen, refused = NOBODY, None
    try:
        chosen = _chosen(PlanForm(request.GET, collection=request.collection).values())
    except Refused as reason:
        refused = reason
    return _page(request, chosen, refused)


def _page(request: CollectionRequest, chosen: Chosen, refused: Refused | None = None) -> HttpResponse:
    given = request.POST or request.GET
    context = _result(request, chosen, refused) | {"refused": refused, "given": given, "here": "pairings"}
    status = 422 if refused and request.method == "POST" else 200
    if request.headers.get("HX-Request"):
        return render(request, "pairing/parts/result.html", context, status=status)
    sires = [sire.name for sire in chosen.sires] or given.getlist("sire")[:MOST_SIRES]
    context |= {
        "dams": names_in(request.collection, sex=Sex.MALE),
        "males": names_in(request.collection, sex=Sex.FEMALE),
        "sire_fields": [*sires, ""][: max(2, len(sires) + 1)],
        "not_laid": list(clutches_of(request.collection).filter(laid_on=None, closed_on=None)),
        "most_eggs": 16,
    }
    return render(request, "pairing/plan.html", context, status=status)


def _chosen(given: dict[str, Any]) -> Chosen:
    dam, sires = given["dam"], given["sire"]
    parents = [dam, *sires] if dam else sires
    prefetch_related_objects(parents, "genes", "weighings", "dam__genes", "sire__genes")
    return Chosen(dam, sires, given["eggs"], given["wish"], not sires and given["sire_unknown"])


def _result(request: CollectionRequest, chosen: Chosen, refused: Refused | None) -> dict[str, object]:
    context: dict[str, object] = {"chosen": chosen}
    if chosen.dam is None or not (chosen.sires or chosen.sire_unknown):
        return context | {"paired_before": paired_before(request.collection)}
    pairing, trouble = _pairing(request, chosen)
    naming = naming_of(request.collection)
    context |= {
        "parents": [
            (animal, stated_genes(animal, naming), last_weight(animal)) for animal in (chosen.dam, *chosen.sires)
        ],
        "warnings": warnings_of(request.collection, pairing, chosen.dam, chosen.sires),
        "trouble": trouble,
        "save_form": as_sent(
            refused, SaveForm, collection=request.collection, initial={"code": next_code(request.collection)}
        ),
    }
    if pairing:
        wish, read = wish_in(names_of(request.collection), chosen.wish)
        asked = _sorted(request.GET, pairing)
        context["forecast"] = forecast_of(pairing, chosen.eggs, asked, dict(wish.genes))
        context |= {"wish_read": read, "asked": asked, "sortable": _sortable(pairing, naming)}
        if wish != Wish() and pairing.can_hatch:
            context["wish"] = wish_of(pairing, wish, chosen.eggs)
    return context


def _sorted(given: QueryDict, pairing: Pairing) -> Sorted:
    """How the table is asked for; what is not known here is left aside."""
    order, gene, sex = given.get("order", ""), given.get("having", ""), given.get("of_sex", "")
    return Sorted(
        order if order in ORDERS else ORDERS[0],
        gene if gene in pairing.given_genes else "",
        SEXES.index(sex) if sex in SEXES else None,
        given.get("open") == "all",
    )


def _sortable(pairing: Pairing, naming: Naming) -> dict[str, object]:
    orders = (
        ("likely", "the likeliest first"),
        ("genes", "most genes first"),
        ("wanted", "most of what is wanted first"),
    )
    return {"orders": orders, "genes": [(gene, naming.gene(gene)) for gene in pairing.given_genes], "sexes": SEXES}


def _pairing(request: CollectionRequest, chosen: Chosen) -> tuple[Pairing | None, str]:
    try:
        return pairing_for(request.collection, chosen.dam, chosen.sires), ""
    except InputError as error:
        return None, trouble_of(error)


def _unsaved(request: CollectionRequest, refused: Refused) -> HttpResponse:
    """What was chosen stays on the page with the reason; whom the rules refuse stays chosen too."""
    form = PlanForm(request.POST, collection=request.collection)
    return _page(request, _chosen(form.cleaned_data) if form.is_valid() else NOBODY, refused)


@require_POST
@refusals_on(_unsaved)
def save(request: CollectionRequest) -> HttpResponse:
    """The pairing goes into the season."""
    given = entered(request, SaveForm, collection=request.collection)
    chosen, on = _chosen(given), given["paired_on"]
    collection, member, unknown = request.collection, request.member, chosen.sire_unknown
    dam, sires, now = chosen.dam, chosen.sires, timezone.now()
    clutch = save_pairing(collection, member, given["code"], dam, sires, on, now, sire_unknown=unknown)
    return redirect("record", clutch.code)


def goal(request: CollectionRequest) -> HttpResponse:
    """Which pairings here can make a wanted combination."""
    typed = request.GET.get("goal", "")[:200]
    wish, read = wish_in(names_of(request.collection), typed)
    context: dict[str, object] = {"read": read, "typed": typed}
    if wish.genes and not read.left_open and not read.impossible:
        context["goal"] = goal = goal_of(request.collection, wish)
        context["missing"] = [naming_of(request.collection).gene(gene) for gene in goal.missing]
    return render(request, "pairing/parts/goal.html", context)
