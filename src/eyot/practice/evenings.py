"""A whole evening: a made-up clutch in a collection of its own, cut, looked at and called on the product's own pages; then the truth."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from PIL import Image
from procrastinate.contrib.django import app

from eyot_core.catalogue import builtin_catalogue
from eyot_core.drawing.camera import photographed
from eyot_core.exercises.known import shows
from eyot_core.exercises.made_up import Genes, made_up, young_of
from eyot_core.exercises.pictures import PHOTO
from eyot_core.exercises.scores import Score, scored
from eyot_core.photo.picture import Picture
from eyot_core.wording.names import Naming

from eyot.collection.member_actions import new_collection
from eyot.collection.models import Animal, CarriedGene, Collection
from eyot.photos.actions import draw_line, keep_picture
from eyot.practice.knowing import known_of
from eyot.practice.making import kept, lamp_of
from eyot.practice.models import Evening, EveningEgg, MadeUpAnimal
from eyot.season.models import Clutch, ClutchSire, Egg, Stage
from eyot.shared.refusal import Refused

JOB = "practice.evening"
EGGS, CODE, DAYS = 7, "P-01", 58
PARENTS = (("Willow", "female"), ("Alder", "male"))
SHOTS = {Stage.EGG: "egg", Stage.SHED: "loose"}
PLACES = ((0.0, 0.1), (0.33, 0.0), (0.66, 0.05), (1.0, 0.15), (0.15, 0.85), (0.5, 0.95), (0.85, 0.9))
SAID = {"sure": "sure", "likely": "likely", "possible": "hint", "either": "hint"}
"""What a verdict of a call says, in the words of practice."""


@dataclass(frozen=True)
class Told:
    """An egg once the truth is shown: what is in it, what was called, and how that is scored, if it was."""

    egg: Egg
    truth: str
    label: str
    score: Score | None


def begin(origin: Collection, member: AbstractBaseUser, at: datetime) -> Collection:
    """A collection with one clutch of made-up animals, due to be cut; photos of its eggs are ordered."""
    catalogue, random = builtin_catalogue(), np.random.default_rng(secrets.randbits(64))
    first = made_up(catalogue, random, Stage.SHED)
    with transaction.atomic():
        collection = new_collection(
            member, f"Practice evening, {at:%Y-%m-%d}", origin.time_zone, origin.day_form, origin.grade
        )
        evening = Evening.objects.create(collection=collection, made_at=at)
        dam, sire = (
            _parent(collection, name, sex, genes)
            for (name, sex), genes in zip(PARENTS, (first.dam, first.sire), strict=True)
        )
        clutch = Clutch.objects.create(
            collection=collection,
            code=CODE,
            dam=dam,
            laid_on=at.date() - timedelta(days=DAYS),
            note="made up for practice",
        )
        ClutchSire.objects.create(clutch=clutch, sire=sire)
        for number, made in enumerate(young_of(first, catalogue, random, EGGS), start=1):
            across, down = PLACES[number - 1]
            egg = Egg.objects.create(clutch=clutch, number=number, state=Egg.State.PIPPED, across=across, down=down)
            EveningEgg.objects.create(egg=egg, animal=kept(collection, made, at))
        order(evening, Stage.EGG)
    return collection


def _parent(collection: Collection, name: str, sex: str, genes: Genes) -> Animal:
    animal = Animal.objects.create(collection=collection, name=name, sex=sex, note="made up for practice")
    for one in genes:
        CarriedGene.objects.create(
            animal=animal, gene=one["gene"], copies=one["copies"], known=CarriedGene.Known.DECLARED
        )
    return animal


def order(evening: Evening, stage: str) -> None:
    """Has a photo of each egg's animal made at a stage."""
    for row in EveningEgg.objects.filter(egg__clutch__collection=evening.collection):
        app.configure_task(JOB, queue="photos", priority=1).defer(number=row.pk, stage=stage)


def let_shed(evening: Evening, at: datetime) -> None:
    """The second pass: all are out and shed, and photographed. :class:`Refused` where they are already."""
    if evening.shed_at:
        raise Refused("They have shed already. Nothing was changed.")
    with transaction.atomic():
        evening.shed_at = at
        evening.save(update_fields=["shed_at"])
        eggs = Egg.objects.filter(clutch__collection=evening.collection)
        eggs.update(state=Egg.State.OUT, stage=Stage.SHED, out_on=at.date(), shed_on=at.date())
        order(evening, Stage.SHED)


def show(evening: Evening, at: datetime) -> None:
    """The truth is shown from now on; calls made later count no more."""
    if evening.shown_at is None:
        evening.shown_at = at
        evening.save(update_fields=["shown_at"])


def photograph_egg(number: int, stage: str) -> None:
    """Makes and keeps the photo of an egg's animal at a stage, as a keeper would have taken it."""
    row = EveningEgg.objects.select_related("egg__clutch__collection", "animal").filter(pk=number).first()
    if row is None or row.egg.photos.filter(stage=stage).exists():
        return
    owner = row.egg.clutch.collection.memberships.order_by("pk")[0].user
    seed = row.animal.seed % 2**31
    taken = photographed(row.animal.looks, seed, SHOTS[Stage(stage)], stage=stage, lamp=lamp_of(row.animal.seed))
    picture, at = Picture(Image.fromarray(taken.pixels), None), row.egg.clutch.collection.evening.made_at
    photo = keep_picture(row.egg, owner, picture, stage, at, simulated=True)
    draw_line(photo, taken.line.tolist(), taken.start, taken.end)


def told(evening: Evening) -> list[Told]:
    """Every egg with the truth, and what was called before it was shown."""
    catalogue, rows = builtin_catalogue(), []
    eggs = EveningEgg.objects.filter(egg__clutch__collection=evening.collection)
    for row in eggs.select_related("egg__clutch", "animal").order_by("egg__number"):
        calls = [call for call in row.egg.calls.all() if evening.shown_at and call.made_at <= evening.shown_at]
        call = max(calls, key=lambda one: (one.made_at, one.pk), default=None)
        said = {
            gene.gene: SAID[gene.verdict]
            for gene in (call.genes.all() if call else [])
            if gene.verdict in SAID and gene.gene in catalogue.genes
            if gene.copies > 1 or not catalogue.genes[gene.gene].is_recessive
        }
        could = dict(known_of(row.animal, PHOTO, catalogue).chances)
        there = [
            gene for gene, entry in catalogue.genes.items() if shows(row.animal.genotype, gene, entry.is_recessive)
        ]
        visible = {gene: word for gene, word in said.items() if gene in could}
        score = scored(visible, could, there) if call else None
        rows.append(Told(row.egg, _words(row.animal), call.label if call else "", score))
    return rows


def _words(animal: MadeUpAnimal) -> str:
    """What an animal is, as a label says it."""
    naming = Naming(builtin_catalogue())
    genes = [gene for alleles in animal.genotype.values() for gene in alleles]
    return ", ".join(naming.copies(gene, genes.count(gene)) for gene in dict.fromkeys(genes)) or "normal"
