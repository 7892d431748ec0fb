"""What a strip says in numbers: each measure with its uncertainty, or the reason why it can't be had.

Counted between 9 % and 93 % of the body length and over |v| < 0.36, where that shows, in CIELAB under D65. ``sd`` is what
the same animal in another photo would scatter by: what light and shading leave (from simulated photos under lamps that the
correction doesn't know) joined with what the two halves of the strip differ by.

Source: shares and means over the window; the bounds of white and dark (L*, chroma) and the
uncertainties are ours, tried in docs/photos.md.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
import scipy
import skimage

from eyot_core.body import GIRTHS
from eyot_core.colour import lab
from eyot_core.photo.outline import Mask
from eyot_core.photo.spine import Floats
from eyot_core.photo.strip import V_MEASURED, Strip

RECKONING = 6
"""The version of outline, strip and measures together: counted up whenever the same photo would give other numbers, so that what was
made by an earlier reckoning is made anew and stays comparable."""
U_FROM, U_TO, V_TO = 0.09, 0.93, V_MEASURED
WHITE_L, WHITE_CHROMA, DARK_L = 76.0, 13.0, 36.0
FLANK, CREST, HEAD = (0.20, 0.36), 0.055, (0.012, 0.055)
LOBE_SMOOTHED, LOBE_RISES = 8.0, 0.16
"""By how many columns the lightness of a flank is smoothed, and by what share of its range a lobe rises over both its neighbours: as many
as are drawn, and as many by a camera that blurs as on the skin itself."""
LEAST_SHOWN = 0.05
LEAST_COUNTED = 0.25
LEAST_PATTERN = 0.2
LEAST_CONTRAST = 14.0
LEAST_CHROMA = 4.0
LIGHT_SD = np.array([2.5, 0.8, 1.2])
UNLIT_SD = np.array([9.0, 3.5, 5.0])
SPECK = (2e-5, 4e-4)
FRECKLE = 0.0055
"""Area of the largest freckle, in half-girths squared."""
EYE = 0.04
"""Up to which area, in half-girths squared, a dark piece that stands by itself is an eye of a lobe."""
NO_GROUND = 1.6
LEAST_ACROSS, HIDDEN_DIFFERS = 0.15, 0.6
"""What share of the breadth must show for a place to count; how far a share of what is hidden is from that of what shows beside it, in
standard deviations of a single place."""


@dataclass(frozen=True)
class Value:
    """A measure's value and standard deviation, in its unit; three numbers each for a colour."""

    value: float | tuple[float, ...]
    sd: float | tuple[float, ...]


@dataclass(frozen=True)
class Missing:
    """Why a measure can't be had; falsy."""

    reason: str

    def __bool__(self) -> bool:
        return False


@dataclass(frozen=True)
class Measure:
    """A measure's plain name, its unit, and what is counted, in a keeper's words."""

    id: str
    name: str
    unit: str
    counted: str


MEASURES = (
    Measure("white_share", "white", "share of the back", "pure white skin: L* over 76 with chroma under 13"),
    Measure("dark_share", "dark", "share of the back", "dark skin: L* under 36"),
    Measure("lightness", "lightness", "L*", "mean lightness of back and upper flanks, 0 black to 100 white"),
    Measure("chroma", "chroma", "C*", "how far the mean colour is from grey"),
    Measure("hue", "hue", "degrees", "hue angle of the mean colour: 0 red, 90 yellow"),
    Measure("contrast", "contrast", "L*", "the light parts' lightness less the dark parts'"),
    Measure(
        "flank_dark_share",
        "dark between lobes",
        "share of the flanks",
        "dark pattern on the upper flanks, where lobes lie, without the eyes in them",
    ),
    Measure("lobes_per_length", "lobes", "a body length", "lighter marks along the upper flank, mean of both sides"),
    Measure(
        "floating_share",
        "closed marks",
        "share of marks",
        "light marks that end within what is seen from above; whether lobes float is to be seen from the side",
    ),
    Measure(
        "stripe_continuity", "back stripe", "share of the back", "how much of the spine is lighter than the ground"
    ),
    Measure("head_lightness", "head against body", "L*", "the head's lightness less the body's"),
    Measure("symmetry", "symmetry", "correlation", "how alike left and right are: 1 mirrored, 0 unrelated"),
    Measure("freckle_count", "freckles", "a body length", "small dark specks inside the light parts"),
    Measure("mean_lab", "mean colour", "L* a* b*", "mean colour of back and upper flanks"),
    Measure("ground_lab", "ground colour", "L* a* b*", "mean colour of the dark pattern"),
    Measure("lobe_lab", "lobe colour", "L* a* b*", "mean colour of the light pattern"),
)
Measured = dict[str, Value | Missing]


