"""Loads the demo collection: rows, looks, and simulated photos drawn from the true genotypes. A fixed seed; days relative to today."""

from __future__ import annotations

import io
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from datetime import date, datetime, time, timedelta
from typing import Any
from uuid import uuid4

import numpy as np
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone
from PIL import Image

from eyot_core.photo.card_flat import card_alone
from eyot_core.wording.lookup import key_of

from eyot.bench.actions import make_call
from eyot.bench.judgement import prepared
from eyot.bench.models import Proof
from eyot.bench.queries import proposed_verdict
from eyot.bench.siblings import judged
from eyot.collection.actions import add_override, found_collection
from eyot.collection.models import Animal, CarriedGene, Collection, Membership, Role
from eyot.demo.grown import grown_orders, keep_grown, put_on_the_table
from eyot.demo.homes import begin_project, find_homes
from eyot.demo.practising import practise
from eyot.demo.scenario import (
    ANSWERED,
    BRED_BEFORE,
    CALLED,
    CALLED_BY_LOOKS,
    CLUTCHES,
    HELD_BACK,
    LIGHT,
    NAME,
    NEW_TRAIT,
    OTHER_GENES,
    OTHER_NAMES,
    OVERRIDES,
    PARENTS,
    PEDIGREE,
    PLACES,
    TESTED_BEFORE,
    DemoAnimal,
    DemoCall,
    DemoClutch,
    DemoEgg,
)
from eyot.demo.shooting import SEED, Pictures, drawn, keep_taken, look_at
from eyot.hets.desk_actions import add_showing, open_trait
from eyot.hets.laboratory import NAME as LABORATORY
from eyot.hets.laboratory import SENSITIVITY, SPECIFICITY
from eyot.hets.models import GeneTest, PastBreeding
from eyot.inbox.arriving import Sent, drop_of, end, receive
from eyot.photos.files import Pixels
from eyot.photos.models import Photo
from eyot.reference.own import pin_photo
from eyot.season.clutch_actions import fetch_log
from eyot.season.models import Clutch, ClutchSire, Egg, EggEvent, Incubator, Round, Sexing, Weighing
from eyot.season.queries import clutch_of, egg_of

LOGGED_DAYS = 59
PROVEN_BY_TEST = ("V-09",)
Told = Callable[[str], None]
TURNED_OVER = ("W-02",)
"""The clutch whose sheds are also photographed from below and close up."""
NOT_MARKED = 4
"""The egg of each clutch whose photo's light nobody has marked yet."""
EVENING = "W-02"
"""The clutch whose sheds were photographed on one evening, with cards, and came by the inbox."""
BETWEEN, CAMERA = timedelta(seconds=40), "Simulated camera"
EXIF_TIMES, EXIF_TAKEN, EXIF_MODEL = 0x8769, 0x9003, 0x0110
"""Where the standard has the time of taking and the camera's name: Exif 2.32."""


def load_demo(
    passwords: Mapping[str, str], tell: Told, *, photos: bool = True, today: date | None = None
) -> Collection:
    """Makes the demo collection with its two accounts: everything or, if it is stopped on the way, nothing."""
    day = today or timezone.localdate()
    if photos:
        tell("drawing the demo's simulated photos, about half a minute")
    pictures = _draw_photos(day) if photos else {}
    with transaction.atomic():
        collection, keeper = _accounts(passwords)
        for value in OVERRIDES:
            add_override(collection, keeper, dict(value))
        animals = {entry.name: _animal(collection, entry, day) for entry in (*PARENTS, *_others())}
        _pedigree(animals)
        eggs = [pair for demo in CLUTCHES for pair in _clutch(collection, demo, animals, day)]
        for demo, entry, egg in eggs:
            _answer(demo, entry, egg, keeper)
            _keep_photos(demo, egg, pictures, keeper)
        if photos:
            drop_evening([egg for demo, _, egg in eggs if demo.code == EVENING], pictures, keeper)
        for code, calls in CALLED.items():
            _call(clutch_of(collection, code), calls, keeper)
        for code in CALLED_BY_LOOKS:
            _call_by_looks(clutch_of(collection, code), keeper)
        _prove(eggs)
        _pin_proven(collection, keeper, eggs)
        _keep_back(collection, eggs)
        for incubator in collection.incubators.all():
            fetch_log(incubator, keeper, timezone.now() - timedelta(days=LOGGED_DAYS), timezone.now())
        _put_on_the_desk(collection, keeper, animals)
        _bred_and_tested(animals, day)
        keep_grown(animals, pictures, keeper, timezone.now())
        put_on_the_table(collection, pictures, keeper, day, timezone.now())
        find_homes(collection, keeper, day, timezone.now())
        begin_project(collection, keeper, timezone.now())
        practise(collection, keeper, timezone.now())
    return collection


