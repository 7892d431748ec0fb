"""Days and temperatures as the reader's collection writes them: set for each request, asked for by whoever puts one into words.

Whatever is kept or computed stays ISO 8601 and °C; only words differ.
"""

from __future__ import annotations

from contextvars import ContextVar
from datetime import date, datetime

from django.utils import timezone

FIRST_YEAR = 1950
"""Days before it are slips of the finger."""
DAY_FIRST, MONTH_FIRST, ISO = "day", "month", "iso"
DAY_FORMS = ((DAY_FIRST, "31 May 2026"), (MONTH_FIRST, "May 31, 2026"), (ISO, "2026-05-31"))
CELSIUS, FAHRENHEIT = "C", "F"
GRADES = ((CELSIUS, "°C"), (FAHRENHEIT, "°F"))
REARRANGED = {
    MONTH_FIRST: (
        ("j M Y", "M j, Y"),
        ("j F Y", "F j, Y"),
        ("l j F", "l, F j"),
        ("D j F", "D, F j"),
        ("j M", "M j"),
        ("j F", "F j"),
    ),
    ISO: (
        ("j M Y", "Y-m-d"),
        ("j F Y", "Y-m-d"),
        ("l j F", "l, m-d"),
        ("D j F", "D, m-d"),
        ("j M", "m-d"),
        ("j F", "m-d"),
    ),
}
TYPED = {
    DAY_FIRST: ("%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y"),
    MONTH_FIRST: ("%Y-%m-%d", "%m/%d/%Y", "%d.%m.%Y"),
    ISO: ("%Y-%m-%d", "%d.%m.%Y"),
}
"""How a day may be typed; what has slashes is read as the collection writes days, never guessed."""
_form: ContextVar[str] = ContextVar("day form", default=DAY_FIRST)
_grade: ContextVar[str] = ContextVar("grade", default=CELSIUS)


def use(day_form: str, grade: str) -> None:
    """From here on, in this request."""
    _form.set(day_form)
    _grade.set(grade)


def form_of(pattern: str) -> str:
    """Django's pattern of a date, given for the day first, as the reader writes days.

    >>> form_of("j M Y, H:i")
    'j M Y, H:i'
    """
    for given, wanted in REARRANGED.get(_form.get(), ()):
        if pattern.startswith(given):
            return wanted + pattern[len(given) :]
    return pattern


def typed_days() -> tuple[str, ...]:
    """How a day may be typed, as ``strptime`` reads it."""
    return TYPED[_form.get()]


def implausible(day: date | None) -> str:
    """What is wrong with a day that no animal of today's keepers has seen, in words; empty where nothing is.

    >>> implausible(date(26, 5, 31))
    '31 May 0026 lies before 1950; did you mean 2026?'
    """
    this = timezone.localdate().year
    if day is None or FIRST_YEAR <= day.year <= this + 1:
        return ""
    meant = this // 100 * 100 + day.year % 100
    words = f"lies before {FIRST_YEAR}" if day.year < FIRST_YEAR else "lies ahead"
    return f"{long_day(day)} {words}; did you mean {meant if FIRST_YEAR <= meant <= this + 1 else this}?"


def long_day(day: date) -> str:
    """A day with its year.

    >>> long_day(date(2026, 5, 31))
    '31 May 2026'
    """
    return {MONTH_FIRST: f"{day:%b %-d, %Y}", ISO: f"{day:%Y-%m-%d}"}.get(_form.get(), f"{day:%-d %b %Y}")


def short_day(day: date | datetime) -> str:
    """A day of this year."""
    return {MONTH_FIRST: f"{day:%b %-d}", ISO: f"{day:%m-%d}"}.get(_form.get(), f"{day:%-d %b}")


def spelled_day(day: date) -> str:
    """A day of this year, its month in full.

    >>> spelled_day(date(2026, 6, 3))
    '3 June'
    """
    return {MONTH_FIRST: f"{day:%B %-d}", ISO: f"{day:%m-%d}"}.get(_form.get(), f"{day:%-d %B}")


def temperature(celsius: float, digits: int = 1) -> str:
    """A temperature with its unit.

    >>> temperature(31.5)
    '31.5 °C'
    """
    if _grade.get() == FAHRENHEIT:
        return f"{celsius * 9 / 5 + 32:.{digits}f} °F"
    return f"{celsius:.{digits}f} °C"
