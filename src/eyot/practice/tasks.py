"""Photos of made-up animals, made ahead."""

from __future__ import annotations

from django.db import close_old_connections
from procrastinate.contrib.django import app

from eyot.practice import evenings
from eyot.practice.making import JOB, photograph
from eyot.shared.jobs import RETRY


@app.task(name=JOB, queue="photos", retry=RETRY)
def photographed_ahead(number: int) -> None:
    """The photo of a made-up animal."""
    close_old_connections()
    photograph(number)


@app.task(name=evenings.JOB, queue="photos", retry=RETRY)
def egg_photographed(number: int, stage: str) -> None:
    """The photo of an egg's made-up animal at a stage."""
    close_old_connections()
    evenings.photograph_egg(number, stage)
