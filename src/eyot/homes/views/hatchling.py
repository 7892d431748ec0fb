"""One hatchling: what becomes of it, its label by how surely each gene is known, its feeding and weights, and why it may stay."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.wording.label import by_gene, by_trade_names
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.names import Naming
from eyot_core.wording.promise import promises, wording_of

from eyot.bench.siblings import judged_one
from eyot.collection.catalogue import catalogue_of
from eyot.collection.history import subject_of
from eyot.collection.middleware import CollectionRequest
from eyot.homes.actions import decide, note_health, note_shed, write_label
from eyot.homes.buyers import waiting_for
from eyot.homes.entered import decision_in, price_in
from eyot.homes.forms import EventForm, FateForm, LabelForm
from eyot.homes.issuing import dealt_with
from eyot.homes.label_words import parts_known, proven_words, welfare_of
from eyot.homes.lifeline import line_of
from eyot.homes.standing import Kept, hatchlings_of, kept_rows, not_to_be_sold
from eyot.homes.staying import reasons_to_stay, shortlist
from eyot.season.queries import clutch_of_any
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

Change = Callable[[CollectionRequest, Kept], None]


def kept_of(request: CollectionRequest, code: str, number: int) -> Kept:
    """One hatchling of this collection; 404 where there is none that is out."""
    eggs = hatchlings_of(request.collection).filter(clutch__code=code, number=number)
    rows = kept_rows(request.collection, eggs)
    if not rows:
        raise Http404(f"{code} has no hatchling {number} that is out")
    return rows[0]


def home_page(request: CollectionRequest, code: str, number: int, refused: Refused | None = None) -> HttpResponse:
    """The page; with what was typed, where something was refused."""
    row = kept_of(request, code, number)
    naming = Naming(catalogue_of(request.collection))
    context: dict[str, Any] = {
        "row": row,
        "wording": None,
        "fate_form": as_sent(refused, FateForm, initial=_stands(row)),
        "label_form": as_sent(refused, LabelForm, initial={"text": row.label, "price": _price(row)}),
        "event_form": as_sent(refused, EventForm),
        "line": line_of(row),
        "welfare": welfare_of(row, naming),
        "asked": [one for one in waiting_for(request.collection) if one.egg_id == row.egg.pk],
        "stay": reasons_to_stay(request.collection, row, naming),
        "shortlist": urlencode([("pane", one) for one in shortlist(row.egg)]) if row.egg.is_open else "",
        "subject": subject_of(row.egg.record),
        "refused": refused,
        "here": "homes",
    }
    if row.call and row.egg.is_open:
        judgement = judged_one(clutch_of_any(request.collection, code))
        parts = parts_known(judgement, row)
        context["wording"] = wording_of(parts, judgement.naming, proven_words(row))
        context["known_now"] = by_gene(parts, judgement.naming)
        context["trade"] = by_trade_names(parts, judgement.naming)
        context["beyond"] = promises(Lookup(judgement.catalogue), row.label, parts)
    return render(request, "homes/home.html", context, status=422 if refused else 200)


def _stands(row: Kept) -> dict[str, object]:
    fate = row.fate
    if fate is None:
        return {}
    return {"state": fate.state, "who": fate.who, "until": fate.until, "project": fate.project, "why": fate.why}


def _price(row: Kept) -> str:
    return "" if row.price is None else f"{row.price.normalize():f}"


def keeping(change: Change) -> Callable[[CollectionRequest, str, int], HttpResponse]:
    """A view that keeps what was sent about one hatchling."""

    def view(request: CollectionRequest, code: str, number: int) -> HttpResponse:
        change(request, kept_of(request, code, number))
        return redirect("home", code, number)

    return require_POST(refusals_on(home_page)(view))


@keeping
def decided(request: CollectionRequest, row: Kept) -> None:
    """What becomes of it."""
    naming = Naming(catalogue_of(request.collection))
    names = {gene: naming.gene(gene) for gene in row.genes if gene in naming.catalogue.genes}
    said = decision_in(entered(request, FateForm), request.collection)
    decide(row, request.member, said, timezone.now(), not_to_be_sold(row, names))


@keeping
def labelled(request: CollectionRequest, row: Kept) -> None:
    """The keeper's own words, held against the call."""
    values = entered(request, LabelForm)
    price = price_in(values["price"], request.collection)
    if row.call is None:
        raise Refused(
            f"{row.egg} has no call yet, so that nothing can be said of it. Make one on the bench. Nothing was changed."
        )
    judgement = judged_one(clutch_of_any(request.collection, row.egg.clutch.code))
    parts = parts_known(judgement, row)
    is_own = values["text"] and values["text"] != row.call.label
    beyond = [one.words for one in promises(Lookup(judgement.catalogue), values["text"], parts)] if is_own else []
    write_label(row, request.member, values["text"], price, beyond, timezone.now(), knowing=values["knowing"])


@keeping
def shed(request: CollectionRequest, row: Kept) -> None:
    """It shed."""
    note_shed(row.egg, request.member, entered(request, EventForm)["on"], timezone.now())


@keeping
def health(request: CollectionRequest, row: Kept) -> None:
    """What is not sound, or that it is well again."""
    values = entered(request, EventForm)
    note_health(row.egg, request.member, values["found"], values["on"], timezone.now())


@require_POST
@refusals_on(home_page)
def dealt(request: CollectionRequest, code: str, number: int, issued: int) -> HttpResponse:
    """Old words are dealt with."""
    dealt_with(request.collection, issued, timezone.now())
    return redirect("home", code, number)