@dataclass(frozen=True)
class _Back:
    """The part of a strip that is counted, cut out: lab (rows, columns, 3), what shows and what may be measured."""

    strip: Strip
    lab: Floats
    seen: Mask
    counted: Mask
    u: Floats
    v: Floats

    @cached_property
    def smooth(self) -> Floats:
        """L* lightly smoothed, (rows, columns)."""
        return np.asarray(scipy.ndimage.gaussian_filter(self.lab[..., 0], (1.5, 2.0)))

    @cached_property
    def contrast(self) -> float:
        """92nd less 8th percentile of the smoothed L*."""
        low, high = np.percentile(self.smooth[self.seen], (8, 92))
        return float(high - low)

    @cached_property
    def threshold(self) -> float:
        """The L* that parts light from dark best (least variance within both; Otsu 1979)."""
        return float(skimage.filters.threshold_otsu(self.smooth[self.seen], nbins=64))  # type: ignore[no-untyped-call]

    @property
    def cell(self) -> float:
        """How large one place of the strip is, in half-girths squared."""
        return float(GIRTHS / self.strip.seen.shape[1] * (self.v[1] - self.v[0]))

    @cached_property
    def shown(self) -> float:
        """The share of the body length whose pattern shows."""
        return float((self.seen.mean(axis=0) > 0.5).sum() / self.strip.seen.shape[1])

    @cached_property
    def base_sd(self) -> Floats:
        """What light and shading leave, in L*, a*, b*."""
        even = 1.0 if self.strip.on_ground else NO_GROUND
        lost = 1 - float(self.counted.sum() / max(1, self.seen.sum()))
        return np.asarray((LIGHT_SD if self.strip.corrected else UNLIT_SD) * (1 + 3 * lost) * even)

    def halves(self, values: Floats) -> float:
        """What the two halves of the body differ by in the mean of values (rows, columns), as a standard error."""
        at = self.seen.shape[1] // 2
        means = [values[:, part][self.seen[:, part]] for part in (slice(None, at), slice(at, None))]
        return abs(float(means[0].mean() - means[1].mean())) / 4 if all(len(part) > 50 for part in means) else 0.0


def measures_of(strip: Strip) -> Measured:
    """Every measure of a strip by its id; what can't be had says why."""
    rows, columns = np.abs(strip.v) < V_TO, (strip.u > U_FROM) & (strip.u < U_TO)
    box = np.ix_(rows, columns)
    colours = lab(strip.light)
    back = _Back(strip, colours[box], strip.seen[box], strip.counted[box], strip.u[columns], strip.v[rows])
    if (reason := _unfit(back)) is not None:
        return {measure.id: Missing(reason) for measure in MEASURES}
    measured: Measured = {**_shares(back), **_colours(back), **_pattern(back)}
    measured["head_lightness"] = _head(strip, colours, back)
    return {measure.id: measured[measure.id] for measure in MEASURES}


def _unfit(back: _Back) -> str | None:
    if back.seen.mean() < LEAST_SHOWN:
        return "back not visible"
    lost = back.seen & ~back.counted
    if float(back.strip.light[back.strip.seen].max()) < 1e-3:
        return "the photo is black"
    if (
        back.seen & back.strip.dark[np.ix_(np.abs(back.strip.v) < V_TO, _columns(back.strip))]
    ).sum() > 0.9 * back.seen.sum():
        return "too dark to be measured"
    if lost.sum() > (1 - LEAST_COUNTED) * back.seen.sum() and float(back.lab[..., 0][back.seen].mean()) < WHITE_L:
        return "too much of the body is burnt out or black in the photo"
    return None


def _columns(strip: Strip) -> Mask:
    return np.asarray((strip.u > U_FROM) & (strip.u < U_TO))


def _shares(back: _Back) -> Measured:
    """White and dark, each place along the body counting the same, so that a flank that is hidden on a stretch does not favour the rest;
    their uncertainty is what a shift of L* by the light's own uncertainty changes, and what the hidden part may have."""
    lightness, chroma = back.lab[..., 0], np.hypot(back.lab[..., 1], back.lab[..., 2])
    shown = back.seen.sum(axis=0)
    along = shown > LEAST_ACROSS * shown.max()
    hidden = 1 - float(shown[along].mean()) / len(back.seen)

    def share(has: Mask) -> float:
        return float(((has & back.seen).sum(axis=0)[along] / shown[along]).mean())

    def white(shift: float) -> float:
        return share((lightness + shift > WHITE_L) & (chroma < WHITE_CHROMA))

    def dark(shift: float) -> float:
        return share(lightness + shift < DARK_L)

    by = float(back.base_sd[0])
    measured: Measured = {}
    for name, of in (("white_share", white), ("dark_share", dark)):
        value, spread = of(0), abs(of(by) - of(-by)) / 2
        unseen = HIDDEN_DIFFERS * hidden * (value * (1 - value)) ** 0.5
        measured[name] = Value(value, float(np.hypot(np.hypot(spread, unseen), 0.012)))
    return measured