def _bred_and_tested(animals: Mapping[str, Animal], today: date) -> None:
    """What was known of possible hets before the record began."""
    for name, gene, partner, hatchlings, visuals, ago in BRED_BEFORE:
        on = today - timedelta(days=ago)
        PastBreeding.objects.create(
            animal=animals[name], gene=gene, partner=partner, hatchlings=hatchlings, visuals=visuals, on=on
        )
    for name, gene, result, ago in TESTED_BEFORE:
        GeneTest.objects.create(
            animal=animals[name],
            gene=gene,
            result=result,
            sensitivity=SENSITIVITY,
            specificity=SPECIFICITY,
            on=today - timedelta(days=ago),
            laboratory=LABORATORY,
            simulated=True,
        )


def _put_on_the_desk(collection: Collection, keeper: AbstractBaseUser, animals: Mapping[str, Animal]) -> None:
    """The keeper's own trait, with its family, on the proving desk."""
    name, note, shown = NEW_TRAIT
    trait = open_trait(collection, keeper, name, note, timezone.now())
    for animal, shows in shown.items():
        add_showing(trait, keeper, animals[animal], shows, timezone.now())


def _pedigree(animals: dict[str, Animal]) -> None:
    for name, (dam, sire) in PEDIGREE.items():
        Animal.objects.filter(pk=animals[name].pk).update(dam=animals[dam], sire=animals[sire])


def _keep_back(collection: Collection, eggs: list[tuple[DemoClutch, DemoEgg, Egg]]) -> None:
    """Hatchlings that stayed, as animals with their parents and proven genes."""
    for demo, entry, egg in eggs:
        name = HELD_BACK.get((demo.code, egg.number))
        if name:
            clutch = clutch_of(collection, demo.code)
            animal = Animal.objects.create(
                collection=collection,
                name=name,
                code=egg.code,
                sex=egg.sex,
                hatched_on=egg.out_on,
                dam=clutch.dam,
                sire=clutch.clutch_sires.all()[0].sire,
                note="Held back.",
            )
            for gene in dict.fromkeys(entry.truth.split()):
                copies = entry.truth.split().count(gene)
                CarriedGene.objects.create(animal=animal, gene=gene, copies=copies, known=CarriedGene.Known.TESTED)
            Egg.objects.filter(pk=egg.pk).update(kept_as=animal)


def _pin_proven(collection: Collection, keeper: AbstractBaseUser, eggs: list[tuple[DemoClutch, DemoEgg, Egg]]) -> None:
    """The photos of animals whose calls are proven stand as own references."""
    for demo, entry, egg in eggs:
        if demo.code in PROVEN_BY_TEST:
            for photo in egg.photos.filter(kind=Photo.Kind.BACK):
                key = key_of([(gene, entry.truth.split().count(gene)) for gene in dict.fromkeys(entry.truth.split())])
                pin_photo(collection, keeper, photo, key, "tested", "shed test (simulated)")


def _accounts(passwords: Mapping[str, str]) -> tuple[Collection, AbstractBaseUser]:
    collection, keeper = found_collection("keeper", passwords["keeper"], NAME)
    collection.is_demo = True
    collection.save(update_fields=["is_demo"])
    users: Any = get_user_model().objects
    helper = users.create_user("helper", password=passwords["helper"])
    Membership.objects.create(user=helper, collection=collection, role=Role.HELPER)
    return collection, keeper


def _others() -> list[DemoAnimal]:
    sexes = ("female", "male", "female")
    return [
        DemoAnimal(
            name,
            sexes[index % 3],
            1 + index % 9,
            OTHER_GENES[index % len(OTHER_GENES)],
            "Own trait, not proven yet." if index % 13 == 10 else "",
        )
        for index, name in enumerate(OTHER_NAMES)
    ]


