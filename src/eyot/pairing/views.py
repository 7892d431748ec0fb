"""The planner: a dam, her sires, what can come, what speaks against it; and the search for a goal."""

from __future__ import annotations

from dataclasses import dataclass

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

from eyot.animals.queries import genes_told, names_in, naming_of
from eyot.animals.reading import names_of
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Animal, Sex
from eyot.pairing.forecast import Sorted, forecast_of, pairing_for, trouble_of, wish_of
from eyot.pairing.goals import goal_of
from eyot.pairing.warnings import last_weight, warnings_of
from eyot.season.pairing_actions import MOST_EGGS, MOST_SIRES, next_code, save_pairing
from eyot.season.queries import clutches_of
from eyot.season.reading import animal_named, day_from
from eyot.shared.refusal import Refused

USUAL_EGGS = 6


@dataclass(frozen=True)
class Chosen:
    """Who was chosen, and for how many eggs."""

    dam: Animal | None
    sires: list[Animal]
    eggs: int
    wish: str
    sire_unknown: bool = False


def plan(request: CollectionRequest) -> HttpResponse:
    """The planner's page; for a change of what is chosen only its result."""
    try:
        chosen, refused = _chosen(request, request.GET), ""
    except Refused as reason:
        chosen, refused = Chosen(None, [], USUAL_EGGS, ""), str(reason)
    context = _result(request, chosen) | {"refused": refused, "given": request.GET, "here": "pairings"}
    if request.headers.get("HX-Request"):
        return render(request, "pairing/parts/result.html", context)
    return render(request, "pairing/plan.html", context | _choices(request, chosen))


def _choices(request: CollectionRequest, chosen: Chosen) -> dict[str, object]:
    not_laid = list(clutches_of(request.collection).filter(laid_on=None, closed_on=None))
    sires = [sire.name for sire in chosen.sires] or (request.POST or request.GET).getlist("sire")[:MOST_SIRES]
    return {
        "dams": names_in(request.collection, sex=Sex.MALE),
        "males": names_in(request.collection, sex=Sex.FEMALE),
        "sire_fields": [*sires, ""][: max(2, len(sires) + 1)],
        "not_laid": not_laid,
        "most_eggs": 16,
    }


def _chosen(request: CollectionRequest, given: QueryDict) -> Chosen:
    dam = animal_named(request.collection, given.get("dam", ""), "Dam")
    sires = [animal_named(request.collection, name, "Sire") for name in given.getlist("sire")[:MOST_SIRES]]
    eggs = given.get("eggs", "")
    count = min(max(int(eggs), 1), MOST_EGGS) if eggs.isdecimal() and len(eggs) < 4 else USUAL_EGGS
    chosen = list(dict.fromkeys(filter(None, sires)))
    parents = [dam, *chosen] if dam else chosen
    prefetch_related_objects(parents, "genes", "weighings", "dam__genes", "sire__genes")
    return Chosen(dam, chosen, count, given.get("wish", "")[:200], not chosen and bool(given.get("sire_unknown")))


def _result(request: CollectionRequest, chosen: Chosen) -> dict[str, object]:
    context: dict[str, object] = {"chosen": chosen}
    if chosen.dam is None or not (chosen.sires or chosen.sire_unknown):
        return context
    pairing, trouble = _pairing(request, chosen)
    naming = naming_of(request.collection)
    context |= {
        "parents": [
            (animal, genes_told(animal, naming), last_weight(animal)) for animal in (chosen.dam, *chosen.sires)
        ],
        "warnings": warnings_of(request.collection, pairing, chosen.dam, chosen.sires),
        "trouble": trouble,
        "code": next_code(request.collection),
        "today": timezone.localdate(),
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
        return pairing_for(request.collection, chosen.dam, chosen.sires or [None]), ""
    except InputError as error:
        return None, trouble_of(error)


@require_POST
def save(request: CollectionRequest) -> HttpResponse:
    """The pairing goes into the season; where it can't, what was chosen stays on the page with the reason."""
    chosen = Chosen(None, [], USUAL_EGGS, "")
    try:
        chosen = _chosen(request, request.POST)
        on = day_from(request.POST.get("paired_on", ""), "Paired") or timezone.localdate()
        code = request.POST.get("code", "")
        clutch = save_pairing(
            request.collection,
            request.member,
            code,
            chosen.dam,
            chosen.sires,
            on,
            timezone.now(),
            sire_unknown=chosen.sire_unknown,
        )
    except Refused as reason:
        context = _result(request, chosen) | {"refused": str(reason), "given": request.POST, "here": "pairings"}
        return render(request, "pairing/plan.html", context | _choices(request, chosen), status=422)
    return redirect("record", clutch.code)


def goal(request: CollectionRequest) -> HttpResponse:
    """Which pairings here can make a wanted combination."""
    typed = request.GET.get("goal", "")[:200]
    wish, read = wish_in(names_of(request.collection), typed)
    context: dict[str, object] = {"read": read, "typed": typed}
    if wish.genes and not read.left_open and not read.impossible:
        context["goal"] = found = goal_of(request.collection, wish)
        context["missing"] = [naming_of(request.collection).gene(gene) for gene in found.missing]
    return render(request, "pairing/parts/goal.html", context)
