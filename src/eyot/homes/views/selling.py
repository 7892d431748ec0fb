"""The list of what is to be had: looked at, as CSV, as PDF, and as pages for buyers."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest, outside
from eyot.homes.buyers import make_page, settle, withdraw_page
from eyot.homes.forms import PageForm
from eyot.homes.issuing import issue
from eyot.homes.list_pages import JOB, order
from eyot.homes.listing import COLUMNS, SORTS, Asked, cells, genes_in, page_of, shown, without_page
from eyot.homes.models import Fate, Issued, ListPrint
from eyot.homes.standing import Kept, all_kept, chosen, kept_here
from eyot.shared.csv_files import csv_of
from eyot.shared.forms import as_sent, entered
from eyot.shared.jobs import is_under_way
from eyot.shared.refusal import Refused, refusals_on

TO_BE_HAD = ((Fate.State.LISTED.value, "listed"), (Fate.State.RESERVED.value, "reserved"))


def _asked(request: CollectionRequest) -> Asked:
    return Asked.of(request.GET, request.collection.currency, Fate.State.LISTED)


def _ticked(request: CollectionRequest) -> list[Kept]:
    """Those that were ticked, else all that the list shows."""
    rows = all_kept(request.collection)
    numbers = request.POST.getlist("egg")
    return chosen(rows, numbers) if numbers else shown(rows, _asked(request))


def list_page(request: CollectionRequest, refused: Refused | None = None, **_: object) -> HttpResponse:
    """Who is to be had, with photos; filters apply as they change."""
    rows = kept_here(request.collection)
    asked = _asked(request)
    listed = [row for row in rows if row.state in dict(TO_BE_HAD) and row.is_here]
    now = timezone.now()
    context = {
        "rows": page_of(shown(rows, asked), request.GET),
        "query": without_page(request.GET),
        "asked": asked,
        "states": TO_BE_HAD,
        "sorts": SORTS,
        "genes": genes_in(listed, Naming(catalogue_of(request.collection))),
        "pages": [
            (page, request.build_absolute_uri(outside("offer", page.token)), page.offered.count())
            for page in request.collection.buyers_pages.all()
            if page.is_open(now)
        ],
        "ticked": request.POST.getlist("egg"),
        "form": as_sent(refused, PageForm),
        "refused": refused,
        "here": "homes",
    }
    part = request.headers.get("HX-Target") == "list-rows"
    page = "homes/parts/cards.html" if part else "homes/list.html"
    return render(request, page, context, status=422 if refused else 200)


@require_POST
@refusals_on(list_page)
def list_csv(request: CollectionRequest) -> HttpResponse:
    """Those that were ticked, else all that the list shows, as a table."""
    rows = _ticked(request)
    issue(rows, Issued.Kind.LIST, request.member, timezone.now())
    answer = HttpResponse(csv_of(COLUMNS, map(cells, rows)), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="list-{timezone.localdate():%Y-%m-%d}.csv"'
    return answer


@require_POST
@refusals_on(list_page)
def list_ordered(request: CollectionRequest) -> HttpResponse:
    """The list as PDF, by a worker."""
    asked = order(request.collection, request.member, _ticked(request), request.POST.get("title", ""), timezone.now())
    return redirect("list-made", asked.pk)


def list_made(request: CollectionRequest, number: int) -> HttpResponse:
    """How far a list is; asked for again and again until it is whole."""
    is_made = is_under_way(JOB, number=number)
    asked = get_object_or_404(request.collection.list_prints.defer("pdf"), pk=number)
    is_whole = request.collection.list_prints.filter(pk=number, pdf__isnull=False).exists()
    part = request.headers.get("HX-Target") == "making"
    page = "homes/parts/making.html" if part else "homes/making.html"
    context = {"asked": asked, "is_whole": is_whole, "has_failed": not is_whole and not is_made, "here": "homes"}
    return render(request, page, context)


def list_pdf(request: CollectionRequest, number: int) -> HttpResponse:
    """The list, once it is whole."""
    asked = get_object_or_404(ListPrint, collection=request.collection, pk=number)
    if asked.pdf is None:
        raise Http404("not written yet")
    answer = HttpResponse(bytes(asked.pdf), content_type="application/pdf")
    answer["Content-Disposition"] = f'attachment; filename="list-{asked.asked_at:%Y-%m-%d}.pdf"'
    return answer


@require_POST
@refusals_on(list_page)
def page_made(request: CollectionRequest) -> HttpResponse:
    """A page for buyers, with those that were ticked."""
    values = entered(request, PageForm)
    rows = chosen(all_kept(request.collection), request.POST.getlist("egg"))
    page = make_page(
        request.collection,
        request.member,
        rows,
        values["title"],
        values["words"],
        values["days"],
        timezone.now(),
    )
    messages.success(request, f"The page “{page.title}” is there: copy its link below.")
    return redirect("list")


@require_POST
@refusals_on(list_page)
def page_withdrawn(request: CollectionRequest, number: int) -> HttpResponse:
    """A page ends at once."""
    withdraw_page(request.collection, number, timezone.now())
    return redirect("list")


@require_POST
@refusals_on(list_page)
def settled(request: CollectionRequest, number: int) -> HttpResponse:
    """What was asked for is dealt with."""
    asked = settle(request.collection, number, request.member, timezone.now())
    return redirect("home", asked.egg.clutch.code, asked.egg.number)
