"""How this collection does it: schools of pairing and of opening eggs, and thresholds of weight."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from eyot.collection.actions import Practices, change_practices
from eyot.collection.middleware import CollectionRequest
from eyot.season.forms import PracticesForm
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on


def _page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    stands = {field: getattr(request.collection, field) for field in PracticesForm.base_fields}
    form = as_sent(refused, PracticesForm, initial=stands)
    context = {"form": form, "refused": refused, "here": "season"}
    return render(request, "season/schools.html", context, status=422 if refused else 200)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_page)
def practices_page(request: CollectionRequest) -> HttpResponse:
    """The page, and its changes."""
    if request.method != "POST":
        return _page(request)
    change_practices(request.collection, request.member, Practices(**entered(request, PracticesForm)), timezone.now())
    return redirect("season")
