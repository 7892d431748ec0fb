"""The same photo gives the same numbers: light, outline, strip, measures and suggestions of kept photos, place by place.

The photos are kept as files, so that a change of the drawings they came from changes nothing here. Where these numbers change, measures
made before are no longer comparable with new ones: count up ``RECKONING`` and write the numbers anew with ``EYOT_REWRITE=1``.
"""

from __future__ import annotations

import json
import os
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any
from unittest import TestCase

import numpy as np
from PIL import Image

from eyot_core.colour import linear, to_srgb
from eyot_core.drawing.camera import photographed
from eyot_core.photo.answer import measured_document, outline_document
from eyot_core.photo.brush import Stroke, painted
from eyot_core.photo.frame import framed
from eyot_core.photo.light import PATCHES, Light, in_light, light_at, light_in, light_of_chart, spoilt
from eyot_core.photo.measures import RECKONING, measures_of
from eyot_core.photo.outline import Outline, outline_of
from eyot_core.photo.spine import Line, line_from, spine_of
from eyot_core.photo.strip import preview_of, strip_of
from eyot_core.photo.suggest import against_siblings, suggestions

from tests.core.photographs import case, looks_of

FOLDER = Path(__file__).parent / "reckoning"
REWRITE = "EYOT_REWRITE"
WIDTH, HEIGHT = 640, 480
PHOTOS = {
    "loose": (8, "loose", "shed"),
    "patterned": (3, "loose", "shed"),
    "coil": (12, "coil", "shed"),
    "crossing": (10, "crossing", "shed"),
    "egg": (3, "egg", "egg"),
    "blue": (11, "loose", "blue"),
    "crossing_again": (13, "crossing", "shed"),
    "white_in_the_egg": (210, "egg", "egg"),
    "burnt": (5, "loose", "shed"),
}
CORNERS = np.array([(60.0, 60.0), (360.0, 60.0), (360.0, 240.0), (60.0, 240.0)])


@dataclass(frozen=True)
class Kept:
    """A kept photo with what a keeper marked in it."""

    pixels: np.ndarray
    line: list[list[float]]
    start: float
    end: float
    card: tuple[float, float, float, float]


@cache
def kept(name: str) -> Kept:
    marks = json.loads((FOLDER / f"{name}.json").read_text())["marked"]
    pixels = np.asarray(Image.open(FOLDER / f"{name}.jpg").convert("RGB"))
    return Kept(pixels, marks["line"], marks["start"], marks["end"], tuple(marks["card"]))


def rewritten(name: str) -> None:
    """Draws the photo and keeps it with its marks."""
    number, shot, stage = PHOTOS[name]
    one = case(number, shot, stage, WIDTH)
    pixels = np.clip(one.taken.pixels * 1.7, 0, 255).astype(np.uint8) if name == "burnt" else one.taken.pixels
    Image.fromarray(pixels).save(FOLDER / f"{name}.jpg", quality=90, subsampling=0)
    marks = {
        "line": one.line.points.round(1).tolist(),
        "start": one.line.start,
        "end": one.line.end,
        "card": one.taken.card,
    }
    (FOLDER / f"{name}.json").write_text(json.dumps({"marked": marks}))


