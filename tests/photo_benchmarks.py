"""Times and accuracy of strips and measures, printed as the tables of docs/photos.md and docs/benchmarks.md.

Accuracy is that on simulated photos under lamps that the correction doesn't know (``tests/core/photographs.py``), over
animals, papers, casts and exposures that follow from a number. Run by ``bin/eyot bench``.
"""

from __future__ import annotations

import io
import statistics
import time
import warnings
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import cv2
import numpy as np
from PIL import Image
from scipy.spatial import cKDTree

from eyot_core.drawing.camera import BLUE_PAPER, WHITE_PAPER, photographed
from eyot_core.photo.belly import belly_suggestions
from eyot_core.photo.card import find_cards
from eyot_core.photo.find import find_animal
from eyot_core.photo.measures import Measured, Value, measures_of
from eyot_core.photo.outline import NoOutline, Outline
from eyot_core.photo.shows import shown_in
from eyot_core.photo.sight import Sight
from eyot_core.photo.spine import line_from, spine_of
from eyot_core.photo.strip import Strip, preview_of, strip_of

from tests.core.cards import at_random, photographed_cards
from tests.core.photographs import Case, case, looks_of, true_strip, windows_at_random
from tests.core.second_camera import GROUNDS, counted_lobes
from tests.core.second_camera import KINDS as KINDS_OF_SECOND
from tests.core.second_camera import belly as belly_by_second
from tests.core.second_camera import shot as shot_by_second
from tests.core.test_find import off

ROUNDS = 7
SEEDS, MOST_OFF, MOST_FROM_SNOUT, SURE = 24, 0.3, 6.0, 0.9
"""Photos of each row; the mean distance in girths, and that of its beginning from the snout in half-widths, from which a line
counts as wrong; the confidence from which it is sure."""
ANIMALS_FOUND = (("patterned", (0, 3, 4, 5, 6, 7)), ("pied", (2,)), ("all white", (1,)))
CARDS, SHOWN_EACH, LOBED_EACH = 100, 16, 8
BELLIES_FROM, BELLIES_EACH = 12, 12
"""By the seeds below the limits were set."""
BELLIES: tuple[tuple[str, str, dict[str, str]], ...] = (
    ("belly_marks", "none", {}),
    ("belly_marks", "normal", {"belly_edge": "plain"}),
    ("belly_marks", "tracks", {"belly_edge": "plain"}),
    ("belly_marks", "checkered", {"belly_edge": "jagged"}),
    ("belly_marks", "flecked", {"belly_edge": "plain"}),
    ("belly_color", "white", {}),
    ("belly_color", "yellow", {}),
    ("belly_color", "dark", {}),
    ("belly_color", "clear", {}),
    ("ringer", "none", {}),
    ("ringer", "partial", {}),
)
KINDS = (
    ("loose, shed", "loose", "shed", 32),
    ("loose, in the blue", "loose", "blue", 12),
    ("coiled", "coil", "shed", 12),
    ("one coil over another", "crossing", "shed", 12),
    ("in the cut egg", "egg", "egg", 12),
)


def milliseconds(work: Callable[[], Any]) -> float:
    """The median time of some work."""
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) * 1000)
    return statistics.median(times)


def times() -> None:
    """Strip, measures and preview of a photo of 12 megapixels, beside the plain decode of the same file."""
    one = case(3, width=4000)
    held = io.BytesIO()
    Image.fromarray(one.taken.pixels).save(held, "JPEG", quality=92)
    data = held.getvalue()
    small = np.asarray(cv2.resize(one.taken.pixels, (1100, 825), interpolation=cv2.INTER_AREA), dtype=np.uint8)
    line = one.line.scaled(1100 / 4000)
    made = strip_of(one.taken.pixels, one.line, one.light)
    assert isinstance(made, tuple)

    def previewed() -> None:
        Image.fromarray(preview_of(small, line)).save(io.BytesIO(), "WEBP", quality=80, method=0)

    print("| work on a photo of 12 megapixels | wanted | measured |\n|---|---|---|")
    for name, wanted, work in (
        ("plain decode of the file", "", lambda: np.asarray(Image.open(io.BytesIO(data)))),
        (
            "strip in full: outline, spline, unrolling, light",
            "1 s",
            lambda: strip_of(one.taken.pixels, one.line, one.light),
        ),
        ("all measures of a strip", "", lambda: measures_of(made[0])),
        ("quick strip while drawing, coded", "100 ms", previewed),
    ):
        print(f"| {name} | {wanted} | {milliseconds(work):.0f} ms |")


