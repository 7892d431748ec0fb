"""The season as a calendar file (iCalendar): what is expected when, all-day entries with stable names."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date, datetime, timedelta

from django.utils import timezone

from eyot_core.hatchery.days import LAYING_AFTER_PRELAY_DAYS

from eyot.collection.models import Collection
from eyot.season.models import Clutch
from eyot.season.queries import expected_of
from eyot.season.record import next_round_of

Entry = tuple[str, date, date, str]


def calendar_of(collection: Collection, clutches: Sequence[Clutch], now: datetime) -> bytes:
    """The calendar of the clutches that are not closed. Entries of one clutch and kind keep their UID, so that a new file moves them."""
    from icalendar import Calendar, Event  # slow to import, and no page needs it

    calendar = Calendar()
    calendar.add("prodid", "-//Eyot//season//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"{collection.name}: season")
    for clutch in clutches:
        if clutch.closed_on is None:
            for kind, start, end, words in entries_of(clutch, timezone.localdate(now)):
                event = Event()
                event.add("uid", f"{clutch.pk}-{kind}@eyot")
                event.add("dtstamp", now)
                event.add("dtstart", start)
                event.add("dtend", end + timedelta(days=1))
                event.add("summary", words)
                calendar.add_component(event)
    return bytes(calendar.to_ical())


def entries_of(clutch: Clutch, today: date) -> Iterator[Entry]:
    """What is to be expected of a clutch: kind, first and last day, words."""
    names = f"{clutch.code}, {clutch.own_dam.name}"
    if clutch.laid_on is None:
        following = next_round_of(clutch, clutch.collection)
        if following:
            yield "round", following, following, f"Next round: {names}"
        if clutch.prelay_shed_on:
            due = clutch.prelay_shed_on + timedelta(days=LAYING_AFTER_PRELAY_DAYS)
            yield "laying", due - timedelta(days=3), due + timedelta(days=3), f"Eggs expected: {names}"
        return
    expected = expected_of(clutch, today)
    if clutch.out_on is None:
        yield "due", expected.due_from, expected.due_to, f"Hatching expected: {names}"
        yield "out", expected.out_on, expected.out_on, f"Out of the egg, about: {names}"
    if clutch.shed_on is None:
        yield "blue", expected.blue_on, expected.blue_on, f"In the blue, about: {names}"
        yield "shed", expected.shed_on, expected.shed_on, f"First shed, about; time for the calls: {names}"
