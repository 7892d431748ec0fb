"""The season's page and its calendar."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone

from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Role
from eyot.collection.queries import backup_trouble
from eyot.season.calendar import calendar_of
from eyot.season.queries import clutches_of_season, eggs_without_originals, open_calls_by_clutch, seasons_of
from eyot.season.timeline import timeline_of
from eyot.season.today import lost_photos, tasks_of


def season(request: CollectionRequest) -> HttpResponse:
    """All clutches of a season on one line of days, and what needs doing today."""
    today = timezone.localdate()
    years = seasons_of(request.collection)
    asked = request.GET.get("year", "")
    year = int(asked) if asked.isdecimal() and int(asked) in years else None
    clutches = list(clutches_of_season(request.collection, year))
    calls = open_calls_by_clutch(request.collection)
    going = [clutch for clutch in clutches if clutch.closed_on is None]
    context = {
        "today": today,
        "year": year,
        "years": years,
        "clutches": clutches if year else going,
        "timeline": timeline_of(clutches if year else going, today),
        "backup_trouble": backup_trouble(timezone.now()) if request.membership.role == Role.OWNER else "",
        "has_animals": bool(clutches) or request.collection.animals.exists(),
        "tasks": [*lost_photos(eggs_without_originals(request.collection)), *tasks_of(clutches, today, calls)],
        "open_calls": [(clutch, calls[clutch.pk]) for clutch in going if calls.get(clutch.pk)],
        "open_total": sum(calls.get(clutch.pk, 0) for clutch in going),
    }
    return render(request, "season/season.html", context)


def calendar(request: CollectionRequest) -> HttpResponse:
    """What is expected when, for a calendar."""
    clutches = list(clutches_of_season(request.collection, None))
    answer = HttpResponse(
        calendar_of(request.collection, clutches, timezone.now()), content_type="text/calendar; charset=utf-8"
    )
    answer["Content-Disposition"] = 'attachment; filename="season.ics"'
    return answer
