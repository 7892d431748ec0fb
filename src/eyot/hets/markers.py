"""Marks that keepers read in carriers: the catalogue's ratios, what hides a mark in an animal, and the collection's own counts."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from eyot_core.catalogue import Catalogue
from eyot_core.drawing.glyphs import glyph
from eyot_core.hatchery.scoring import Share, counted_ratios, share
from eyot_core.identify.at_work import rules_at_work
from eyot_core.wording.chances import percent

from eyot.bench.judgement import plain, trait_words
from eyot.collection.models import Animal
from eyot.hets.models import HetMarker
from eyot.photos.models import Photo

SHOWN_ON = {
    "head_stamp": (Photo.Kind.HEAD,),
    "ringer": (Photo.Kind.VENT, Photo.Kind.BELLY),
    "belly_marks": (Photo.Kind.BELLY,),
    "belly_edge": (Photo.Kind.BELLY,),
    "tail_pattern": (Photo.Kind.TAIL,),
}
"""Which photos show a mark; the others are looked for on the back."""
LEAST_PROVEN = 12
"""Proven carriers, and as many proven others, from which on own ratios may be taken over."""


@dataclass(frozen=True)
class MarkerRow:
    """One mark of one gene on one animal. ``hidden``: why it is not asked for; ``answer``: seen, unseen or empty."""

    trait: str
    level: str
    name: str
    drawing: str
    seen_words: str
    unseen_words: str
    standing: str
    answer: str
    hidden: str
    photos: tuple[Photo, ...]


@dataclass(frozen=True)
class MarkerCount:
    """A mark among proven animals: seen in carriers and in others, each with its interval."""

    trait: str
    level: str
    name: str
    carriers: Share
    others: Share
    catalogue_ratio: float
    own_seen: float
    own_unseen: float
    is_enough: bool

    @property
    def words(self) -> tuple[str, str]:
        """Both shares in words."""
        return _share_words(self.carriers), _share_words(self.others)


def markers_of(catalogue: Catalogue, gene: str) -> list[dict[str, Any]]:
    """The marks that the catalogue names for carriers of a gene."""
    return [row for row in catalogue.document["markers"] if row["when"][0]["gene"] == gene]


def ratio_of(catalogue: Catalogue, row: HetMarker) -> float:
    """How many times likelier the answer is in carriers; 1 for a mark that the catalogue no longer names."""
    for marker in markers_of(catalogue, row.gene):
        if (marker["trait"], marker["level"]) == (row.trait, row.level):
            return float(marker["ratio_seen"] if row.seen else marker["ratio_unseen"])
    return 1.0


def marker_rows(
    catalogue: Catalogue, animal: Animal, gene: str, answers: Iterable[HetMarker], photos: Sequence[Photo]
) -> list[MarkerRow]:
    """The marks of a gene on an animal, with their ratios and the photos that show the place; those that its other genes cover say so."""
    given = {(row.trait, row.level): "seen" if row.seen else "unseen" for row in answers}
    hiding = _hiding(catalogue, animal)
    return [
        MarkerRow(
            trait=row["trait"],
            level=row["level"],
            name=_name(row),
            drawing=glyph(row["trait"], row["level"]),
            seen_words=f"{row['ratio_seen']:.2g} times",
            unseen_words=f"{row['ratio_unseen']:.2g} times",
            standing=row["standing"],
            answer=given.get((row["trait"], row["level"]), ""),
            hidden=hiding.get(row["trait"], ""),
            photos=tuple(one for one in photos if one.kind in SHOWN_ON.get(row["trait"], (Photo.Kind.BACK,))),
        )
        for row in markers_of(catalogue, gene)
    ]


def _name(row: Mapping[str, Any]) -> str:
    return f"{trait_words(row['trait'])['name']}: {plain(row['level'])}"


def _hiding(catalogue: Catalogue, animal: Animal) -> dict[str, str]:
    """Looks that can't be read as marks under an animal's own genes, with the rule that says so."""
    genotype: dict[str, list[str]] = {}
    for row in animal.genes.all():
        gene = catalogue.genes.get(row.gene)
        if gene and row.chance == "1":
            genotype.setdefault(gene.locus, []).extend([row.gene] * row.copies)
    rules = rules_at_work(catalogue, {locus: sorted(alleles)[:2] for locus, alleles in genotype.items()}, "adult")
    not_read = {row["id"] for row in catalogue.document.get("rules", []) if "carriers" in row.get("note", "")}
    return {
        trait: f"{rule.claim} ({rule.standing})"
        for rule in rules
        for trait in (*rule.covers, *(rule.adds if rule.id in not_read else ()))
    }


def marker_counts(
    catalogue: Catalogue, gene: str, marks: Iterable[HetMarker], proven: Mapping[int, bool]
) -> list[MarkerCount]:
    """Each mark of a gene among animals that are proven to be carriers (True) or not (False), by animal."""
    by_mark: dict[tuple[str, str], list[tuple[bool, bool]]] = {}
    for row in marks:
        if row.animal_id in proven:
            by_mark.setdefault((row.trait, row.level), []).append((proven[row.animal_id], row.seen))
    counts = []
    for marker in markers_of(catalogue, gene):
        rows = by_mark.get((marker["trait"], marker["level"]), [])
        carriers = [seen for is_carrier, seen in rows if is_carrier]
        others = [seen for is_carrier, seen in rows if not is_carrier]
        first, second = share(sum(carriers), len(carriers)), share(sum(others), len(others))
        counts.append(
            MarkerCount(
                marker["trait"],
                marker["level"],
                _name(marker),
                first,
                second,
                float(marker["ratio_seen"]),
                *counted_ratios(first, second),
                min(first.count, second.count) >= LEAST_PROVEN,
            )
        )
    return counts


def _share_words(share: Share) -> str:
    if not share.count:
        return "none proven"
    return f"{share.right} of {share.count} ({percent(share.low)} to {percent(share.high)} behind it)"
