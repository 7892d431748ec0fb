"""The season's page."""

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone

from eyot.collection.middleware import CollectionRequest
from eyot.season.queries import clutches_of, open_calls_by_clutch
from eyot.season.timeline import timeline_of
from eyot.season.today import tasks_of


def season(request: CollectionRequest) -> HttpResponse:
    """All clutches on one line of days, and what needs doing today."""
    today = timezone.localdate()
    clutches = list(clutches_of(request.collection).prefetch_related("matings"))
    calls = open_calls_by_clutch(request.collection)
    going = [clutch for clutch in clutches if clutch.closed_on is None]
    context = {
        "today": today,
        "clutches": going,
        "closed": [clutch for clutch in clutches if clutch.closed_on],
        "timeline": timeline_of(clutches, today),
        "tasks": tasks_of(clutches, today, calls),
        "open_calls": [(clutch, calls[clutch.pk]) for clutch in going if calls.get(clutch.pk)],
        "open_total": sum(calls.values()),
    }
    return render(request, "season/season.html", context)
