"""Times and accuracy of strips and measures, printed as the tables of docs/photos.md and docs/benchmarks.md.

Accuracy is that on simulated photos under lamps that the correction doesn't know (``tests/core/photographs.py``), over
animals, papers, casts and exposures that follow from a number. Run by ``bin/eyot bench``.
"""

from __future__ import annotations

import io
import statistics
import time
import warnings
from collections.abc import Callable
from itertools import combinations
from typing import Any

import cv2
import numpy as np
from PIL import Image

from eyot_core.photo.measures import Measured, Value, measures_of
from eyot_core.photo.outline import NoOutline, Outline
from eyot_core.photo.strip import Strip, preview_of, strip_of

from tests.core.photographs import Case, case, looks_of, true_strip

ROUNDS = 7
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
