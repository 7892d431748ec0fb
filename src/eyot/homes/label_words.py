"""What stands on a hatchling's label: from its row, without judging its clutch anew."""

from __future__ import annotations

from django.utils.dateparse import parse_date

from eyot_core.wording.label import Part
from eyot_core.wording.names import Naming
from eyot_core.wording.promise import with_proofs

from eyot.bench.actions import parts_called, said_in
from eyot.bench.judgement import Judgement
from eyot.collection.models import Collection
from eyot.homes.label_pages import LabelWords
from eyot.homes.listing import hatched, parents
from eyot.homes.standing import Kept
from eyot.shared.money import money
from eyot.shared.units import long_day

FROM_TWO = "2"
SEX = {"female": "female", "male": "male", "": "sex not known"}


def welfare_of(row: Kept, naming: Naming) -> list[tuple[str, str]]:
    """The genes of its call that are known for trouble in animals that show them: name, and what is known."""
    called = {one.gene: one.copies for one in row.call.genes.all()} if row.call else {}
    found = []
    for gene in row.genes:
        note = naming.text(gene, "welfare") if gene in naming.catalogue.genes else ""
        if note and (called[gene] > 1 or naming.text(gene, "welfare_from") != FROM_TWO):
            found.append((naming.gene(gene), note))
    return found


def proven_words(row: Kept) -> dict[str, str]:
    """The genes that were proven to be there, with what proved each and when."""
    how = {"bred": "proven by its own young", "tested": "proven by a test", "aged": "plain as it grew up"}
    return {one.gene: f"{how[one.how]}, {long_day(one.on)}" for one in row.egg.proofs.all() if one.copies}


def parts_known(judgement: Judgement, row: Kept) -> list[Part]:
    """The parts of a label by the call and by what was proven since. The call has to be there."""
    assert row.call is not None
    proven = {one.gene: one.copies for one in row.egg.proofs.all()}
    return with_proofs(parts_called(judgement, row.egg, said_in(row.call)), proven, judgement.catalogue)


def label_words(row: Kept, naming: Naming, site: str, *, priced: bool) -> LabelWords:
    """The words of one label. ``site``: the address that its code begins with; ``priced``: with the price."""
    egg = row.egg
    day = parse_date(hatched(row)) if hatched(row) else None
    sex = SEX[egg.sex] + ("" if egg.sex_sure or not egg.sex else ", not sure")
    lines = [", ".join([sex, *([f"hatched {long_day(day)}"] if day else [])]), parents(row)]
    if priced and row.price is not None:
        lines.append(money(row.price, row.collection.currency))
    troubles = [*(name for name, _ in welfare_of(row, naming)), *([row.ailing] if row.ailing else [])]
    mark = f"⚠ {', '.join(troubles)}: read the welfare note" if troubles else ""
    return LabelWords(row.name, row.label or "not called yet", tuple(filter(None, lines)), site + path_of(row), mark)


def path_of(row: Kept) -> str:
    """Where the code of a label leads, within the site: the animal's page if it has one, else the hatchling's."""
    collection: Collection = row.collection
    if row.egg.kept_as:
        return f"/in/{collection.key}/animals/{row.egg.kept_as.pk}/"
    return f"/in/{collection.key}/clutches/{row.egg.clutch.code}/{row.egg.number}/"