def accuracy() -> None:
    """Mean absolute errors by kind of photo, the overlap of outlines, and how often the order of two animals is right."""
    print("\n| photos | n | white share | dark share | L* | a* | b* | lobes a body | outline ≥ 0.93 |")
    print("|---|---|---|---|---|---|---|---|---|")
    ordered: list[tuple[float, float]] = []
    for name, shot, stage, count in KINDS:
        rows, overlaps = [], []
        for number in range(200, 200 + count):
            one = case(number, shot, stage)
            found = strip_of(one.taken.pixels, one.line, one.light)
            assert not isinstance(found, NoOutline), found
            measured = measures_of(found[0])
            skin = true_strip(looks_of(number, stage), number, stage, one.taken.start, one.taken.end)
            rows.append(_errors(one, measured, skin))
            overlaps.append(_overlap(one, found[1]))
            if shot == "loose" and stage == "shed":
                ordered.append((float(one.truth[..., 0].mean()), _number(measured, "lightness")))
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of a column that holds no number
            mean = np.nanmean(np.array(rows), axis=0)
        # In the egg the mask holds all of the animal that shows, not the stretch of the line alone: no overlap to tell.
        share = "" if shot == "egg" else f"{np.mean(np.array(overlaps) >= 0.93):.0%}"
        print(
            f"| {name} | {count} | {mean[0]:.3f} | {mean[1]:.3f} | "
            + " | ".join(f"{error:.1f}" if error == error else "not counted" for error in mean[2:])
            + f" | {share} |"
        )
    pairs = [
        (first[0] - second[0]) * (first[1] - second[1]) > 0
        for first, second in combinations(ordered, 2)
        if abs(first[0] - second[0]) >= 3
    ]
    print(
        f"\nOrder of two loose animals that differ by 3 L* or more: right in {np.mean(pairs):.1%} of {len(pairs)} pairs."
    )


@dataclass(frozen=True)
class Line:
    """A line that was found. ``away``: its mean distance from the true middle, in girths; ``turned``: does it begin at the tail."""

    away: float
    turned: bool
    confidence: float

    @property
    def is_wrong(self) -> bool:
        """Is it turned round, or somewhere else?"""
        return self.turned or self.away > MOST_OFF


