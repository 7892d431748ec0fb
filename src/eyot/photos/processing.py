"""What jobs make of a photo: its sizes in its light, its strip or crop, its measures. Each can be done twice without harm."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import TYPE_CHECKING, Any

import numpy as np
from django.db.models import F, QuerySet

from eyot_core.body_places import PLACES
from eyot_core.photo.answer import card_document, measured_document, outline_document
from eyot_core.photo.belly import belly_of
from eyot_core.photo.frame import framed, is_framed
from eyot_core.photo.light import CARDS, Light, NoLight, light_in
from eyot_core.photo.measures import MEASURES, RECKONING, Missing, measures_of
from eyot_core.photo.outline import NoOutline, Outline
from eyot_core.photo.size import size_of
from eyot_core.photo.spine import BadLine, line_from
from eyot_core.photo.strip import strip_of
from eyot_core.photo.window import window_at, window_picture

from eyot.photos import files
from eyot.photos.models import GreyPrint, Photo, light_document

if TYPE_CHECKING:
    from eyot_core.photo.card import Card
    from eyot_core.photo.find import Found
    from eyot_core.photo.printed_grey import PrintedGrey
    from eyot_core.photo.sight import Sight

REFERENCES = {"grey": "grey card", "white": "white paper"}
NO_COLOURS = "colours of ultraviolet photos are never measured"


@dataclass(frozen=True)
class _Made:
    """A strip or a crop, its measures and how much of it is spoilt."""

    pixels: files.Pixels
    measures: dict[str, Any]
    spoilt: dict[str, float]
    outline: list[list[float]]
    overlay: files.Pixels | None = None
    size: dict[str, Any] = field(default_factory=dict)


def look_for_originals() -> int:
    """Looks for every photo's original in the store, and marks those that are missing; how many are."""
    missing = 0
    for photo in Photo.everything.select_related("egg__clutch").iterator(500):
        is_missing = not files.has_original(photo.folder)
        missing += is_missing
        if is_missing != photo.original_missing:
            Photo.everything.filter(pk=photo.pk).update(original_missing=is_missing)
    return missing


def make_sizes(photo_id: str) -> None:
    """Every size of a photo in its light, from the original. Nothing where the photo is gone or the sizes are made."""
    photo = Photo.objects.select_related("egg__clutch").filter(pk=photo_id, sizes_done__lt=F("sizes_wanted")).first()
    if photo is None:
        return
    pixels, light = files.original(photo.folder), photo.known_light()
    files.write_sizes(photo.folder, pixels, light, photo.sizes_wanted)
    Photo.objects.filter(pk=photo.pk).update(sizes_done=photo.sizes_wanted)
    files.forget_versions(photo.folder, tuple(files.SIZES), photo.sizes_wanted - 1)


@dataclass(frozen=True)
class Wanted:
    """What is to be made of a photo after it was looked over."""

    sizes: bool = False
    strip: bool = False


@dataclass(frozen=True)
class Looked:
    """What was seen in a photo. ``cards``: as ``bin/eyot core card-in`` prints them; ``unread``: is a card in it that says nothing;
    ``line``: points in pixels with ``confidence`` 0 to 1, or none and what is ``missing``; ``light``: by a card's window, or empty;
    ``faults``: what is wrong with it."""

    cards: list[dict[str, Any]]
    unread: bool = False
    line: list[list[float]] = field(default_factory=list)
    confidence: float | None = None
    missing: str = ""
    light: dict[str, Any] = field(default_factory=dict)
    faults: list[dict[str, Any]] = field(default_factory=list)


@dataclass(frozen=True)
class Seen:
    """What was seen, as it is kept; what the line was made of, and what it was found in."""

    looked: Looked
    found: Found
    sight: Sight


