"""An eye for drawn strips: what can be read off their pixels, learnt from drawings of which the levels are known.

A strip is drawn as the pages show it, made to pixels by the browser and unrolled. From its pixels come the product's own measures of a
strip and plain figures of colour, pattern and head; of each look a classifier (gradient boosting over trees) says how likely those figures
are at each level.
"""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image
from playwright.sync_api import Page, sync_playwright
from sklearn.ensemble import HistGradientBoostingClassifier

from eyot_core.catalogue import builtin_catalogue
from eyot_core.colour import lab, linear
from eyot_core.drawing.pattern import LENGTH
from eyot_core.drawing.plate import STRIP_HEIGHT, STRIP_WIDTH, strip, strip_frame
from eyot_core.exercises.pictures import STRIP, shown_in
from eyot_core.photo.measures import Value, measures_of
from eyot_core.photo.strip import COLUMNS, ROWS, V_MOST, Strip

from tests.chromium import FLAGS, PROGRAM

DOWN, HEAD_COLUMNS = 12, 112
HEAD_PLACES = (40, 26)
HEAD_FIGURES = 3 * 40 * 26
BODY_FROM = 0.1
BANDS = ((0.0, 0.14), (0.14, 0.4), (0.4, 0.72), (0.74, 0.86))
LINES = (0.05, 0.12, 0.2, 0.28, 0.36, 0.45, 0.55, 0.65)
OF_THE_HEAD = 60
LEAST = 1e-3
Looks = Mapping[str, str]
Floats = NDArray[np.float64]
Pixels = NDArray[np.uint8]


@contextmanager
def browser_page() -> Iterator[Page]:
    """A page that shows some strips under one another at their own size."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=PROGRAM, chromium_sandbox=False, args=FLAGS)
        yield browser.new_page(viewport={"width": STRIP_WIDTH, "height": STRIP_HEIGHT * DOWN})
        browser.close()


def pixels_of(page: Page, strips: Sequence[str]) -> Iterator[Pixels]:
    """The pixels of drawn strips (rows, columns, 3), each ``STRIP_HEIGHT`` by ``STRIP_WIDTH``, on white."""
    style = f"<style>*{{margin:0}}svg{{display:block;width:{STRIP_WIDTH}px;height:{STRIP_HEIGHT}px}}</style>"
    for first in range(0, len(strips), DOWN):
        part = strips[first : first + DOWN]
        page.set_content(style + "".join(part))
        shown = np.asarray(Image.open(io.BytesIO(page.screenshot())).convert("RGB"))
        for place in range(len(part)):
            yield shown[place * STRIP_HEIGHT : (place + 1) * STRIP_HEIGHT]


def figures(animals: Sequence[tuple[Looks, int]]) -> Floats:
    """What the pixels of drawn strips say in numbers, (strips, figures)."""
    with browser_page() as page:
        drawn = [strip(looks, seed, prefix=f"n{place % DOWN}") for place, (looks, seed) in enumerate(animals)]
        return np.array([_figures(pixels) for pixels in pixels_of(page, drawn)])


@cache
def _unrolled_places() -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Where on the page u and v of a strip lie, spine above, (rows, columns) each."""
    u, v = (np.arange(COLUMNS) + 0.5) / COLUMNS, np.linspace(0.0, 1.0, ROWS)
    uu, vv = np.meshgrid(u, v)
    at = strip_frame().place(np.stack([uu.ravel() * LENGTH, vv.ravel()], axis=1)).astype(np.float32)
    return at[:, 0].reshape(uu.shape), at[:, 1].reshape(uu.shape)


def _figures(pixels: Pixels) -> Floats:
    colours = cv2.remap(pixels, *_unrolled_places(), interpolation=cv2.INTER_LINEAR)
    head = cv2.resize(pixels[:, :HEAD_COLUMNS], HEAD_PLACES, interpolation=cv2.INTER_AREA)
    return np.concatenate([_measured(colours), *_of_the_body(colours), lab(linear(head)).ravel()])


def _measured(colours: Pixels) -> Floats:
    """The product's own measures of a strip; both sides are the drawn one."""
    rows = np.round(np.abs(np.linspace(-V_MOST, V_MOST, ROWS)) * (ROWS - 1)).astype(int)
    light = linear(colours[rows]).astype(np.float32)
    none = np.zeros(light.shape[:2], dtype=bool)
    measured = measures_of(Strip(light, ~none, none, none, True, True, 0.0, 1.0))
    each = [np.atleast_1d(one.value) if isinstance(one, Value) else None for one in measured.values()]
    widths = [3 if name.endswith("_lab") else 1 for name in measured]
    known = [np.zeros(width) if one is None else one for one, width in zip(each, widths, strict=True)]
    return np.concatenate([*known, [float(one is None) for one in each]])


