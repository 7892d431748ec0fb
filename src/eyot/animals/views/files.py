"""Collections as files: CSV out, CSV in with a preview."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from eyot.animals.csv_files import COLUMNS, Preview, exported, imported, previewed
from eyot.animals.lines import names_of
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