def seen_in(pixels: files.Pixels, known: PrintedGrey | None, *, line_too: bool) -> Seen:
    """The cards in an upright photo, the light by the first of them that has one, and the line along a back, if wanted. ``known``: the
    printed grey of its collection."""
    from eyot_core.photo.card import find_cards  # a web process needs none of it
    from eyot_core.photo.faults import faults_of
    from eyot_core.photo.find import find_animal
    from eyot_core.photo.sight import Sight

    seen = find_cards(pixels)
    light, others = _light_by_card(pixels, seen.cards, known)
    told = enumerate(card_document(seen)["cards"])
    cards = [card | ({"other_print": True} if place in others else {}) for place, card in told]
    sight = Sight.of(pixels, [card.box for card in seen.cards])
    found = find_animal(sight)
    faults = [asdict(fault) for fault in faults_of(sight, seen.cards, found)]
    looked = Looked(cards, seen.unread, light=light, faults=faults)
    return Seen(_with_line(looked, found, pixels) if line_too else looked, found, sight)


def _with_line(looked: Looked, found: Found, pixels: files.Pixels) -> Looked:
    if found.points is None:
        return replace(looked, missing=found.why[:200])
    line = line_from(found.points, pixels.shape[1], pixels.shape[0])
    if isinstance(line, BadLine):
        return replace(looked, missing=line.reason[:200])
    return replace(looked, line=line.points.round(2).tolist(), confidence=found.confidence)


def look_over(photo_id: str) -> Wanted:
    """Looks a photo over whose cards and line are wanted; what is to be made of it after that."""
    photo = Photo.objects.select_related("egg__clutch").filter(pk=photo_id, find_done__lt=F("find_wanted")).first()
    if photo is None:
        return Wanted()
    seen = seen_in(
        files.original(photo.folder),
        known_grey(photo.egg.clutch.collection_id),
        line_too=photo.shows_a_body and not photo.line,
    )
    return keep_looked(photo, seen.looked)


def keep_looked(photo: Photo, looked: Looked) -> Wanted:
    """Keeps what was seen in a photo: its cards, its light where none is marked, its line where none is drawn; what was marked by hand
    meanwhile stands. What is to be made of it after that."""
    row = Photo.objects.filter(pk=photo.pk)
    row.update(find_done=photo.find_wanted, cards=looked.cards, line_missing=looked.missing, faults=looked.faults)
    is_lit = bool(looked.light) and photo.kind != Photo.Kind.ULTRAVIOLET and _keep_light(row, looked.light)
    if looked.line and photo.shows_a_body:
        return Wanted(is_lit, _keep_line(row, looked))
    return Wanted(is_lit, bool(looked.cards) and _order_anew(row))


def _order_anew(row: QuerySet[Photo]) -> bool:
    """Counts up the strip of a line that stood before its card was found: its light and its scale are known by now."""
    return bool(row.exclude(line={}).update(strip_wanted=F("strip_wanted") + 1))


def _keep_line(row: QuerySet[Photo], looked: Looked) -> bool:
    line = {"points": looked.line, "from": 0.0, "to": 1.0}
    found = {"line": line, "line_confidence": looked.confidence, "trouble": ""}
    return bool(row.filter(line={}).update(**found, strip_wanted=F("strip_wanted") + 1))


def _keep_light(row: QuerySet[Photo], light: dict[str, Any]) -> bool:
    """Corrects by a card's light where none is marked; are the sizes to be made anew?"""
    found = {"light": light["card"], "light_data": light, "light_from": None}
    return bool(row.filter(light="").update(**found, sizes_wanted=F("sizes_wanted") + 1))


def _light_by_card(
    pixels: files.Pixels, cards: Sequence[Card], known: PrintedGrey | None
) -> tuple[dict[str, Any], set[int]]:
    """The light by the first card that tells one, as a photo keeps it, empty where there is none; and the places of the cards before it
    whose grey is not the collection's print."""
    from eyot_core.photo.printed_grey import OTHER, light_by_print

    others = set()
    for place, card in enumerate(cards):
        light: Light | NoLight = NoLight("nothing lies in its window")
        if card.kind == "printed":
            light = light_by_print(pixels, card, known)
            if light == NoLight(OTHER):
                others.add(place)
        elif card.kind and card.window and not card.uncut:
            name = REFERENCES[card.kind]
            light = light_in(pixels, card.window, name, CARDS[name])
        if isinstance(light, Light):
            return light_document(light), others
    return {}, others


