"""Simulated photos for tests, under lamps that the correction does not assume: two soft windows, gloss about half-vectors."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np

from eyot_core.body import GIRTHS
from eyot_core.catalogue import builtin_catalogue
from eyot_core.colour import lab
from eyot_core.drawing.camera import BLUE_PAPER, WHITE_PAPER, Lamp, Taken, photographed
from eyot_core.drawing.noise import Floats
from eyot_core.drawing.palette import aged
from eyot_core.drawing.skin import skin_colours
from eyot_core.identify.looks import telling_looks
from eyot_core.photo.light import Light, light_in
from eyot_core.photo.spine import Line, line_from
from eyot_core.photo.strip import COLUMNS, ROWS, V_MOST, Strip

ANIMALS: tuple[dict[str, tuple[str, ...]], ...] = (
    {},
    {"bel": ("mojave", "mojave")},
    {"piebald": ("piebald", "piebald")},
    {"pastel": ("pastel",)},
    {"spider": ("spider",)},
    {"clown": ("clown", "clown")},
    {"pinstripe": ("pinstripe",)},
    {"banana": ("banana",)},
)


@dataclass(frozen=True)
class Windows(Lamp):
    """Two soft windows and the sky: wrapped diffuse light, highlights about half-vectors, a pale rim."""

    second: tuple[float, float, float] = (0.6, 0.2, 0.8)
    wrap: float = 0.35

    def on_body(self, t: Floats, across: Floats) -> tuple[Floats, Floats]:
        up = np.sqrt(np.clip(1 - t**2, 0, 1))
        shade, gloss, flat = np.zeros_like(t), 0.03 * (1 - up) ** 4, 0.0
        for toward, weight in ((self.toward, 0.7), (self.second, 0.3)):
            unit = np.array(toward) / np.linalg.norm(toward)
            half = (unit + np.array([0, 0, 1])) / np.linalg.norm(unit + np.array([0, 0, 1]))
            shade += weight * self._wrapped(t * (across @ unit[:2]) + up * unit[2])
            flat += weight * float(self._wrapped(unit[2]))
            facing = np.clip(t * (across @ half[:2]) + up * half[2], 0, 1)
            gloss = gloss + sum(weight * strength * facing ** (3 * power) for strength, power in self.gloss)
        return self.ambient * (1 + up) / 2 + (1 - self.ambient) * shade / flat, gloss

    def _wrapped(self, cosine: Floats | float) -> Floats:
        return np.asarray(np.clip((cosine + self.wrap) / (1 + self.wrap), 0, 1) ** 1.3)


def looks_of(number: int, stage: str = "shed") -> dict[str, str]:
    """The looks of one of the animals."""
    catalogue = builtin_catalogue()
    genotype = ANIMALS[number % len(ANIMALS)]
    by_locus: dict[str, list[str]] = {}
    for alleles in genotype.values():
        for allele in alleles:
            by_locus.setdefault(catalogue.genes[allele].locus, []).append(allele)
    return telling_looks(catalogue, {locus: tuple(alleles) for locus, alleles in by_locus.items()}, stage)


@dataclass(frozen=True)
class Case:
    """A photo of an animal of these looks, the line a keeper might draw on it, and the light from its card."""

    looks: dict[str, str]
    number: int
    stage: str
    taken: Taken
    line: Line
    light: Light

    @cached_property
    def truth(self) -> Floats:
        """The true CIELAB over the counted window."""
        start, end = max(0.09, self.taken.start), min(0.93, self.taken.end)
        return true_lab(self.looks, self.number, self.stage, start, end)


def case(number: int, shot: str = "loose", stage: str = "shed", width: int = 800) -> Case:
    """One case: animal, window, paper, cast of up to 25 % a channel and exposure of up to a stop follow from the number.

    Each is drawn once in a process: change nothing in it.
    """
    return _case(number, shot, stage, width)


def windows_at_random(random: np.random.Generator) -> Windows:
    """Two windows, casts of up to 25 % a channel and an exposure of up to a stop."""
    azimuth, other = random.uniform(0, 2 * np.pi, 2)
    return Windows(
        toward=(np.cos(azimuth), np.sin(azimuth), random.uniform(0.5, 2.0)),
        second=(np.cos(other), np.sin(other), random.uniform(0.5, 2.0)),
        ambient=random.uniform(0.3, 0.6),
        gloss=((random.uniform(0, 0.15), 15.0), (random.uniform(0, 0.3), 80.0)),
        cast=tuple(random.uniform(0.75, 1.25, 3)),
        exposure=random.uniform(-1, 1),
        wrap=random.uniform(0.1, 0.6),
    )


@cache
def _case(number: int, shot: str, stage: str, width: int) -> Case:
    random = np.random.default_rng([31, number])
    lamp = windows_at_random(random)
    looks = looks_of(number, stage)
    paper = WHITE_PAPER if number % 2 else BLUE_PAPER
    taken = photographed(
        looks, number, shot, stage=stage, lamp=lamp, paper=paper, width=width, height=round(width * 0.75)
    )
    height = taken.pixels.shape[0]
    girth = float(np.hypot(*np.diff(taken.line, axis=0).T).sum()) / (taken.end - taken.start) / (GIRTHS * np.pi)
    hand = random.normal(0, 0.1 * girth, taken.line.shape)
    hand[[0, -1]] *= 0.3
    line = line_from(taken.line + hand, width, height, taken.start, taken.end)
    light = light_in(taken.pixels, taken.card or (0, 0, 0, 0), "grey card", 0.18)
    assert isinstance(line, Line), line
    assert isinstance(light, Light), light
    return Case(looks, number, stage, taken, line, light)


@cache
def small_photo(number: int, width: int = 640, height: int = 480) -> Taken:
    """A loose animal of ``looks_of(number)`` from above, drawn once in a process: change nothing in it."""
    return photographed(looks_of(number), number, "loose", width=width, height=height)


def true_lab(looks: dict[str, str], seed: int, stage: str, start: float, end: float) -> Floats:
    """CIELAB of the skin itself between two places of u, over |v| < 0.36."""
    skin = skin_colours(looks, seed, np.linspace(start, end, 800), np.linspace(-0.36, 0.36, 117))
    return lab(np.clip(aged(skin, stage), 0, 1))


def true_strip(looks: dict[str, str], seed: int, stage: str, start: float, end: float) -> Strip:
    """The skin itself as a strip, between two places of u: no photo, no light."""
    u, v = (np.arange(COLUMNS) + 0.5) / COLUMNS, np.linspace(-V_MOST, V_MOST, ROWS)
    skin = np.clip(aged(skin_colours(looks, seed, u, v), stage), 0, 1).astype(np.float32)
    seen = np.broadcast_to((u >= start) & (u <= end), (ROWS, COLUMNS)).copy()
    none = np.zeros_like(seen)
    return Strip(skin, seen, none, none, corrected=True, on_ground=True, start=start, end=end)
