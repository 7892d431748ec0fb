"""The form for a clutch that is there already."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from eyot.animals.queries import names_in
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Sex
from eyot.pairing.forms import RunningForm
from eyot.pairing.running_actions import Running, enter_running
from eyot.season.pairing_actions import next_code
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on


def _page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    first = {"code": next_code(request.collection)}
    context = {
        "form": as_sent(refused, RunningForm, collection=request.collection, initial=first),
        "dams": names_in(request.collection, sex=Sex.MALE),
        "sires": names_in(request.collection, sex=Sex.FEMALE),
        "refused": refused,
        "here": "season",
    }
    return render(request, "pairing/running.html", context, status=422 if refused else 200)


@require_http_methods(["GET", "HEAD", "POST"])
@refusals_on(_page)
def running_page(request: CollectionRequest) -> HttpResponse:
    """A clutch that lies in the incubator, or has hatched, or is of an earlier season: entered at once."""
    if request.method != "POST":
        return _page(request)
    given = Running(**entered(request, RunningForm, collection=request.collection))
    clutch = enter_running(request.collection, request.member, given, timezone.now())
    messages.success(request, f"{clutch} is entered. What was seen of each egg follows on its page.")
    return redirect("clutch", clutch.code)
