"""When the pair is to be brought together next, by the keeper's school.

Source: schools of practice: every 10 to 14 days; once a month; often at first, then monthly, so that clutches come close together.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta

LONGEST_DAYS = 120
MOST_STEPS = 12


def rhythm_from(text: str) -> tuple[int, ...]:
    """Days between introductions; the last goes on for ever. ValueError that says what is wrong.

    >>> rhythm_from("7 7 7 30")
    (7, 7, 7, 30)
    """
    words = text.replace(",", " ").split()
    if not words or len(words) > MOST_STEPS:
        raise ValueError(f"a rhythm has 1 to {MOST_STEPS} numbers of days, such as 12, or 7 7 7 30")
    if not all(word.isdecimal() and 1 <= int(word) <= LONGEST_DAYS for word in words):
        raise ValueError(f"each step of a rhythm is a number of days from 1 to {LONGEST_DAYS}, got “{text}”")
    return tuple(map(int, words))


def next_round(introduced: Sequence[date], rhythm: Sequence[int]) -> date | None:
    """The day of the next introduction; ``None`` before the first.

    >>> next_round([date(2026, 1, 1), date(2026, 1, 8)], (7, 30))
    datetime.date(2026, 2, 7)
    """
    if not introduced:
        return None
    step = rhythm[min(len(introduced), len(rhythm)) - 1]
    return max(introduced) + timedelta(days=step)
