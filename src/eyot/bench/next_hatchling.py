"""The queue through a clutch and a season: the hatchling whose next look tells most."""

from __future__ import annotations

from eyot.bench.siblings import judged
from eyot.season.models import Clutch, Egg
from eyot.season.queries import clutch_of, clutches_of_season

MOST_CLUTCHES = 6


def next_hatchling(clutch: Clutch, number: int) -> Egg | None:
    """The hatchling with the most telling open question: a sibling first, then one of the season's other clutches.

    Open are hatchlings that are not called yet. Of a clutch without open ones the next by code is taken, a fixed number at most.
    """
    here = _best(clutch, number)
    if here:
        return here
    others = [one.code for one in clutches_of_season(clutch.collection, None) if one.code != clutch.code]
    later = [code for code in others if code > clutch.code] + [code for code in others if code < clutch.code]
    best = (_best(clutch_of(clutch.collection, code)) for code in later[:MOST_CLUTCHES])
    return next((egg for egg in best if egg), None)


def _best(clutch: Clutch, but: int = 0) -> Egg | None:
    """Of a clutch's open hatchlings the one whose next look tells most at its stage."""
    called = set(Egg.objects.filter(clutch=clutch, calls__isnull=False).values_list("pk", flat=True))
    left = [egg for egg in clutch.eggs.all() if egg.is_open and egg.pk not in called and egg.number != but]
    if not left:
        return None
    judgement = judged(clutch)
    gains = {egg: max((look.gain for look in judgement.next_looks(egg, egg.stage)), default=0.0) for egg in left}
    best = max(left, key=lambda egg: gains[egg])
    best.clutch = clutch
    return best
