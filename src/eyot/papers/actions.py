"""Papers handed out and taken in."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.utils import timezone

from eyot_core.catalogue import Catalogue
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import Statement, written

from eyot.animals.actions import Details, change_animal, enter_animal
from eyot.animals.individuals import individual_of, photograph
from eyot.bench.claim_actions import make_claim
from eyot.bench.claims import TRUSTS
from eyot.collection.catalogue import catalogue_of
from eyot.collection.history import recording, subject_of
from eyot.collection.models import Animal, CarriedGene, Collection
from eyot.homes.issuing import issue
from eyot.homes.models import Issued
from eyot.homes.standing import Kept
from eyot.papers.document import FORMAT, Document, content_of, seal_of, sealed
from eyot.papers.models import PaperIn, PaperOut
from eyot.papers.reading import Paper, paper_from
from eyot.season.models import Egg, EggEvent, Weighing
from eyot.shared.refusal import Refused

NOTHING = "Nothing was changed."
OWN = (CarriedGene.Known.SEEN, CarriedGene.Known.BRED, CarriedGene.Known.TESTED)
"""What a keeper knows of an animal himself; a paper does not change it."""


@transaction.atomic
def hand_out(row: Kept, member: AbstractBaseUser, at: datetime, *, photos: bool) -> Document:
    """The paper of a hatchling as it stands: the same version as before where nothing in it is another. :class:`Refused` without a call."""
    if row.call is None:
        raise Refused(f"{row.egg} has no call yet: its paper could say nothing. Make one on the bench. {NOTHING}")
    content = content_of(row, photos=False)
    seal = seal_of(content)
    paper, made = PaperOut.objects.select_for_update().get_or_create(egg=row.egg, defaults={"content": seal})
    if not made and paper.content != seal:
        paper.content, paper.version = seal, paper.version + 1
        paper.save(update_fields=["content", "version"])
    issue([row], Issued.Kind.PAPER, member, at)
    head = {"format": FORMAT, "number": str(paper.number), "version": paper.version}
    day = timezone.localdate(at).isoformat()
    return sealed({**head, "issued": day, **(content_of(row, photos=True) if photos else content)})


@transaction.atomic
def keep_paper(
    collection: Collection, member: AbstractBaseUser, paper: Paper, at: datetime, *, knowing: bool
) -> PaperIn:
    """Keeps a paper that was read, to be looked at before the animal is taken over. :class:`Refused` for one that was changed by hand,
    unless that is known; and for one that is here already."""
    if paper.altered and not knowing:
        raise Refused(
            "This paper is not as it was made: something in it was changed, or it did not come whole. Ask for it again, or tick that "
            "it is to be read all the same. Nothing was read.",
            field="knowing",
        )
    known = collection.papers_in.filter(number=paper.number, egg__isnull=False).order_by("-version").first()
    if known and known.version >= paper.version and not paper.altered:
        raise Refused(f"{_named(known)} is here already, by version {known.version} of this paper. {NOTHING}")
    if collection.papers_in.filter(number=paper.number, egg=None).exists():
        collection.papers_in.filter(number=paper.number, egg=None).delete()
    own = PaperOut.objects.filter(number=paper.number, egg__clutch__collection=collection).select_related("egg").first()
    if own:
        raise Refused(f"This is your own paper, of {own.egg}. {NOTHING}")
    return PaperIn.objects.create(
        collection=collection,
        number=paper.number,
        version=paper.version,
        document=paper.document,
        altered=paper.altered,
        read_by_id=member.pk,
        read_at=at,
    )


def _named(paper: PaperIn) -> str:
    return paper.egg.kept_as.name if paper.egg and paper.egg.kept_as else "This animal"


@transaction.atomic
def take_over(kept: PaperIn, member: AbstractBaseUser, name: str, at: datetime) -> Animal:
    """The animal arrives, with everything that its paper says as declared by whoever made it; of an earlier version of the paper it is
    brought up to date."""
    if kept.egg:
        raise Refused(f"{_named(kept)} was taken over already. {NOTHING}")
    paper, catalogue = paper_from(kept.document), catalogue_of(kept.collection)
    earlier = kept.collection.papers_in.filter(number=kept.number, egg__isnull=False).order_by("-version").first()
    if earlier and earlier.egg and earlier.egg.kept_as:
        animal = earlier.egg.kept_as
        _renew(animal, member, paper, catalogue, at)
    else:
        animal = _arrives(kept.collection, member, paper, catalogue, name, at)
    kept.egg = individual_of(animal)
    kept.save(update_fields=["egg"])
    return animal


def _arrives(
    collection: Collection,
    member: AbstractBaseUser,
    paper: Paper,
    catalogue: Catalogue,
    name: str,
    at: datetime,
) -> Animal:
    unknown = "; ".join(f"{one.name} ({one.known}: {one.ground})" for one in paper.unknown_in(catalogue))
    note = f"Came with a paper of {paper.keeper}: all of it declared by them."
    note += f" Not known in this catalogue: {unknown}." if unknown else ""
    details = Details(" ".join(name.split())[:60], paper.code, paper.sex, paper.hatched, note=note)
    statements = paper.known_in(catalogue)
    _check_room(statements, catalogue)
    animal = enter_animal(collection, member, details, statements, at)
    egg = individual_of(animal)
    line = " ".join(written(one, Lookup(catalogue)) for one in statements)
    if line:
        make_claim(egg, member, line, str(TRUSTS[len(TRUSTS) // 2][0]), at)
    _life(animal, egg, member, paper, at)
    for picture in paper.photos:
        file: Any = SimpleUploadedFile("from-paper.jpg", picture.jpeg, "image/jpeg")
        photograph(animal, member, [file], picture.stage, picture.kind, picture.taken, at)
    return animal


def _check_room(statements: list[Statement], catalogue: Catalogue) -> None:
    by_locus: dict[str, int] = {}
    for one in statements:
        if one.chance == "1":
            locus = catalogue.genes[one.gene].locus
            by_locus[locus] = by_locus.get(locus, 0) + one.copies
    crowded = [locus for locus, copies in by_locus.items() if copies > 2]
    if crowded:
        raise Refused(f"No animal can be so: more than two alleles at {', '.join(crowded)}. {NOTHING}")


def _life(animal: Animal, egg: Egg, member: AbstractBaseUser, paper: Paper, at: datetime) -> None:
    """Weights, sheds and meals, as one change."""
    known = set(animal.weighings.values_list("on", "grams"))
    events = {(event.kind, event.on) for event in egg.events.all()}
    what = f"{animal.name}: weights, sheds and meals from its paper"
    with recording(animal.collection, member, at, what, subject_of(animal)) as record:
        for on, grams in paper.weights:
            if (on, grams) not in known:
                record.add(Weighing(animal=animal, grams=grams, on=on))
        for on in paper.sheds:
            if (EggEvent.Kind.SHED, on) not in events:
                record.add(EggEvent(egg=egg, kind=EggEvent.Kind.SHED, on=on))
        for on, eaten, taken in paper.meals:
            kind = EggEvent.Kind.MEAL if taken else EggEvent.Kind.REFUSED
            if (kind, on) not in events:
                record.add(EggEvent(egg=egg, kind=kind, value=eaten, on=on))


def _renew(animal: Animal, member: AbstractBaseUser, paper: Paper, catalogue: Catalogue, at: datetime) -> None:
    """What a later version says of the genes, but for what the keeper knows himself."""
    own = {gene.gene: gene.as_statement() for gene in animal.genes.all() if gene.known in OWN}
    told = {one.gene: one for one in paper.known_in(catalogue)}
    statements = [*own.values(), *(one for gene, one in told.items() if gene not in own)]
    _check_room(statements, catalogue)
    details = Details(animal.name, animal.code, animal.sex, animal.hatched_on, animal.dam, animal.sire, animal.note)
    change_animal(animal, member, details, statements, at)
    _life(animal, individual_of(animal), member, paper, at)


def put_away(kept: PaperIn) -> None:
    """A paper that was read and from which nothing was taken over goes."""
    if kept.egg:
        raise Refused(f"{_named(kept)} came with this paper: it stays. {NOTHING}")
    kept.delete()