def _colours(back: _Back) -> Measured:
    mean = back.lab[back.seen].mean(axis=0)
    sd = np.hypot(back.base_sd, [back.halves(back.lab[..., channel]) for channel in range(3)])
    chroma = float(np.hypot(mean[1], mean[2]))
    measured: Measured = {
        "mean_lab": _three(mean, sd),
        "lightness": Value(float(mean[0]), float(sd[0])),
        "chroma": Value(chroma, float(np.hypot(sd[1], sd[2]) / np.sqrt(2))),
        "hue": Value(
            float(np.degrees(np.arctan2(mean[2], mean[1])) % 360), float(np.degrees(np.hypot(sd[1], sd[2]) / chroma))
        )
        if chroma >= LEAST_CHROMA
        else Missing("too grey to have a hue"),
        "contrast": Value(back.contrast, float(np.hypot(0.08 * back.contrast, back.base_sd[0]))),
    }
    if back.contrast < LEAST_CONTRAST:
        flat = Missing("too little contrast to tell ground from lobes")
        return {**measured, "ground_lab": flat, "lobe_lab": flat}
    light = back.smooth > back.threshold
    for name, part in (("ground_lab", ~light & back.seen), ("lobe_lab", light & back.seen)):
        measured[name] = _three(back.lab[part].mean(axis=0), back.base_sd * 1.2)
    return measured


def _three(value: Floats, sd: Floats) -> Value:
    return Value(tuple(float(number) for number in value), tuple(float(number) for number in sd))


def _pattern(back: _Back) -> Measured:
    ids = ("flank_dark_share", "lobes_per_length", "floating_share", "stripe_continuity", "symmetry", "freckle_count")
    if back.contrast < LEAST_CONTRAST:
        return {name: Missing("too little contrast to see a pattern") for name in ids}
    if back.shown < LEAST_PATTERN:
        return {name: Missing("too little of the body shows to count its pattern") for name in ids}
    light = (back.smooth > back.threshold) & back.seen
    return {
        "flank_dark_share": _between_lobes(back, light),
        "lobes_per_length": _lobes(back),
        "floating_share": _floating(back, light),
        "stripe_continuity": _stripe(back),
        "symmetry": _symmetry(back),
        "freckle_count": _freckles(back),
    }


def _between_lobes(back: _Back, light: Mask) -> Value | Missing:
    """How much of the flanks, where lobes lie, is dark pattern; uncertain by what the two flanks and both halves of the body differ by.
    The eyes of lobes are no part of it, so that their number does not tell."""
    marks, _ = scipy.ndimage.label(~light & back.seen)
    is_eye = np.bincount(marks.ravel()) * back.cell < EYE
    is_eye[0] = False
    light = light | is_eye[marks]
    rows = (np.abs(back.v) > FLANK[0]) & (np.abs(back.v) < FLANK[1])
    by_side = [
        float((~light & back.seen)[rows & side].sum() / back.seen[rows & side].sum())
        for side in (back.v < 0, back.v > 0)
        if back.seen[rows & side].mean() > LEAST_SHOWN
    ]
    if not by_side:
        return Missing("flanks not visible")
    spread = abs(by_side[0] - by_side[-1]) / 2
    return Value(float(np.mean(by_side)), float(np.hypot(0.02, spread)))


def _lobes(back: _Back) -> Value | Missing:
    counts, shown, plain = [], [], []
    for side in (-1, 1):
        rows = (side * back.v > FLANK[0]) & (side * back.v < FLANK[1])
        lengths = back.seen[rows].mean(axis=0) > 0.5
        if lengths.mean() < LEAST_SHOWN:
            continue
        mean = _mean_along(back.lab[rows][..., 0], back.seen[rows])
        course = scipy.ndimage.gaussian_filter1d(mean, LOBE_SMOOTHED)[lengths]
        low, high = np.percentile(course, (5, 95))
        plain.append(high - low < LEAST_CONTRAST / 2)
        peaks, _ = scipy.signal.find_peaks([low, *course, low], prominence=LOBE_RISES * (high - low))
        counts.append(len(peaks))
        shown.append(lengths.sum() / back.strip.seen.shape[1])
    if not counts:
        return Missing("flanks not visible")
    if all(plain):
        return Missing("too little contrast on the flanks to count lobes")
    each = [count / share for count, share in zip(counts, shown, strict=True)]
    spread = abs(each[0] - each[-1]) / 2
    return Value(float(np.mean(each)), float(np.hypot(1.2, spread / np.sqrt(len(each)))))