def printed_grey_seen(pixels: files.Pixels) -> PrintedGrey | NoLight:
    """What the printed grey of a card that lies on white paper throws back."""
    from eyot_core.photo.card import find_cards
    from eyot_core.photo.printed_grey import printed_grey_in
    from eyot_core.photo.sight import Sight

    cards = find_cards(pixels).cards
    return printed_grey_in(Sight.of(pixels, [card.box for card in cards]), cards)


def known_grey(collection: int) -> PrintedGrey | None:
    """The printed grey that was set last in a collection."""
    last = GreyPrint.objects.filter(collection=collection).last()
    return last.known if last else None


def make_strip(photo_id: str) -> None:
    """The strip (or crop) of a photo along its line, and its measures; or what is in the way of one."""
    photo = Photo.objects.select_related("egg__clutch").filter(pk=photo_id, strip_done__lt=F("strip_wanted")).first()
    if photo is None or not photo.line:
        return
    pixels = files.original(photo.folder)
    made = _crop(photo, pixels) if is_framed(photo.kind, len(photo.line["points"])) else _strip(photo, pixels)
    if isinstance(made, str):
        done: dict[str, Any] = {"trouble": made, "measures": {}, "spoilt": {}, "outline": [], "size": {}}
    else:
        files.write_strip(photo.folder, made.pixels, photo.strip_wanted)
        if made.overlay is not None:
            files.write_strip(photo.folder, made.overlay, photo.strip_wanted, "spoilt")
        done = {"trouble": "", "measures": made.measures, "spoilt": made.spoilt, "outline": made.outline}
        done["size"] = made.size
    keep_windows(photo, pixels, photo.strip_wanted)
    Photo.objects.filter(pk=photo.pk).update(strip_done=photo.strip_wanted, reckoning=RECKONING, **done)
    windows = [files.window_name(place.id) for place in PLACES]
    files.forget_versions(photo.folder, ("strip", "spoilt", *windows), photo.strip_wanted - 1)


def keep_windows(photo: Photo, pixels: files.Pixels, version: int) -> None:
    """Makes what a photo shows at every place on the body that lies in it, in its light, from its upright original."""
    for place in PLACES:
        window = window_at(photo.line, photo.kind, (photo.width, photo.height), place)
        if window:
            files.write_window(
                photo.folder, place.id, window_picture(pixels, window, place, photo.known_light()), version
            )


def _strip(photo: Photo, pixels: files.Pixels) -> _Made | str:
    line = line_from(
        np.array(photo.line["points"]),
        photo.width,
        photo.height,
        photo.line.get("from", 0.0),
        photo.line.get("to", 1.0),
    )
    if isinstance(line, BadLine):
        return line.reason
    brushed = files.brush(photo.folder) if photo.brush_marks else None
    made = strip_of(pixels, line, photo.known_light(), brushed)
    if isinstance(made, NoOutline):
        return made.reason
    strip, outline = made
    measured = belly_of(strip) if photo.kind == Photo.Kind.BELLY else measures_of(strip)
    if photo.kind == Photo.Kind.ULTRAVIOLET:
        measured = {measure.id: Missing(NO_COLOURS) for measure in MEASURES}
    seen = max(1, int(strip.seen.sum()))
    spoilt = {
        "clipped": float(strip.clipped.sum() / seen),
        "dark": float(strip.dark.sum() / seen),
        "shown": strip.shown_share,
        "sure": float(outline.sure.mean()),
    }
    return _Made(
        strip.picture(),
        measured_document(measured),
        spoilt,
        outline_document(outline),
        strip.spoilt_picture() if spoilt["clipped"] + spoilt["dark"] > 0 else None,
        _size(photo, outline),
    )


def _size(photo: Photo, outline: Outline) -> dict[str, Any]:
    """Length and girth by the card in the photo; empty where there is none, or where it may be shown on a screen in any size."""
    card = next((card for card in photo.cards if not card.get("uncut") and not card.get("other_print")), None)
    size = size_of(outline, card["mm_per_pixel"], card["slant"]) if card else None
    return asdict(size) if size else {}


def _crop(photo: Photo, pixels: files.Pixels) -> _Made | str:
    crop = framed(pixels, photo.line["points"], photo.kind, photo.known_light())
    return crop.reason if isinstance(crop, BadLine) else _Made(crop, {}, {}, [])
