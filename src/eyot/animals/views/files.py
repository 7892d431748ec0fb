"""Collections as files and as pasted lists: CSV out, CSV in with a preview, lines in with a table to mend."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from eyot.animals.csv_files import COLUMNS, Preview, exported, imported, previewed
from eyot.animals.forms import SEXES
from eyot.animals.lines import names_of
from eyot.animals.pasted import MOST_LINES, Cells, cells_of, enter_pasted, rows_of
from eyot.collection.middleware import CollectionRequest
from eyot.shared.refusal import Refused, refusals_on

SHOWN_ROWS, SHOWN_TROUBLES = 12, 60


def export(request: CollectionRequest) -> HttpResponse:
    """All animals."""
    name = f"animals-{timezone.localdate():%Y-%m-%d}.csv"
    answer = HttpResponse(exported(request.collection), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


def _page(request: CollectionRequest, refused: Refused | None = None, **more: Any) -> HttpResponse:
    context = {"columns": COLUMNS, "here": "animals", "names": names_of(request.collection), "refused": refused, **more}
    return render(request, "animals/import.html", context, status=422 if refused else 200)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_page)
def import_page(request: CollectionRequest) -> HttpResponse:
    """A file is shown as it was read; on confirmation it is taken as a whole."""
    if request.method != "POST":
        return _page(request)
    if "confirmed" in request.POST:
        data = request.POST.get("text", "").encode()
        return _page(request, entered=imported(request.collection, request.member, data, timezone.now()))
    file = request.FILES.get("file")
    if file is None:
        raise Refused("No file came through. Choose one and send it again. Nothing was changed.")
    return _page(request, **_shown(previewed(request.collection, file.read(), timezone.now())))


def _shown(preview: Preview) -> dict[str, Any]:
    return {
        "preview": preview,
        "first": preview.rows[:SHOWN_ROWS],
        "troubles": preview.troubles[:SHOWN_TROUBLES],
        "asked": [(row, question) for row in preview.rows for question in row.questions][:SHOWN_TROUBLES],
        "text": preview.table.text,
    }


def _paste_page(
    request: CollectionRequest, refused: Refused | None = None, cells: list[Cells] | None = None
) -> HttpResponse:
    context = {
        "rows": rows_of(request.collection, _sent_cells(request) if cells is None else cells),
        "names": names_of(request.collection),
        "sexes": SEXES,
        "text": request.POST.get("text", ""),
        "most": MOST_LINES,
        "refused": refused,
        "here": "animals",
    }
    return render(request, "animals/paste.html", context, status=422 if refused else 200)


def _sent_cells(request: CollectionRequest) -> list[Cells]:
    """The table as it was sent, an answer to a question put in; rows without name and genes are left away."""
    given = request.POST
    columns = (given.getlist(name) for name in ("name", "sex", "genes", "pasted"))
    cells = [
        Cells(" ".join(name.split())[:60], sex, genes, pasted)
        for name, sex, genes, pasted in zip(*columns, strict=False)
    ]
    place, _, line = given.get("answer", "").partition(" ")
    if place.isdecimal() and int(place) < len(cells):
        cells[int(place)] = replace(cells[int(place)], line=line)
    return [one for one in cells if one.name or one.line]


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_paste_page)
def paste_page(request: CollectionRequest) -> HttpResponse:
    """A list is shown as it was understood, mended in place, and entered as a whole when the keeper says so."""
    if request.method == "POST" and "text" in request.POST:
        return _paste_page(request, cells=cells_of(request.collection, request.POST["text"]))
    if request.method == "POST" and "enter" in request.POST:
        count = enter_pasted(request.collection, request.member, _sent_cells(request), timezone.now())
        messages.success(request, f"{count} animals entered. Under Changes the whole list can be taken back at once.")
        return redirect("animals")
    return _paste_page(request)
