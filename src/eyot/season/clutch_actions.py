"""Changes of a clutch as a whole: where it lies, its ready signs, its incubator's log. Any member may make them."""

from __future__ import annotations

import math
import random
from collections.abc import Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from eyot_core.hatchery.temperatures import POSSIBLE_C, log_read

from eyot.collection.history import Recording, recording, subject_of
from eyot.season.models import Clutch, Incubator, Temperature
from eyot.season.queries import readings_of
from eyot.shared.csv_files import Table, table_in
from eyot.shared.refusal import Refused
from eyot.shared.units import implausible

SIGNS = {
    "sibling_pipped": "a sibling has pipped",
    "eggs_dent": "eggs dent and come apart easily",
    "veins_receded": "veins on the shell have receded",
    "moist_box": "heavy moisture in the box",
}
TIMES = (
    "%Y-%m-%d %H:%M:%S",
    "%Y-%m-%d %H:%M",
    "%Y-%m-%dT%H:%M:%S",
    "%Y-%m-%dT%H:%M",
    "%d.%m.%Y %H:%M",
    "%d/%m/%Y %H:%M",
)
MOST_READINGS = 50_000
MOST_BYTES = 5_000_000
LONGEST_FETCH = timedelta(days=80)


def set_up(
    clutch: Clutch,
    member: AbstractBaseUser,
    place: str,
    substrate: str,
    incubator: str,
    note: str,
    note_shown: str,
    at: datetime,
) -> None:
    """Where the clutch lies: box, substrate, incubator (made if it is new), and the notes.

    ``note_shown``: the notes as they stood for who wrote: what another has written since is not overwritten.
    """
    name = " ".join(incubator.split())[:60]
    with _recorded(clutch, member, at, f"{clutch.code}: place and notes changed") as record:
        stored = Clutch.objects.select_for_update(of=("self",)).get(pk=clutch.pk).note
        if stored.split() not in (note_shown.split(), note.split()):
            raise Refused(
                f"While you wrote, the notes became: “{stored}”. Yours stand below; put together what is to stay, and keep "
                "them again. Nothing was changed.",
                field="note",
            )
        lies_in = None
        if name:
            lies_in = Incubator.objects.filter(collection=clutch.collection, name__iexact=name).first()
            lies_in = lies_in or record.add(Incubator(collection=clutch.collection, name=name))
        record.change(
            clutch,
            mean_c=_mean_in(clutch, lies_in, at),
            place=place.strip()[:80],
            substrate=substrate.strip()[:40],
            incubator=lies_in,
            note=note.strip(),
        )


def tick_sign(clutch: Clutch, member: AbstractBaseUser, sign: str, *, seen: bool, at: datetime) -> None:
    """A ready sign was seen, or was not after all."""
    if sign not in SIGNS:
        raise Refused("That is not a ready sign. Nothing was changed.")
    signs = [one for one in SIGNS if (one in clutch.ready_signs and one != sign) or (one == sign and seen)]
    with _recorded(clutch, member, at, f"{clutch.code}: {SIGNS[sign]}{'' if seen else ', taken back'}") as record:
        record.change(clutch, ready_signs=signs)


def close(clutch: Clutch, member: AbstractBaseUser, at: datetime, *, reopen: bool = False) -> None:
    """The clutch is done, or is not after all."""
    with _recorded(clutch, member, at, f"{clutch.code} {'opened again' if reopen else 'closed'}") as record:
        record.change(clutch, closed_on=None if reopen else timezone.localdate(at))


@dataclass(frozen=True)
class Taken:
    """What became of a log file: readings taken, readings that were here already, and rows that could not be read."""

    new: int
    known: int
    troubles: list[str]


def import_log(incubator: Incubator, member: AbstractBaseUser, data: bytes, at: datetime) -> Taken:
    """Takes a logger's CSV: a column of times and one of temperatures, named or first and second. Readings are only added.

    :class:`Refused` where nothing in it can be read. Fahrenheit is understood by its heading or its size.
    """
    table = table_in(data, most_bytes=MOST_BYTES, most_rows=MOST_READINGS)
    time_at, value_at, fahrenheit, body = _columns(table)
    readings, troubles = {}, []
    for number, row in body:
        try:
            readings[_moment(row[time_at])] = _celsius(row[value_at], fahrenheit=fahrenheit)
        except (ValueError, IndexError):
            troubles.append(f"row {number}: “{table.separator.join(row)[:60]}” is not a time and a temperature")
    if not readings:
        raise Refused(
            "No row of the file holds a time such as 2026-05-31 14:00 and a temperature. Nothing was changed."
        )
    new = _add(incubator, member, readings, at, simulated=False)
    return Taken(new, len(readings) - new, troubles)