def finding() -> None:
    """Lines that are found without a hand, by renderer, animal and ground: how many, how many wrongly, how far off."""
    print(
        "\n| loose animals | n | found | of these wrong | sure, of these wrong | distance, girths |\n|---|---|---|---|---|---|"
    )
    for name, numbers in ANIMALS_FOUND:
        for ground, paper in (("white paper", WHITE_PAPER), ("blue paper", BLUE_PAPER)):
            rows = [_found(number, seed, paper) for number in numbers for seed in range(SEEDS // len(numbers))]
            _tell_found(f"{name}, {ground}", rows)
    for ground in GROUNDS:
        for name, kinds in (("patterned", KINDS_OF_SECOND[:3]), ("pied", ("pied",)), ("all white", ("white",))):
            rows = [_found_by_second(kind, ground, seed) for kind in kinds for seed in range(SEEDS // len(kinds))]
            _tell_found(f"second renderer: {name}, {ground} paper", rows)


def lobes() -> None:
    """Lobes a body in photos of the second renderer, against the same count on the skin itself."""
    print("\n| lobes, second renderer | n | counted | mean error | mean absolute error |\n|---|---|---|---|---|")
    for name, numbers in (("normal, pastel, banana", (0, 3, 7)), ("spider, clown, pinstripe", (4, 5, 6))):
        off = np.array([np.subtract(*counted_lobes(number, seed)) for number in numbers for seed in range(LOBED_EACH)])
        counted = np.isfinite(off).sum()
        print(f"| {name} | {len(off)} | {counted} | {np.nanmean(off):.1f} | {np.nanmean(np.abs(off)):.1f} |")


def bellies() -> None:
    """What photos of bellies by the second renderer suggest, by look and level as drawn."""
    print("\n| bellies, second renderer | n | suggested so | otherwise, with a question mark | otherwise | nothing |")
    print("|---|---|---|---|---|---|")
    for trait, level, more in BELLIES:
        told: Counter[str] = Counter()
        for seed in range(BELLIES_FROM, BELLIES_FROM + BELLIES_EACH):
            made = belly_suggestions(belly_by_second(seed, **{trait: level}, **more))
            one = next((one for one in made if one.trait == trait), None)
            is_so = one is not None and one.level == level
            told["nothing" if one is None else "so" if is_so else "surely" if one.clear else "perhaps"] += 1
        counts = " | ".join(str(told[name]) for name in ("so", "perhaps", "surely", "nothing"))
        print(f"| {trait}: {level} | {BELLIES_EACH} | {counts} |")


def _tell_found(name: str, rows: list[Line | None]) -> None:
    lines = [row for row in rows if row]
    sure = [line for line in lines if line.confidence >= SURE]
    wrong, surely_wrong = (sum(line.is_wrong for line in some) for some in (lines, sure))
    away = np.mean([line.away for line in lines if not line.is_wrong])
    print(f"| {name} | {len(rows)} | {len(lines)} | {wrong} | {len(sure)}, {surely_wrong} | {away:.3f} |")


def _found(number: int, seed: int, paper: tuple[int, int, int]) -> Line | None:
    lamp = windows_at_random(np.random.default_rng([9, number, seed]))
    taken = photographed(looks_of(number), 100 * seed + number, "loose", lamp=lamp, paper=paper, width=1000, height=750)
    found = find_animal(Sight.of(taken.pixels))
    if found.points is None:
        return None
    away, snout = off(found, taken)
    return Line(away / 2, snout > MOST_FROM_SNOUT, found.confidence)


def _found_by_second(kind: str, ground: str, seed: int) -> Line | None:
    taken = shot_by_second(kind, ground, seed)
    found = find_animal(Sight.of(taken.pixels))
    if found.points is None:
        return None
    drawn = spine_of(line_from(found.points, *taken.pixels.shape[1::-1])).places  # type: ignore[arg-type]
    away = max(cKDTree(taken.line).query(drawn)[0].mean(), cKDTree(drawn).query(taken.line)[0].mean())
    first, last = (float(np.hypot(*(drawn[0] - end))) for end in taken.line[[0, -1]])
    return Line(float(away) / taken.girth, first > last, found.confidence)


def cards() -> None:
    """Cards that lie anyhow, down to 60 mm at 1,000 pixels: found, read, and how well they tell the scale."""
    print("\n| cards | n | found | read | scale off, on the average | at most |\n|---|---|---|---|---|---|")
    for name, low, high in (("flat to 10°", 0.0, 10.0), ("10 to 25°", 10.0, 25.0), ("25 to 35°", 25.0, 35.0)):
        off_by, read = [], 0
        for number in range(CARDS):
            random = np.random.default_rng([6, number])
            laid = at_random(number, slant=float(random.uniform(low, high)))
            seen = find_cards(photographed_cards(laid, seed=number)).cards
            if len(seen) == 1:
                off_by.append(abs(seen[0].mm_per_pixel / laid.mm_per_pixel - 1))
                read += seen[0].id == laid.number
        print(f"| {name} | {CARDS} | {len(off_by)} | {read} | {np.mean(off_by):.1%} | {max(off_by):.1%} |")


def shown() -> None:
    """What photos are proposed to show, by pose."""
    poses = ("loose", "coil", "crossing", "belly", "head", "egg")
    print(
        "\n| pose | n | "
        + " | ".join(("from above", "belly", "head", "egg", "nothing"))
        + " |\n|---|---|---|---|---|---|---|"
    )
    for pose in poses:
        told: Counter[str] = Counter()
        for number in range(SHOWN_EACH):
            lamp = windows_at_random(np.random.default_rng([5, number]))
            paper = WHITE_PAPER if number % 2 else BLUE_PAPER
            pixels = photographed(looks_of(number), number, pose, lamp=lamp, paper=paper, width=640, height=480).pixels
            sight = Sight.of(pixels)
            told[shown_in(sight, find_animal(sight)).kind] += 1
        print(
            f"| {pose} | {SHOWN_EACH} | "
            + " | ".join(str(told[kind]) for kind in ("back", "belly", "head", "egg", ""))
            + " |"
        )


def _number(measured: Measured, name: str) -> float:
    found = measured[name]
    return float(found.value) if isinstance(found, Value) and isinstance(found.value, float) else float("nan")


def _errors(one: Case, measured: Measured, skin: Strip) -> list[float]:
    """Absolute errors of white share, dark share, L*, a*, b* and lobes; lobes against the same count on the skin itself."""
    truth, mean = one.truth, measured["mean_lab"]
    white = float(((truth[..., 0] > 76) & (np.hypot(truth[..., 1], truth[..., 2]) < 13)).mean())
    colours = np.array(mean.value) if isinstance(mean, Value) else np.full(3, np.nan)
    return [
        abs(_number(measured, "white_share") - white),
        abs(_number(measured, "dark_share") - float((truth[..., 0] < 36).mean())),
        *np.abs(colours - truth.mean(axis=(0, 1))),
        abs(_number(measured, "lobes_per_length") - _number(measures_of(skin), "lobes_per_length")),
    ]


def _overlap(one: Case, outline: Outline) -> float:
    mask = outline.mask(one.taken.body.shape)
    return float((mask & one.taken.body).sum() / (mask | one.taken.body).sum())


if __name__ == "__main__":
    times()
    accuracy()
    lobes()
    bellies()
    finding()
    cards()
    shown()
