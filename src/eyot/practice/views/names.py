"""Name it: an animal, its genes to be named, and the solution."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.catalogue import Catalogue
from eyot_core.drawing.plate import AT, at_place, plate, strip
from eyot_core.exercises.pictures import BELLY, HEAD, PHOTO, STRIP, drawn_for
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.photos.models import Photo
from eyot.practice.answering import name
from eyot.practice.forms import BeginForm, OpenForm
from eyot.practice.knowing import known_of
from eyot.practice.making import name_it, put_own
from eyot.practice.models import Exercise
from eyot.practice.own import next_own
from eyot.practice.solution import looks_otherwise, looks_seen, solution_of
from eyot.practice.views.drills import drill_page
from eyot.practice.views.home import exercise_of, practice_page
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

LOOKS_ASKED, LOOK = 3, "look-"
"""How many looks may be read beside the naming, and what their fields are called."""
SHOWN_AT = {HEAD: ("crown", "eye"), BELLY: ("belly", "tail")}


@require_POST
@refusals_on(practice_page)
def begin(request: CollectionRequest) -> HttpResponse:
    """The next animal to be named."""
    values = entered(request, BeginForm)
    picture = values["picture"] if values["picture"] in (PHOTO, STRIP, HEAD, BELLY) else STRIP
    exercise = name_it(
        request.collection, request.member, picture, timezone.now(), is_given=values["parents"] != "unknown"
    )
    return redirect("exercise", exercise.pk)


@require_POST
@refusals_on(practice_page)
def begin_own(request: CollectionRequest) -> HttpResponse:
    """The next of the collection's proven animals."""
    egg = next_own(request.collection, request.member)
    if egg is None:
        raise Refused(
            "None of your animals is proven and has a photo that you were not asked about. Nothing was begun."
        )
    exercise = put_own(egg, request.member, timezone.now())
    return redirect("exercise", exercise.pk)


def exercise_page(request: CollectionRequest, number: int, refused: Refused | None = None) -> HttpResponse:
    """One exercise: the picture and what is asked; or its solution, once it is answered."""
    exercise = exercise_of(request, number)
    if exercise.kind in (Exercise.Kind.LOOK, Exercise.Kind.PAIR):
        return drill_page(request, exercise, refused)
    catalogue = catalogue_of(request.collection)
    context: dict[str, Any] = {
        "exercise": exercise,
        "pictures": SHOWN_AT.get(exercise.picture, ("",)),
        "parents": _parents(exercise, Naming(catalogue)),
        "genes": _asked(exercise, Naming(catalogue)),
        "form": as_sent(refused, OpenForm, about=number),
        "photo": _own_photo(exercise),
        "rows": solution_of(exercise) if exercise.said else [],
        "words": ("no", "hint", "likely", "sure"),
        "asked_looks": [] if exercise.said else _looks_asked(exercise, catalogue),
        "seen": looks_seen(exercise),
        "refused": refused,
        "here": "practice",
    }
    return render(request, "practice/exercise.html", context, status=422 if refused else 200)


def _parents(exercise: Exercise, naming: Naming) -> list[tuple[str, str]]:
    """Dam and sire, with their genes."""
    if exercise.animal is None or not exercise.is_given:
        return []
    return [
        (role, ", ".join(naming.copies(one["gene"], one["copies"]) for one in genes) or "normal")
        for role, genes in (("Dam", exercise.animal.dam), ("Sire", exercise.animal.sire))
    ]


def _asked(exercise: Exercise, naming: Naming) -> list[tuple[str, str]]:
    """The genes that are asked about, by their names."""
    if exercise.egg:
        genes = [proof.gene for proof in exercise.egg.proofs.all() if proof.gene in naming.catalogue.genes]
    elif exercise.animal and exercise.is_given:
        genes = known_of(exercise.animal, exercise.picture, naming.catalogue).genes
    else:
        return []
    return sorted(((gene, naming.gene(gene)) for gene in genes), key=lambda row: row[1])


