"""Labels and cards printed on sheets."""

from __future__ import annotations

import io
from urllib.parse import urlsplit

from django.conf import settings
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.homes.forms import SheetForm
from eyot.homes.issuing import issue
from eyot.homes.label_pages import label_pages, write_pdf
from eyot.homes.label_words import label_words
from eyot.homes.models import Issued, LabelSheet
from eyot.homes.sheets import add_sheet, sheet_of, sheets_of
from eyot.homes.standing import all_kept, chosen, kept_here
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

MOST = 400
THIS_COMPUTER = ("127.0.0.1", "localhost", "::1")


def labels_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """Who is to get a label, on which sheet, from which place on."""
    asked = request.POST if request.method == "POST" else request.GET
    rows = kept_here(request.collection)
    ticked = asked.getlist("egg")
    context = {
        "rows": rows,
        "ticked": set(ticked),
        "sheets": sheets_of(request.collection),
        "sheet": asked.get("sheet", ""),
        "start": asked.get("start", "1"),
        "priced": asked.get("priced", ""),
        "leads_nowhere": urlsplit(_site(request)).hostname in THIS_COMPUTER,
        "sheet_form": as_sent(refused, SheetForm),
        "refused": refused,
        "here": "homes",
    }
    return render(request, "homes/labels.html", context, status=422 if refused else 200)


def _site(request: CollectionRequest) -> str:
    """Where codes lead: the address for phones, if there is one, else that of this page."""
    return str((settings.PHONE_ADDRESSES or [request.build_absolute_uri("/")])[0]).rstrip("/")


@require_POST
@refusals_on(labels_page)
def labels_printed(request: CollectionRequest) -> HttpResponse:
    """The sheet as PDF. What does not fit at the smallest letters is told instead of printed, unless that is wanted."""
    rows = chosen(all_kept(request.collection), request.POST.getlist("egg"))
    sheet = sheet_of(request.collection, request.POST.get("sheet", ""))
    typed = request.POST.get("start", "1").strip()
    start = int(typed) if typed.isdecimal() and len(typed) < 5 else 0
    if not rows:
        raise Refused("Tick who is to get a label. Nothing was printed.")
    if len(rows) > MOST:
        raise Refused(f"At most {MOST} labels at once, not {len(rows)}. Nothing was printed.")
    if not 1 <= start <= sheet.count:
        raise Refused(
            f"This sheet has {sheet.count} labels: begin at one from 1 to {sheet.count}. Nothing was printed.",
            field="start",
        )
    naming = Naming(catalogue_of(request.collection))
    site = _site(request)
    priced = bool(request.POST.get("priced"))
    words = [label_words(row, naming, site, priced=priced) for row in rows]
    made = label_pages(sheet, words, start)
    if made.too_long and not request.POST.get("cut"):
        raise Refused(
            f"Too long for these labels, even in the smallest letters: {', '.join(made.too_long[:8])}. Shorten their words, choose larger "
            "labels, or tick that they may be cut off. Nothing was printed.",
            field="cut",
        )
    file = io.BytesIO()
    write_pdf(made.html, file)
    issue(rows, Issued.Kind.LABEL, request.member, timezone.now())
    answer = HttpResponse(file.getvalue(), content_type="application/pdf")
    answer["Content-Disposition"] = f'attachment; filename="labels-{timezone.localdate():%Y-%m-%d}.pdf"'
    return answer


@require_POST
@refusals_on(labels_page)
def sheet_added(request: CollectionRequest) -> HttpResponse:
    """A sheet of the keeper's own."""
    values = entered(request, SheetForm)
    if not values["name"]:
        raise Refused("Give the sheet a name. Nothing was kept.", field="name")
    values["across"] = values["across"] or values["width"]
    values["down"] = values["down"] or values["height"]
    missing = next((name for name in ("width", "height", "columns", "rows") if not values[name]), "")
    if missing:
        raise Refused(f"Say how large a label is and how many there are. {SheetForm.stands}", field=missing)
    sheet = add_sheet(LabelSheet(collection=request.collection, **values))
    messages.success(request, f"Kept: {sheet.name}.")
    return redirect(f"{reverse('labels')}?sheet=own-{sheet.pk}")
