"""The paper as a document: what is known of an animal and how, the looks and the call, weights, sheds, meals, and the seal over all.

The form is told in docs/formats/paper.schema.json. The seal is the SHA-256 of the document without it, written with keys in order, no
spaces, and UTF-8 letters as they are.
"""

from __future__ import annotations

import base64
import json
from collections.abc import Sequence
from fractions import Fraction
from hashlib import sha256
from typing import Any

from eyot_core.wording.label import Part, written_chance
from eyot_core.wording.promise import wording_of

from eyot.bench.judgement import Judgement, counting
from eyot.bench.models import Call, CalledGene, Look
from eyot.bench.siblings import judged_one
from eyot.collection.models import Animal
from eyot.collection.wording import gene_statement
from eyot.homes.label_words import parts_known, proven_words, welfare_of
from eyot.homes.listing import hatched
from eyot.homes.standing import Kept
from eyot.photos import files
from eyot.photos.models import Photo
from eyot.season.models import EggEvent
from eyot.season.queries import clutch_of_any

FORMAT = "eyot-paper/1"
MOST_PHOTOS = 8
KNOWN = {"shown": "seen", "likely": "likely", "possible": "possible", "het": "parents", "possible_het": "parents"}
OPINION = "Genes called by eye are an opinion. What a test or young proved is said to be proven; a possible het rests on the parents."
Document = dict[str, Any]


def sealed(document: Document) -> Document:
    """The document with its seal."""
    return {**document, "sha256": seal_of(document)}


def seal_of(document: Document) -> str:
    """The SHA-256 over all of a document but the seal itself."""
    plain = {name: value for name, value in document.items() if name != "sha256"}
    text = json.dumps(plain, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return sha256(text.encode()).hexdigest()


def content_of(row: Kept, *, photos: bool) -> Document:
    """What a paper says of a hatchling, but for its number, version and day. The call has to be there."""
    assert row.call is not None
    clutch = clutch_of_any(row.collection, row.egg.clutch.code)
    judgement = judged_one(clutch)
    parts = parts_known(judgement, row)
    sires = [entry.sire for entry in clutch.clutch_sires.all()]
    parents = [row.egg.kept_as.dam, row.egg.kept_as.sire] if clutch.elsewhere and row.egg.kept_as else []
    dam = clutch.dam or (parents[0] if parents else None)
    content: Document = {
        "keeper": str(row.collection),
        "animal": {
            "name": row.egg.kept_as.name if row.egg.kept_as else row.name,
            "id": row.name,
            "sex": row.egg.sex or None,
            "sex_sure": row.egg.sex_sure,
            "hatched": hatched(row) or None,
            "label": row.label,
        },
        "genes": _genes(row, parts, judgement),
        "call": _call(row.call),
        "looks": _looks(judgement, row),
        "parents": {
            "dam": _parent(dam, judgement) if dam else None,
            "sires": [_parent(sire, judgement) for sire in sires or list(filter(None, parents[1:]))],
        },
        "weights": [{"on": one.on.isoformat(), "grams": one.grams} for one in row.egg.weighings.all()],
        "sheds": _sheds(row),
        "meals": _meals(row),
        "welfare": [{"gene": name, "note": note} for name, note in welfare_of(row, judgement.naming)],
        "health": row.ailing or None,
        "opinion": OPINION,
    }
    return content | ({"photos": _photos(row)} if photos else {})


def _genes(row: Kept, parts: Sequence[Part], judgement: Judgement) -> list[Document]:
    """Each gene with how it is known; what was proven since stands over what was called."""
    proven = proven_words(row)
    wording = wording_of(parts, judgement.naming, proven)
    told = {one.gene: one for one in (*wording.sure, *wording.likely, *wording.possible)}
    assert row.call is not None
    chances = {one.gene: one.chance for one in row.call.genes.all()}
    genes = []
    for part in parts:
        known = "proven" if part.gene in proven else KNOWN[part.said]
        chance = part.chance if part.said != "likely" else written_chance(chances.get(part.gene, 0.9))
        genes.append(_gene(judgement, part.gene, part.copies, known, chance, told[part.gene].ground))
        if told[part.gene].proof:
            genes[-1]["to_settle"] = told[part.gene].proof
    return genes


def _gene(judgement: Judgement, gene: str, copies: int, known: str, chance: Fraction | None, ground: str) -> Document:
    name = judgement.naming.copies(gene, copies)
    told = None if chance is None else str(chance)
    return {"gene": gene, "name": name, "copies": copies, "known": known, "chance": told, "ground": ground}


def _call(call: Call) -> Document:
    verdicts = dict(CalledGene.Verdict.choices)
    genes = [
        {"gene": one.gene, "verdict": verdicts[one.verdict], "copies": one.copies, "chance": round(one.chance, 4)}
        for one in call.genes.all()
    ]
    return {"label": call.label, "stage": call.stage, "on": call.made_at.date().isoformat(), "genes": genes}


def _looks(judgement: Judgement, row: Kept) -> list[Document]:
    """The looks that count, in words of the catalogue."""
    traits = judgement.catalogue.traits
    seen: Sequence[Look] = counting(
        Look.objects.filter(egg=row.egg, withdrawn_at=None).select_related("seen_by__invitation")
    )
    return [
        {
            "trait": look.trait,
            "level": look.level,
            "stage": look.stage,
            "sure": look.confidence,
            "on": look.seen_at.date().isoformat(),
            "light": look.light or None,
        }
        for look in seen
        if look.trait in traits
    ]


def _parent(animal: Animal, judgement: Judgement) -> Document:
    return {"name": animal.name, "genes": [gene_statement(gene, judgement.naming) for gene in animal.genes.all()]}


def _sheds(row: Kept) -> list[str]:
    later = [event.on for event in row.egg.events.all() if event.kind == EggEvent.Kind.SHED]
    return [day.isoformat() for day in sorted([*([row.egg.shed_on] if row.egg.shed_on else []), *later])]


def _meals(row: Kept) -> list[Document]:
    kinds = (EggEvent.Kind.MEAL, EggEvent.Kind.REFUSED)
    return [
        {"on": event.on.isoformat(), "what": event.value or None, "taken": event.kind == EggEvent.Kind.MEAL}
        for event in row.egg.events.all()
        if event.kind in kinds
    ]


def _photos(row: Kept) -> list[Document]:
    """The newest photos as they are shown: made small, without the place and camera that their files carry."""
    photos = Photo.objects.filter(egg=row.egg, sizes_done__gt=0).order_by("-taken_at", "pk")[:MOST_PHOTOS]
    told = []
    for photo in photos:
        try:
            with files.opened(photo.folder, f"{photo.page}.jpg") as file:
                data = file.read()
        except FileNotFoundError:
            continue
        told.append(
            {
                "kind": photo.kind,
                "stage": photo.stage,
                "taken": photo.taken_at.date().isoformat(),
                "simulated": photo.simulated,
                "jpeg": base64.b64encode(data).decode(),
            }
        )
    return told