def _looks_asked(exercise: Exercise, catalogue: Catalogue) -> list[dict[str, Any]]:
    """The looks that may be read beside the naming: those that tell such siblings apart most, whatever this one shows."""
    if exercise.animal is None or not exercise.is_given:
        return []
    entries = {entry["id"]: entry for entry in catalogue.document["traits"]}
    worth = known_of(exercise.animal, exercise.picture, catalogue).worth_seeing(LOOKS_ASKED)
    return [
        {
            "id": look,
            "question": entries[look]["question"],
            "levels": [(level["id"], level["id"].replace("_", " ")) for level in entries[look]["levels"]],
        }
        for look in worth
    ]


def _own_photo(exercise: Exercise) -> Photo | None:
    """The newest photo from above of an own animal."""
    if exercise.egg is None:
        return None
    return exercise.egg.photos.filter(kind=Photo.Kind.BACK).order_by("-taken_at").first()


@require_POST
@refusals_on(exercise_page)
def answer(request: CollectionRequest, number: int) -> HttpResponse:
    """An animal is named."""
    exercise = exercise_of(request, number)
    seen = {key.removeprefix(LOOK): str(level) for key, level in request.POST.items() if key.startswith(LOOK) and level}
    said = {
        gene: word
        for gene, word in request.POST.items()
        if word in ("sure", "likely", "hint", "no") and not gene.startswith(LOOK)
    }
    if exercise.animal and not exercise.is_given:
        said = _typed(request, number)
    name(exercise, said, timezone.now(), seen)
    if exercise.race_id:
        return redirect("race", exercise.race_id)
    return redirect("exercise", number)


def _typed(request: CollectionRequest, number: int) -> dict[str, str]:
    """The genes that were typed, each with how sure."""
    values = entered(request, OpenForm, about=number)
    lookup, said = Lookup(catalogue_of(request.collection)), dict[str, str]()
    for word in ("hint", "likely", "sure"):
        read = understood(lookup, values[word])
        if read.unknown or read.questions or read.impossible:
            raise Refused(f"{read.left_open or ' '.join(read.impossible)} Nothing was kept.", field=word)
        hets = [
            one.gene
            for one in read.statements
            if lookup.naming.catalogue.genes[one.gene].is_recessive and one.copies < 2
        ]
        if hets:
            names = ", ".join(map(lookup.naming.gene, hets))
            raise Refused(
                f"A het of {names} shows nothing: name what shows in the animal. Nothing was kept.", field=word
            )
        said |= {one.gene: word for one in read.statements}
    return said


def picture(request: CollectionRequest, number: int) -> HttpResponse:
    """What an exercise shows; ``at``: a place on the body."""
    exercise = exercise_of(request, number)
    animal = exercise.animal
    if animal is None:
        raise Http404
    if exercise.picture == PHOTO:
        if not hasattr(animal, "photo"):
            raise Http404
        return HttpResponse(bytes(animal.photo.jpeg), content_type="image/jpeg")
    return _drawing(animal.looks, animal.seed, animal.stage, request.GET.get("at", ""), exercise.picture)


def otherwise(request: CollectionRequest, number: int, gene: str, place: str) -> HttpResponse:
    """A place on the body of the same animal without a gene or with it, or as it is; only once it was answered."""
    exercise = exercise_of(request, number)
    if exercise.said is None or exercise.animal is None or place not in (*AT, STRIP):
        raise Http404
    if gene != "as-it-is" and gene not in catalogue_of(request.collection).genes:
        raise Http404
    looks = exercise.animal.looks if gene == "as-it-is" else looks_otherwise(exercise, gene)
    return _drawing(looks, exercise.animal.seed, exercise.animal.stage, place, "plate")


def _drawing(looks: dict[str, str], seed: int, stage: str, at: str, kind: str) -> HttpResponse:
    """A strip, or a plate or one place on it. The seed stays within what draws the same on every machine."""
    small, looks = seed % 2**31, drawn_for(kind, looks)
    if kind == STRIP or (kind == "plate" and at == "strip"):
        drawn = strip(looks, small, stage)
    else:
        whole = plate(looks, small, stage)
        drawn = at_place(whole, at) if at in AT else whole
    return HttpResponse(drawn, content_type="image/svg+xml")