def _columns(table: Table) -> tuple[int, int, bool, list[tuple[int, list[str]]]]:
    """Where times and temperatures stand, whether in Fahrenheit, and the numbered rows below the heading."""
    heading = table.heading
    named = any(any(letter.isalpha() for letter in cell) for cell in heading) and not _is_moment(heading[0])
    if not named:
        return 0, 1, False, table.rows
    time_at = next((i for i, cell in enumerate(heading) if cell.startswith(("time", "date", "at"))), 0)
    value_at = next(
        (i for i, cell in enumerate(heading) if cell.startswith(("temp", "celsius", "°c", "fahrenheit"))), time_at + 1
    )
    words = heading[value_at] if value_at < len(heading) else ""
    return (
        time_at,
        value_at,
        "fahrenheit" in words or "°f" in words or words.endswith("(f)"),
        table.body,
    )


def _is_moment(text: str) -> bool:
    try:
        _moment(text)
    except ValueError:
        return False
    return True


def _moment(text: str) -> datetime:
    for form in TIMES:
        try:
            moment = datetime.strptime(text.strip().upper().replace("Z", ""), form)  # noqa: DTZ007  the place's own time
        except ValueError:
            continue
        if not implausible(moment.date()):
            return timezone.make_aware(moment)
    raise ValueError(text)


def _celsius(text: str, *, fahrenheit: bool) -> float:
    value = float(text.strip().replace(",", ".").rstrip("°CFcf "))
    if fahrenheit or value > POSSIBLE_C[1]:
        value = (value - 32) / 1.8
    if not POSSIBLE_C[0] <= value <= POSSIBLE_C[1]:
        raise ValueError(text)
    return value


def fetch_log(incubator: Incubator, member: AbstractBaseUser, since: datetime, at: datetime) -> int:
    """Fetches the readings of the simulated logger that are not here yet: one each half hour, with now and then a gap or a spike."""
    last = incubator.temperatures.filter(simulated=True).last()
    start = max(last.at if last else since, at - LONGEST_FETCH)
    steps = range(1, int((at - start) / timedelta(minutes=30)) + 1)
    moments = (start + timedelta(minutes=30 * step) for step in steps)
    shown = {moment: simulated_celsius(incubator.name, moment) for moment in moments}
    readings = {moment: celsius for moment, celsius in shown.items() if celsius is not None}
    return _add(incubator, member, readings, at, simulated=True)


def simulated_celsius(name: str, at: datetime) -> float | None:
    """What the simulated logger shows: 31.5 °C with the day's swing and some noise; ``None`` while it is off.

    Every twelfth day it is off for six hours, every seventeenth a hot afternoon reaches 33.6 °C.
    """
    day, hour = at.toordinal(), at.hour + at.minute / 60
    noise = random.Random(f"{name} {at:%Y-%m-%d %H:%M}").gauss(0, 0.08)  # noqa: S311  a simulated device
    if day % 12 == 5 and 2 <= hour < 8:
        return None
    swing = 0.25 * math.sin((hour - 9) / 24 * 2 * math.pi)
    spike = 2.0 * math.exp(-(((hour - 15) / 1.6) ** 2)) if day % 17 == 3 else 0.0
    return round(31.45 + swing + spike + noise, 2)


def _add(
    incubator: Incubator, member: AbstractBaseUser, readings: Mapping[datetime, float], at: datetime, *, simulated: bool
) -> int:
    """Adds the readings that are not here yet, as one change, and works out the means of the clutches in the incubator anew."""
    with transaction.atomic():
        Incubator.objects.select_for_update().get(
            pk=incubator.pk
        )  # of two files at once the second sees what the first added
        known = set(incubator.temperatures.filter(at__in=readings).values_list("at", flat=True))
        rows = [
            Temperature(incubator=incubator, at=moment, celsius=celsius, simulated=simulated)
            for moment, celsius in readings.items()
            if moment not in known
        ]
        what = f"{incubator.name}: {len(rows)} readings{' of the simulated logger' if simulated else ''}"
        with recording(incubator.collection, member, at, what, f"incubator:{incubator.pk}") as record:
            record.add_all(rows)
            for clutch in incubator.clutches.filter(closed_on=None):
                record.change(clutch, mean_c=_mean_in(clutch, incubator, at))
    return len(rows)


def _mean_in(clutch: Clutch, incubator: Incubator | None, at: datetime) -> float | None:
    """The mean temperature of a clutch's time in an incubator."""
    clutch.incubator = incubator
    mean = log_read([(moment, celsius) for moment, celsius, _ in readings_of(clutch, at)]).mean
    return None if mean is None else round(mean, 2)


def _recorded(clutch: Clutch, member: AbstractBaseUser, at: datetime, what: str) -> AbstractContextManager[Recording]:
    return recording(clutch.collection, member, at, what, subject_of(clutch))
