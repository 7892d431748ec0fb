"""Collections as files: CSV out, CSV in with a preview."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone

from eyot.animals.csv_files import COLUMNS, Preview, exported, imported, previewed
from eyot.animals.reading import names_of
from eyot.collection.middleware import CollectionRequest
from eyot.shared.refusal import Refused

SHOWN_ROWS, SHOWN_TROUBLES = 12, 60


def export(request: CollectionRequest) -> HttpResponse:
    """All animals."""
    name = f"animals-{timezone.localdate():%Y-%m-%d}.csv"
    answer = HttpResponse(exported(request.collection), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


def import_page(request: CollectionRequest) -> HttpResponse:
    """A file is shown as it was read; on confirmation it is taken as a whole."""
    context: dict[str, object] = {"columns": COLUMNS, "here": "animals", "names": names_of(request.collection)}
    if request.method != "POST":
        return render(request, "animals/import.html", context)
    try:
        if "confirmed" in request.POST:
            data = request.POST.get("text", "").encode()
            count = imported(request.collection, request.member, data, timezone.now())
            return render(request, "animals/import.html", context | {"entered": count})
        file = request.FILES.get("file")
        if file is None:
            raise Refused("No file came through. Choose one and send it again.")
        data = file.read()
        context |= _shown(previewed(request.collection, data, timezone.now()), data)
    except Refused as reason:
        return render(request, "animals/import.html", context | {"refused": str(reason)}, status=422)
    return render(request, "animals/import.html", context)


def _shown(preview: Preview, data: bytes) -> dict[str, object]:
    encodings = {"UTF-8": "utf-8-sig", "UTF-16": "utf-16", "Windows Latin": "cp1252"}
    return {
        "preview": preview,
        "first": preview.rows[:SHOWN_ROWS],
        "troubles": preview.troubles[:SHOWN_TROUBLES],
        "asked": [(row, question) for row in preview.rows for question in row.questions][:SHOWN_TROUBLES],
        "text": data.decode(encodings[preview.encoding], errors="replace"),
    }