def _animal(collection: Collection, entry: DemoAnimal, today: date) -> Animal:
    born = today - timedelta(days=365 * entry.age + 40)
    animal = Animal.objects.create(
        collection=collection,
        name=entry.name,
        code=f"WB-{born:%y}-{collection.animals.count() + 1:02}",
        sex=entry.sex,
        hatched_on=born,
        note=entry.note,
    )
    _weigh(animal, entry, today)
    for gene in entry.genes:
        CarriedGene.objects.create(
            animal=animal,
            gene=gene.gene,
            known=gene.known,
            copies=gene.copies,
            chance=gene.chance,
            on_chromosome=gene.on,
        )
    return animal


def _weigh(animal: Animal, entry: DemoAnimal, today: date) -> None:
    """A weight a quarter over the last two years, towards the weight of today."""
    grown = 1.0 if entry.age >= 4 else 0.45 + 0.14 * entry.age
    heavy = (1950 if entry.sex == "female" else 780) * grown + 17 * (sum(map(ord, entry.name)) % 19)
    now = LIGHT.get(entry.name, heavy)
    for quarter in range(min(8, 4 * entry.age), -1, -1):
        grams = now * (1 - 0.035 * quarter) + (23 * quarter) % 40 - 20 * (quarter > 0)
        Weighing.objects.create(animal=animal, grams=round(grams), on=today - timedelta(days=12 + 91 * quarter))


def _clutch(
    collection: Collection, demo: DemoClutch, animals: dict[str, Animal], today: date
) -> list[tuple[DemoClutch, DemoEgg, Egg]]:
    def ago(days: int | None) -> date | None:
        return None if days is None else today - timedelta(days=days)

    clutch = Clutch.objects.create(
        collection=collection,
        code=demo.code,
        dam=animals[demo.dam],
        laid_on=ago(demo.laid),
        cut_on=ago(demo.cut),
        out_on=ago(demo.out),
        shed_on=ago(demo.shed),
        closed_on=ago(demo.closed),
        paired_on=ago(max(demo.locks) if demo.locks else (demo.laid or 0) + 90),
        ovulated_on=ago(None if demo.laid is None else demo.laid + 45),
        prelay_shed_on=ago(None if demo.laid is None else demo.laid + 28),
        place=demo.place,
        substrate=demo.substrate,
        incubator=_incubator(collection) if demo.substrate and not demo.out else None,
        note=demo.note,
    )
    for sire in demo.sires:
        ClutchSire.objects.create(clutch=clutch, sire=animals[sire])
    for days in demo.locks:
        met = today - timedelta(days=days)
        apart = met + timedelta(days=2)
        Round.objects.create(
            clutch=clutch, sire=animals[demo.sires[0]], introduced_on=met, locked_on=met, separated_on=apart
        )
    return [(demo, entry, _egg(clutch, number, entry)) for number, entry in enumerate(demo.eggs, 1)]


def _incubator(collection: Collection) -> Incubator:
    return Incubator.objects.get_or_create(collection=collection, name="Cupboard")[0]


def _egg(clutch: Clutch, number: int, entry: DemoEgg) -> Egg:
    across, down = PLACES[number - 1]
    egg = Egg.objects.create(
        clutch=clutch,
        number=number,
        state=entry.state,
        stage=entry.stage,
        sex=entry.sex,
        across=across,
        down=down,
        note=entry.note,
        first_guess=entry.guess,
        sexed_by=Sexing.POPPED if entry.sex else "",
        out_on=clutch.out_on if entry.state == "out" else None,
        shed_on=clutch.shed_on if entry.state == "out" else None,
    )
    _happened(egg)
    return egg


