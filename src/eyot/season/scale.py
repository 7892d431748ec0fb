"""The simulated scale: what it would show of a hatchling. It stands in for a real one, and every weight from it says so."""

from __future__ import annotations

import random
from datetime import date

from eyot.season.models import Egg

LIGHTEST_G, HEAVIEST_G = 52.0, 78.0
GROWN_A_WEEK_G = 7.0
NOISE_G = 0.4


def simulated_grams(egg: Egg, on: date) -> float:
    """A weight in grams to a tenth: that of the hatchling's size, with some growth a week after the first shed, and the scale's noise."""
    own = random.Random(f"{egg.clutch.code} {egg.number}")  # noqa: S311  a simulated device
    grams = own.uniform(LIGHTEST_G, HEAVIEST_G)
    rate = own.uniform(0.6, 1.3) * GROWN_A_WEEK_G
    if egg.shed_on and on > egg.shed_on:
        grams += rate * (on - egg.shed_on).days / 7
    noise = random.Random(f"{egg.pk} {on}").gauss(0, NOISE_G)  # noqa: S311  a simulated device
    return round(grams + noise, 1)