def _of_the_body(colours: Pixels) -> Iterator[Floats]:
    """Colours, contrasts and pattern of the body, band by band from the spine to the belly."""
    body = lab(linear(colours[:, int(BODY_FROM * COLUMNS) :]))
    light = body[..., 0]
    cut = (np.percentile(light[: ROWS // 2], 8) + np.percentile(light[: ROWS // 2], 92)) / 2
    pale, chroma = light > cut, np.hypot(body[..., 1], body[..., 2])
    edges = [
        cv2.Sobel(cv2.GaussianBlur(light, (0, 0), size), cv2.CV_64F, *way)
        for size in (0.8, 2.0, 5.0)
        for way in ((1, 0), (0, 1))
    ]
    specks = [
        cv2.morphologyEx(light, how, np.ones((size, size)))
        for how in (cv2.MORPH_BLACKHAT, cv2.MORPH_TOPHAT)
        for size in (3, 7, 15, 31)
    ]
    for low, high in BANDS:
        rows = slice(int(low * ROWS), int(high * ROWS))
        part = body[rows].reshape(-1, 3)
        yield np.percentile(part, (3, 20, 50, 80, 97), axis=0).ravel()
        yield np.array([np.log(np.abs(edge[rows]).mean() + 0.01) for edge in edges])
        yield np.array(
            [np.log(one[rows].mean() + 0.01) for one in specks]
            + [np.log((one[rows] > 8).mean() + LEAST) for one in specks]
        )
        yield np.array(
            [pale[rows].mean(), (light[rows] > 92).mean(), ((light[rows] > 88) & (chroma[rows] < 12)).mean()]
        )
        for way in (pale[rows], ~pale[rows]):
            yield body[rows][way].mean(axis=0) if way.any() else part.mean(axis=0)
    by_row = light[: int(0.86 * ROWS)]
    yield by_row.mean(axis=1)[::8]
    yield by_row.std(axis=1)[::8]
    for at in LINES:
        row = cv2.GaussianBlur(light, (0, 0), 1.2)[int(at * ROWS)] > cut
        yield np.array([row.mean(), np.log(1.0 + np.abs(np.diff(row.astype(int))).sum())])
    yield from _of_the_marks(pale)
    deep, body_only = cv2.distanceTransform((~pale).astype(np.uint8), cv2.DIST_L2, 5), np.arange(ROWS) < 0.7 * ROWS
    for nearest, furthest in ((1.0, 3.0), (3.0, 6.0), (6.0, 12.0), (12.0, 99.0)):
        ring = (deep > nearest) & (deep <= furthest) & body_only[:, None]
        yield body[ring].mean(axis=0) if ring.any() else np.zeros(3)
    spots = cv2.morphologyEx(light, cv2.MORPH_BLACKHAT, np.ones((31, 31))) > 14
    inner = spots & cv2.erode(
        cv2.morphologyEx(pale.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((25, 25))), np.ones((5, 5))
    ).astype(bool)
    found = _pieces(inner[: int(0.72 * ROWS)])
    yield np.log1p(np.histogram(found[:, 4], (3, 15, 40, 100, 250, 10**6))[0])
    near = cv2.dilate((~pale).astype(np.uint8), np.ones((5, 5))).astype(bool) & pale
    yield body[near].mean(axis=0) - body[pale].mean(axis=0) if near.any() else np.zeros(3)


def _of_the_marks(pale: NDArray[np.bool_]) -> Iterator[Floats]:
    """How many lobes and dark holes there are, how large, where they end, and what lies along the spine."""
    flank = pale[: int(0.72 * ROWS)]
    holes = _pieces(~flank, within=True)
    yield np.log1p(np.histogram(holes[:, 4], (0, 12, 40, 120, 400, 10**6))[0])
    yield _spread(holes[:, 4]) if len(holes) else np.zeros(3)
    lobes = _pieces(flank[int(0.06 * ROWS) :])
    lobes = lobes[lobes[:, 4] > 60]
    low, high = lobes[:, 1] + lobes[:, 3] >= flank.shape[0] - int(0.06 * ROWS), lobes[:, 1] == 0
    yield np.array(
        [
            np.log1p(len(lobes)),
            np.log1p(low.sum()),
            np.log1p(high.sum()),
            np.log1p((~low).sum()),
            np.log1p((~high).sum()),
        ]
    )
    for place in range(5):
        yield _spread(lobes[:, place]) if len(lobes) else np.zeros(3)
    spine = pale[2:7].mean(axis=0) > 0.5
    yield np.concatenate([_runs(spine), _runs(~spine), _runs(pale[int(0.38 * ROWS)]), _runs(~pale[int(0.38 * ROWS)])])
    below = np.where(pale.all(axis=0), ROWS, np.argmin(pale, axis=0))[spine]
    yield _spread(below) if len(below) else np.zeros(3)


def _pieces(mask: NDArray[np.bool_], *, within: bool = False) -> Floats:
    """The connected pieces of a mask: left, top, width, height, area; ``within``: those only that touch neither its top nor its foot."""
    _, _, pieces, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8))
    found = np.asarray(pieces[1:], dtype=np.float64)
    return found[(found[:, 1] > 0) & (found[:, 1] + found[:, 3] < mask.shape[0])] if within else found


def _spread(values: Floats) -> Floats:
    return np.log1p(np.percentile(values, (20, 50, 80)))


def _runs(row: NDArray[np.bool_]) -> Floats:
    """How many runs of True there are in a row, how much of it they are, and how long the usual and the longest is."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], row.astype(int), [0]]))).reshape(-1, 2)
    lengths = np.diff(edges, axis=1).ravel()
    return np.array(
        [
            np.log1p(len(lengths)),
            row.mean(),
            np.log1p(np.median(lengths)) if len(lengths) else 0.0,
            np.log1p(lengths.max(initial=0)),
        ]
    )


@dataclass(frozen=True)
class Eye:
    """Reads every look of a strip off its pixels. ``parts``: (parts, head's figures), what heads differ in most; ``readers``: of each look,
    and ``among``: how often each of its levels was among what was learnt from."""

    head: Floats
    parts: Floats
    readers: Mapping[str, HistGradientBoostingClassifier]
    among: Mapping[str, Floats]

    @staticmethod
    def learnt(looks: Sequence[str], animals: Sequence[Looks], told: Floats) -> Eye:
        """From the figures of drawn strips, (strips, figures), and what each shows."""
        head = told[:, -HEAD_FIGURES:]
        _, _, parts = np.linalg.svd(head - head.mean(axis=0), full_matrices=False)
        eye = Eye(head.mean(axis=0), parts[:OF_THE_HEAD], {}, {})
        seen, traits, shown = eye.seen(told), builtin_catalogue().traits, [shown_in(STRIP, one) for one in animals]
        readers, among = {}, {}
        for look in looks:
            rows = [
                place for place, one in enumerate(shown) if look in one
            ]  # of what others hide there is nothing to learn
            own = np.array([traits[look].level_index[animals[place][look]] for place in rows])
            readers[look] = _reader(seen[rows], own)
            among[look] = np.bincount(own, minlength=len(traits[look].levels)) / len(own)
        return Eye(eye.head, eye.parts, readers, among)

    def seen(self, told: Floats) -> Floats:
        """Figures as this eye weighs them: of heads what they differ in."""
        return np.concatenate([told[:, :-HEAD_FIGURES], (told[:, -HEAD_FIGURES:] - self.head) @ self.parts.T], axis=1)

    def likelihoods(self, told: Floats) -> dict[str, Floats]:
        """By look how likely the figures of strips are at each of its levels, (strips, levels), up to a factor."""
        seen, every = self.seen(told), {}
        for look, reader in self.readers.items():
            chances = np.full((len(told), len(self.among[look])), LEAST)
            chances[:, reader.classes_] = np.maximum(reader.predict_proba(seen), LEAST)
            every[look] = chances / np.maximum(self.among[look], LEAST)
        return every


def _reader(seen: Floats, which: NDArray[np.intp]) -> HistGradientBoostingClassifier:
    """Stops learning where a part that is kept apart is read no better."""
    reader = HistGradientBoostingClassifier(
        learning_rate=0.06,
        max_leaf_nodes=8,
        min_samples_leaf=25,
        max_iter=200,
        early_stopping=True,
        validation_fraction=0.15,
        n_iter_no_change=8,
        max_features=0.3,
        random_state=1,
    )
    return reader.fit(seen, which)