def reckoned(name: str) -> dict[str, Any]:
    """Everything that is made of a kept photo, thinned out: light, spine, outline, strip, preview, measures, suggestions."""
    one = kept(name)
    height, width = one.pixels.shape[:2]
    line = line_from(np.array(one.line), width, height, one.start, one.end)
    light = light_in(one.pixels, one.card, "grey card", 0.18)
    assert isinstance(line, Line), line
    assert isinstance(light, Light), light
    strokes = [Stroke(False, 6.0, np.array(one.line[2:4])), Stroke(True, 3.0, np.array(one.line[5:6]))]
    brushed = painted(strokes, (height // 2, width // 2), 0.5)
    found, corrected = strip_of(one.pixels, line, light), outline_of(one.pixels, line, brushed)
    assert isinstance(found, tuple), found
    assert isinstance(corrected, Outline), corrected
    strip, outline = found
    measured = measures_of(strip)
    spine = spine_of(line)
    return {
        "light": {"gains": light.gains, "place": light.place},
        "spine": {
            "places": spine.places[::60],
            "tangents": spine.tangents[::60],
            "length": spine.length,
            "widths": spine.half_widths[::60],
        },
        "brush": [int((brushed == value).sum()) for value in (-1, 0, 1)],
        "outline": {
            "polygon": outline_document(outline)[::6],
            "sure": outline.sure[::30],
            "brushed": corrected.half_widths[::30],
        },
        "mask": int(outline.mask((height, width)).sum()),
        "strip": {
            "light": strip.light[8::24, 15::60],
            "rows": {name: getattr(strip, name).mean(axis=1)[::8] for name in ("seen", "clipped", "dark", "counted")},
            "columns": {
                name: getattr(strip, name).mean(axis=0).reshape(-1, 40).mean(axis=1)
                for name in ("seen", "clipped", "dark", "counted")
            },
            "picture": strip.picture()[8::40, 15::100] / 255,
            "spoilt": strip.spoilt_picture().sum(axis=(0, 1)) / 255,
        },
        "preview": preview_of(one.pixels, line)[8::40, 15::100] / 255,
        "measures": measured_document(measured),
        "unlit": measured_document(measures_of(strip_of(one.pixels, line)[0])),  # type: ignore[index]
        "suggested": [[s.trait, s.level, s.measure, s.clear] for s in suggestions(measured)],
    }


def plain(value: Any) -> Any:
    """A value as JSON has it, numbers with four digits behind the point."""
    if isinstance(value, dict):
        return {key: plain(entry) for key, entry in value.items()}
    if isinstance(value, (list, tuple, np.ndarray)):
        return [plain(entry) for entry in value]
    return (
        round(float(value), 4)
        if isinstance(value, (float, np.floating))
        else value
        if isinstance(value, str | None)
        else int(value)
    )


class Reckoning(TestCase):
    takes_long = True

    def same(self, wanted: Any, found: Any, at: str) -> None:
        """Numbers within three hundredths of themselves or of one: what decoders and processors differ by; everything else exactly."""
        if isinstance(wanted, dict):
            self.assertEqual(wanted.keys(), found.keys(), at)
            for key, entry in wanted.items():
                self.same(entry, found[key], f"{at}.{key}")
        elif isinstance(wanted, list):
            self.assertEqual(len(wanted), len(found), at)
            for number, (one, other) in enumerate(zip(wanted, found, strict=True)):
                self.same(one, other, f"{at}[{number}]")
        elif isinstance(wanted, str | None):
            self.assertEqual(wanted, found, at)
        else:
            self.assertAlmostEqual(wanted, found, delta=0.03 * max(1.0, abs(wanted)), msg=at)

    def test_kept_photos_give_the_numbers_that_they_gave(self) -> None:
        for name in PHOTOS:
            if os.environ.get(REWRITE):
                rewritten(name)
                kept.cache_clear()
            path = FOLDER / f"{name}.json"
            stored, found = json.loads(path.read_text()), plain(reckoned(name))
            if os.environ.get(REWRITE):
                path.write_text(json.dumps(stored | {"reckoning": RECKONING, "found": found}) + "\n")
                continue
            with self.subTest(name):
                self.assertEqual(stored["reckoning"], RECKONING, "write the numbers anew with EYOT_REWRITE=1")
                self.same(stored["found"], found, name)

    def test_cards_charts_and_frames_give_the_numbers_that_they_gave(self) -> None:
        """A chart of known patches under a cast, a card tapped at two places, and crops of heads and bellies."""
        path = FOLDER / "other.json"
        found = plain(others())
        if os.environ.get(REWRITE):
            path.write_text(json.dumps(found) + "\n")
            return
        self.same(json.loads(path.read_text()), found, "other")


def others() -> dict[str, Any]:
    """What is made of pictures that are drawn here, and of words about siblings."""
    one = kept("loose")
    height, width = one.pixels.shape[:2]
    x, y = (one.card[0] + one.card[2]) / 2, (one.card[1] + one.card[3]) / 2
    tapped = [light_at(one.pixels, x / width, y / height, card) for card in ("grey card", "white paper")]
    paper = light_at(one.pixels, 0.02, 0.02, "white paper")
    chart = chart_photo()
    by_chart = light_of_chart(chart, CORNERS)
    head = photographed(looks_of(3), 5, "head", width=320, height=240).pixels
    crops = [
        framed(head, ends, kind)
        for ends, kind in (([(40, 120), (260, 110)], "head"), ([(20, 30), (300, 200)], "belly"))
    ]
    burnt, black = spoilt(one.pixels)
    beside = [
        (50.0, [40, 45, 48], 0.0),
        (50.0, [40, 60], 1.0),
        (50.0, [51, 52, 60], 2.0),
        (50.0, [], 1.0),
        (30.0, [40, 60], 0.5),
    ]
    return {
        "tapped": [light.gains if isinstance(light, Light) else light.reason for light in (*tapped, paper)],
        "chart": [by_chart.gains, by_chart.mix] if isinstance(by_chart, Light) else by_chart.reason,
        "by_chart": in_light(chart, by_chart)[60::60, 60::60] / 255 if isinstance(by_chart, Light) else None,
        "lit": in_light(one.pixels, tapped[0])[30::90, 30::90] / 255 if isinstance(tapped[0], Light) else None,
        "crops": [crop.mean(axis=(0, 1)) if isinstance(crop, np.ndarray) else crop.reason for crop in crops],
        "crop_shapes": [crop.shape[:2] if isinstance(crop, np.ndarray) else None for crop in crops],
        "spoilt": [int(burnt.sum()), int(black.sum())],
        "beside": [against_siblings("lightness", value, siblings, sd) for value, siblings, sd in beside],
    }


def chart_photo() -> np.ndarray:
    """The usual chart as a flat photo under a cast that mixes the channels; its patches are 60 pixels wide."""
    cast = linear(PATCHES) * [0.7, 0.6, 0.45] + 0.05 * linear(PATCHES)[..., ::-1]
    photo = np.full((300, 420, 3), 40, dtype=np.uint8)
    photo[30:270, 30:390] = to_srgb(cast).repeat(60, axis=0).repeat(60, axis=1)
    return photo