def _mean_along(values: Floats, seen: Mask) -> Floats:
    return np.asarray((values * seen).sum(axis=0) / np.maximum(seen.sum(axis=0), 1))


def _floating(back: _Back, light: Mask) -> Value | Missing:
    """Lobes whose foot stays above the edge of the window, of all lobes on the flanks."""
    marks, count = scipy.ndimage.label(light & (np.abs(back.v) > 0.06)[:, None])
    closed = whole = 0
    for number in range(1, count + 1):
        rows, columns = np.nonzero(marks == number)
        if len(rows) < 0.0006 * light.size or columns.min() == 0 or columns.max() == light.shape[1] - 1:
            continue
        whole += 1
        lowest = np.abs(back.v[rows]).max()
        closed += int(lowest < V_TO - 0.012)
    if whole < 4:
        return Missing("too few lobes to tell")
    share = closed / whole
    return Value(float(share), float(np.hypot(0.08, np.sqrt(share * (1 - share) / whole))))


def _stripe(back: _Back) -> Value | Missing:
    rows = np.abs(back.v) < CREST
    shown = back.seen[rows].mean(axis=0) > 0.5
    if shown.mean() < LEAST_SHOWN:
        return Missing("back not visible")
    course = scipy.ndimage.gaussian_filter1d(_mean_along(back.lab[rows][..., 0], back.seen[rows]), 3.0)[shown]
    share = float((course > back.threshold).mean())
    near = float((np.abs(course - back.threshold) < back.base_sd[0]).mean())
    return Value(share, float(np.hypot(0.04, near / 2)))


def _symmetry(back: _Back) -> Value | Missing:
    half = back.smooth.shape[0] // 2
    left, right = back.smooth[:half][::-1], back.smooth[-half:]
    both = back.seen[:half][::-1] & back.seen[-half:]
    if both.mean() < LEAST_SHOWN:
        return Missing("only one side visible")
    course = [part - scipy.ndimage.gaussian_filter1d(part.mean(axis=1), 1)[:, None] for part in (left, right)]
    correlation = float(np.corrcoef(course[0][both], course[1][both])[0, 1])
    return Value(correlation, 0.08)


def _freckles(back: _Back) -> Value | Missing:
    """Small dark specks surrounded by light skin, that are no part of the dark pattern nor an eye of a lobe."""
    lightness = back.lab[..., 0]
    closed = cv2.morphologyEx(lightness.astype(np.float32), cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8))
    wide = cv2.morphologyEx(back.smooth.astype(np.float32), cv2.MORPH_CLOSE, np.ones((21, 21), np.uint8))
    depth = np.maximum(10.0, 0.35 * (wide - DARK_L / 2))
    speck = (closed - lightness > depth) & (closed > back.threshold) & back.seen
    marks, count = scipy.ndimage.label(speck)
    sizes = np.bincount(marks.ravel())[1:] if count else np.zeros(0)
    area = sizes / (back.strip.seen.shape[1] * back.strip.seen.shape[0])
    pieces, _ = scipy.ndimage.label((lightness < back.threshold) & back.seen)
    is_pattern = np.bincount(pieces.ravel()) * back.cell > FRECKLE
    is_pattern[0] = False
    is_pattern[np.setdiff1d(pieces[[0, -1]], 0)] = True  # what is cut by the window may be larger
    of_pattern = np.bincount(marks.ravel(), is_pattern[pieces].ravel())[1:] > 0
    number = int(((area > SPECK[0]) & (area < SPECK[1]) & ~of_pattern).sum())
    return Value(number / back.shown, float(np.hypot(0.4 * number, 3) / back.shown))


def _head(strip: Strip, colours: Floats, back: _Back) -> Value | Missing:
    box = np.ix_(np.abs(strip.v) < 0.25, (strip.u > HEAD[0]) & (strip.u < HEAD[1]))
    seen = strip.seen[box]
    if seen.mean() < 0.5:
        return Missing("head not visible")
    difference = colours[box][..., 0][seen].mean() - back.lab[..., 0][back.seen].mean()
    return Value(float(difference), float(back.base_sd[0] * 1.6))
