"""One animal's strips under one another by date, what has changed between them, and the course that its genes let expect."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from eyot_core.catalogue import Catalogue
from eyot_core.identify.traits import Genotype
from eyot_core.photo.answer import measured_from
from eyot_core.photo.measures import Measured, Value
from eyot_core.photo.series import FOLLOWED, Change, changes, course, followed

from eyot.photos.models import Photo
from eyot.season.models import Egg
from eyot.shared.scales import Scale, path_through

WIDTH, HEIGHT, LEFT, FOOT, TOP = 290, 150, 40, 24, 10
NAMES = {
    "lightness": "Lightness",
    "white_share": "White",
    "brown": "Brown in the dark pattern",
    "freckle_count": "Freckles",
}
UNITS = {"lightness": "L*", "white_share": "share", "brown": "C*", "freckle_count": "a body"}
RANGES = {"lightness": (0.0, 80.0), "white_share": (0.0, 1.0), "brown": (0.0, 40.0), "freckle_count": (0.0, 40.0)}
WORDS = {
    ("lightness", "more"): "lighter",
    ("lightness", "less"): "darker",
    ("white_share", "more"): "whiter",
    ("white_share", "less"): "less white",
    ("brown", "more"): "browner in the dark pattern",
    ("brown", "less"): "less brown in the dark pattern",
    ("freckle_count", "more"): "more freckles",
    ("freckle_count", "less"): "fewer freckles",
}


@dataclass(frozen=True)
class Band:
    """A range that is expected of one photo's age, in drawing units. ``chance``: how dark it is drawn, 0 to 1."""

    x: int
    y: int
    width: int
    height: int
    chance: float


@dataclass(frozen=True)
class Course:
    """One measure over the photos, in drawing units: its points with words, the line through them, what is expected behind."""

    name: str
    unit: str
    points: list[tuple[int, int, int, int, str]]
    path: str
    bands: list[Band]
    ticks: list[tuple[int, str]]
    days: list[tuple[int, str]]
    width: int = WIDTH
    height: int = HEIGHT

    @property
    def is_expected(self) -> bool:
        """Does the catalogue say anything of it?"""
        return bool(self.bands)


@dataclass(frozen=True)
class Series:
    """The photos with a strip, oldest first, each with what has plainly changed since the one before; and the courses."""

    rows: list[tuple[Photo, list[str]]]
    overall: list[str]
    courses: list[Course]
    is_one_light: bool


def series_of(catalogue: Catalogue, egg: Egg, genotype: Genotype) -> Series:
    """The series of one animal; ``genotype``: the combination whose course is drawn behind."""
    photos = list(
        Photo.objects.filter(egg=egg, kind=Photo.Kind.BACK, strip_done__gt=0, trouble="")
        .exclude(line={})
        .select_related("egg__clutch", "light_from")
        .order_by("taken_at")
    )
    measured = [measured_from(photo.measures) for photo in photos]
    since = [[], *(_words(changes(before, after)) for before, after in pairwise(measured))]
    overall = _words(changes(measured[0], measured[-1])) if len(photos) > 2 else []
    courses = [_course(catalogue, genotype, photos, measured, name) for name in FOLLOWED] if len(photos) > 1 else []
    return Series(list(zip(photos, since, strict=False)), overall, courses, all(photo.light for photo in photos))


def _words(found: Sequence[Change]) -> list[str]:
    """What is plain, in words, each with its figure."""
    digits = {"white_share": 2}
    return [
        f"{WORDS[one.measure, one.word]} by {abs(one.by):.{digits.get(one.measure, 0)}f} ± {one.sd:.{digits.get(one.measure, 0)}f}"
        for one in found
        if one.word
    ]


def _course(
    catalogue: Catalogue, genotype: Genotype, photos: Sequence[Photo], measured: Sequence[Measured], name: str
) -> Course:
    low, high = RANGES[name]
    values = [followed(one, name) for one in measured]
    high = max(
        [high, *(value.value for value in values if isinstance(value, Value) and isinstance(value.value, float))]
    )
    y = Scale(low, high, HEIGHT - FOOT, TOP, bounded=True)
    step = (WIDTH - LEFT) / len(photos)
    middles = [round(LEFT + (place + 0.5) * step) for place in range(len(photos))]
    points = [_point(photo, value, x, y) for photo, value, x in zip(photos, values, middles, strict=True)]
    seen = [point for point in points if point]
    bands = [
        Band(
            round(LEFT + place * step),
            y(min(one.high, high)),
            round(step),
            y(one.low) - y(min(one.high, high)),
            round(one.chance, 3),
        )
        for place, photo in enumerate(photos)
        for one in course(catalogue, genotype, photo.stage, name)
        if one.chance > 0.02
    ]
    ticks = (
        [(y(value), f"{value:g}") for value in (low, high)]
        if high <= 1
        else [(y(low), f"{low:.0f}"), (y(high), f"{high:.0f}")]
    )
    days = [(x, f"{photo.taken_at:%-d %b}") for x, photo in zip(middles, photos, strict=True)]
    line = path_through([(x, top) for x, top, *_ in seen]) if len(seen) > 1 else ""
    return Course(NAMES[name], UNITS[name], seen, line, bands, ticks, days)


def _point(photo: Photo, value: object, x: int, y: Scale) -> tuple[int, int, int, int, str] | None:
    """Where a value stands, the ends of its spread, and words; None where it can't be had."""
    if not isinstance(value, Value) or not isinstance(value.value, float) or not isinstance(value.sd, float):
        return None
    words = f"{photo.get_stage_display()}: {value.value:.2g} ± {value.sd:.2g}"
    return x, y(value.value), y(value.value + value.sd), y(value.value - value.sd), words