def _happened(egg: Egg) -> None:
    """Days and weights of an egg, as the clutch's days have them."""
    clutch = egg.clutch
    day = (
        clutch.out_on
        if egg.state == Egg.State.OUT
        else clutch.cut_on
        if egg.state == Egg.State.OPEN
        else clutch.laid_on
    )
    if day:
        EggEvent.objects.create(egg=egg, kind=EggEvent.Kind.STATE, value=egg.state, on=day)
    if egg.out_on and clutch.out_on:
        lightest = 54 + (egg.number * 7) % 11
        Weighing.objects.create(egg=egg, grams=lightest, on=clutch.out_on, source=Weighing.Source.SCALE)
        if clutch.shed_on:
            Weighing.objects.create(egg=egg, grams=lightest - 3, on=clutch.shed_on, source=Weighing.Source.SCALE)
            meal = clutch.shed_on + timedelta(days=4)
            Egg.objects.filter(pk=egg.pk).update(first_meal_on=meal)
            EggEvent.objects.create(egg=egg, kind=EggEvent.Kind.MEAL, value="rat pup", on=meal)
            for week in range(1, min(12, (timezone.localdate() - clutch.shed_on).days // 7) + 1):
                on = clutch.shed_on + timedelta(days=7 * week)
                grams = round(lightest - 3 + week * (6.5 + egg.number % 3), 1)
                Weighing.objects.create(egg=egg, grams=grams, on=on, source=Weighing.Source.SCALE)


def _moment(day: date, number: int, later: timedelta = timedelta()) -> datetime:
    """A minute in the evening of a day; before today's evening, one that is just over."""
    evening = timezone.make_aware(datetime.combine(day, time(20, 10 + number * 3)))
    return min(evening, timezone.now() - timedelta(minutes=150 - number * 3)) + later


def _seen_on(egg: Egg) -> date:
    clutch = egg.clutch
    day = (
        {"egg": clutch.cut_on, "wet": clutch.out_on, "shed": clutch.shed_on}.get(egg.stage)
        or clutch.shed_on
        or clutch.out_on
    )
    return (
        min(day + timedelta(days=5 if egg.stage == "blue" else 0), timezone.localdate())
        if day
        else timezone.localdate()
    )


def _answer(demo: DemoClutch, entry: DemoEgg, egg: Egg, keeper: AbstractBaseUser) -> None:
    """The keeper's looks so far: drawn from what the genotype shows, misread as often as the stage is unclear."""
    random = np.random.default_rng([SEED, ord(demo.code[0]), int(demo.code[2:]), egg.number])
    asked = ANSWERED.get(demo.code, {}).get(egg.number, ())
    if demo.code in CALLED_BY_LOOKS:
        asked = tuple(sorted(prepared(clutch_of(egg.clutch.collection, demo.code)).worth_asking("shed")))
    look_at(egg, keeper, entry.truth, asked, random, _moment(_seen_on(egg), egg.number))


def _call(clutch: Clutch, calls: Mapping[int, DemoCall], keeper: AbstractBaseUser) -> None:
    judgement = judged(clutch)
    for number, call in calls.items():
        egg = egg_of(clutch, number)
        verdicts = {gene: call.verdicts.get(gene, ("not", 1)) for gene in judgement.model.pairing.given_genes}
        moment = _moment(_seen_on(egg), number, timedelta(hours=1))
        make_call(judgement, egg, keeper, verdicts, egg.stage, call.note, uuid4(), moment)


def _call_by_looks(clutch: Clutch, keeper: AbstractBaseUser) -> None:
    """Calls as the chances propose them."""
    judgement = judged(clutch)
    for egg in clutch.eggs.all():
        chances = {line.gene: line.after for line in judgement.genes(egg) if line.form == "shown" and line.copies == 1}
        chances |= {
            line.gene: line.after for line in judgement.genes(egg) if line.form == "shown" and line.gene not in chances
        }
        genes = judgement.model.catalogue.genes
        verdicts = {
            gene: (proposed_verdict(chance, clutch.collection), 2 if genes[gene].is_recessive else 1)
            for gene, chance in chances.items()
        }
        make_call(
            judgement,
            egg_of(clutch, egg.number),
            keeper,
            verdicts,
            "shed",
            "",
            uuid4(),
            _moment(_seen_on(egg), egg.number),
        )


def _prove(eggs: list[tuple[DemoClutch, DemoEgg, Egg]]) -> None:
    """What tests showed since of the hatchlings of last year."""
    for demo, entry, egg in eggs:
        if demo.code in (*CALLED_BY_LOOKS, *PROVEN_BY_TEST):
            pairing = judged(clutch_of(egg.clutch.collection, demo.code)).model.pairing
            for gene in pairing.given_genes:
                copies = entry.truth.split().count(gene)
                Proof.objects.create(
                    egg=egg,
                    gene=gene,
                    copies=copies,
                    how=Proof.How.TESTED,
                    on=egg.clutch.closed_on or timezone.localdate(),
                )


def _draw_photos(today: date) -> Pictures:
    """The simulated photos of every egg that is open, drawn from its true genotype; touches no row."""
    orders = {
        (demo.code, number, stage, kind): (
            *(kind, stage, entry.truth, SEED + 100 * int(demo.code[2:]) + number),
            _card_beside(demo, number, stage, kind, today),
        )
        for demo in CLUTCHES
        for number, entry in enumerate(demo.eggs, 1)
        for stage, kind in _photos_of(demo, entry)
    }
    orders |= grown_orders()
    with ProcessPoolExecutor() as pool:
        return dict(zip(orders, pool.map(drawn, *zip(*orders.values(), strict=True)), strict=True))


def _photos_of(demo: DemoClutch, entry: DemoEgg) -> list[tuple[str, str]]:
    """Stage and kind of each photo."""
    if not entry.truth or demo.code in CALLED_BY_LOOKS:
        return []
    if entry.stage != "shed":
        return [(entry.stage, Photo.Kind.BACK)]
    more = [("shed", Photo.Kind.BELLY), ("shed", Photo.Kind.HEAD)] if demo.code in TURNED_OVER else []
    return [("egg", Photo.Kind.BACK), ("shed", Photo.Kind.BACK), *more]


def _is_of_evening(clutch: str, stage: str) -> bool:
    return clutch == EVENING and stage == "shed"


def _card_beside(demo: DemoClutch, number: int, stage: str, kind: str, today: date) -> str:
    """The number on the printed card beside a hatchling; empty where it is a plain grey one."""
    if not _is_of_evening(demo.code, stage) or kind == Photo.Kind.HEAD or number == NOT_MARKED or demo.laid is None:
        return ""
    return f"{today - timedelta(days=demo.laid):%y}-{demo.code.replace('-', '')}-{number}"


def drop_evening(eggs: Sequence[Egg], pictures: Pictures, keeper: AbstractBaseUser) -> None:
    """An evening's files, as a camera wrote them, in the inbox: cards say whose they are, the worker looks and files. One hatchling has no
    card beside it: its card was photographed before it."""
    shots: list[tuple[Pixels, datetime]] = []
    for egg in eggs:
        own = [
            taken.pixels for key, taken in pictures.items() if key[1] == egg.number and _is_of_evening(key[0], key[2])
        ]
        if own and egg.number == NOT_MARKED:
            own.insert(0, card_alone(egg.code))
        shots += [(pixels, _moment(_seen_on(egg), egg.number) + place * BETWEEN) for place, pixels in enumerate(own)]
    if not shots:
        return
    collection = eggs[0].clutch.collection
    came = timezone.now()
    drop = drop_of(collection, keeper, uuid4(), came)
    for place, (pixels, at) in enumerate(shots):
        file = _as_camera_writes(pixels, at)
        sent = Sent(uuid4(), f"IMG_{4100 + place}.jpg", file, len(file.getvalue()), place, simulated=True)
        receive(collection, keeper, drop, sent, came)
    end(drop)


def _as_camera_writes(pixels: Pixels, at: datetime) -> io.BytesIO:
    held, exif = io.BytesIO(), Image.Exif()
    exif.get_ifd(EXIF_TIMES)[EXIF_TAKEN] = f"{timezone.localtime(at):%Y:%m:%d %H:%M:%S}"
    exif[EXIF_MODEL] = CAMERA
    Image.fromarray(pixels).save(held, "JPEG", quality=92, exif=exif)
    held.seek(0)
    return held


def _keep_photos(demo: DemoClutch, egg: Egg, pictures: Pictures, keeper: AbstractBaseUser) -> None:
    for (code, number, stage, kind), taken in pictures.items():
        if (code, number) == (demo.code, egg.number) and not _is_of_evening(code, stage):
            day = egg.clutch.cut_on if stage == "egg" and egg.clutch.cut_on else _seen_on(egg)
            keep_taken(egg, keeper, taken, stage, kind, _moment(day, egg.number), marked=number != NOT_MARKED)
