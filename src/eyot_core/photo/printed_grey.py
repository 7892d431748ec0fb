"""A printed grey and what it throws back: set once by a photo of it on white paper, and known again in every other photo.

What a printer makes of grey is a little red or blue, and differs from printer to printer and from paper to paper. In one photo the grey and
white paper around it lie in the same light, so that the one tells the other.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eyot_core.colour import linear
from eyot_core.photo.card import PAPER, Card, place_of
from eyot_core.photo.light import CARDS, Light, NoLight, light_in
from eyot_core.photo.sight import Sight

Floats = NDArray[np.float64]
Pixels = NDArray[np.uint8]
Share = tuple[float, float, float]

NAME = "printed grey"
BURNT = 250
ALIKE = 0.25
"""How far the paper around the card may be from the card's own, in shares of it and in any channel."""
KNOWN = 0.2
"""How far the grey may be from what was set, beside the card's own paper and in any channel: beyond it is another print, or a screen."""
LEAST, MOST = 0.05, 0.6
"""What a printed grey may throw back."""
NOT_SET = "the card's grey is printed, and what it throws back is not set: photograph the card on white paper first"
OTHER = "the card's grey is not the one that was set: another printer's, other paper, or a screen"


@dataclass(frozen=True)
class PrintedGrey:
    """What a printed grey, and the card's own bare paper, throw back of red, green and blue light, 0 to 1."""

    grey: Share
    paper: Share


def printed_grey_in(sight: Sight, cards: Sequence[Card]) -> PrintedGrey | NoLight:
    """What the grey of the one card in a photo throws back, by the white paper on which it lies."""
    printed = [card for card in cards if card.kind == "printed"]
    if len(cards) != 1 or not printed:
        return NoLight("no card with printed grey is seen" if not printed else "there are several cards: lay one alone")
    if sight.ground is None:
        return NoLight("the paper around the card is not even: lay it on plain white paper that fills the picture")
    [card] = printed
    around = np.array([_ground_at(sight, spot) for spot in _spots(card)])
    if around.max() > float(linear(np.array(BURNT))):
        return NoLight("the white paper is burnt out: take it again with less light")
    grey, own = _seen(sight.photo, card)
    paper = CARDS["white paper"] * own / np.median(around, axis=0)
    if np.abs(paper / CARDS["white paper"] - 1).max() > ALIKE:
        return NoLight(
            "what lies around the card is no white paper: the card's own paper looks quite different beside it"
        )
    share = CARDS["white paper"] * grey / np.median(around, axis=0)
    if share.min() < LEAST or share.max() > MOST:
        return NoLight("the grey is too dark or too pale for a print of these cards")
    return PrintedGrey(_three(share), _three(paper))


def light_by_print(photo: Pixels, card: Card, known: PrintedGrey | None) -> Light | NoLight:
    """The light of a photo by the printed grey of a card in it."""
    if known is None:
        return NoLight(NOT_SET)
    grey, own = _seen(photo, card)
    expected = np.array(known.grey) / np.array(known.paper)
    if np.abs(grey / own / expected - 1).max() > KNOWN:
        return NoLight(OTHER)
    assert card.window is not None
    return light_in(photo, card.window, NAME, np.array(known.grey))


def _spots(card: Card) -> Floats:
    """Places of the card's bare paper, in pixels of the photo."""
    return place_of(card, PAPER)


def _ground_at(sight: Sight, spot: Floats) -> Floats:
    """The light of the bare ground where something lies on it."""
    assert sight.ground is not None
    x, y = ((spot + 0.5) * sight.factor - 0.5).round().astype(int)
    rows, columns = sight.ground.shape[:2]
    return np.asarray(sight.ground[np.clip(y, 0, rows - 1), np.clip(x, 0, columns - 1)])


def _seen(photo: Pixels, card: Card) -> tuple[Floats, Floats]:
    """Linear RGB of a card's grey and of its own paper."""
    assert card.window is not None
    left, top, right, bottom = card.window
    grey = np.median(linear(photo[top : bottom + 1, left : right + 1]).reshape(-1, 3), axis=0)
    at = np.clip(_spots(card).round().astype(int), 1, np.array(photo.shape[1::-1]) - 2)
    paper = np.median([linear(photo[y - 1 : y + 2, x - 1 : x + 2]).mean(axis=(0, 1)) for x, y in at], axis=0)
    return grey, np.maximum(paper, 1e-4)


def _three(values: Floats) -> Share:
    red, green, blue = (round(float(value), 4) for value in values)
    return red, green, blue
