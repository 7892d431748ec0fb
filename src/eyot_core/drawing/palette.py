"""Colours of a skin from its looks. sRGB tables, given out as linear light."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from eyot_core.colour import linear
from eyot_core.drawing.noise import Floats

LOBE = {
    "tan": (196, 150, 88),
    "yellow": (226, 188, 84),
    "orange": (222, 142, 66),
    "brown": (150, 98, 58),
    "grey": (168, 164, 158),
    "pale": (230, 214, 180),
}
GROUND = {
    "black": (34, 27, 24),
    "jet": (16, 14, 15),
    "faded": (92, 66, 46),
    "frosted": (96, 86, 78),
    "purple": (150, 118, 140),
    "absent": (248, 238, 222),
}
HUE = {
    "yellow": (1.06, 1.01, 0.8),
    "orange": (1.12, 0.9, 0.68),
    "grey": (0.84, 0.94, 1.2),
    "purple": (1.0, 0.88, 1.08),
    "white_cream": (1.2, 1.2, 1.2),
}
CREAM = 0.55
"""How much of its colour a body keeps that is called white or cream."""
BACK = {"narrow": 0.13, "normal": 0.2, "wide": 0.28}
"""How far from the spine, in v, the field of the back reaches that may have a tone of its own."""
LIGHTNESS = {"normal": 1.0, "darker": 0.72, "very_dark": 0.42, "lighter": 1.25, "very_light": 1.55}
CHROMA = {"full": 1.0, "muted": 0.55, "stripped": 0.05}
ON_THE_BELLY = 0.5
"""How much of the body's hue the belly has: a body of another hue is told from lobes of another tone by it."""
WHITE = (246, 243, 236)
BELLY = {"white": (238, 232, 220), "yellow": (232, 206, 130), "dark": (150, 138, 128), "clear": (246, 244, 240)}
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


@dataclass(frozen=True)
class Palette:
    """The colours of one skin, linear light, shape (3,) each."""

    lobe: Floats
    lobe_low: Floats
    rim: Floats
    flame: Floats
    ground: Floats
    fill: Floats
    belly: Floats
    white: Floats


def palette_for(looks: Mapping[str, str], stage: str = "shed") -> Palette:
    """The colours that these levels ask for at a stage."""
    plain = _plain_palette(looks)
    return Palette(**{name: aged(colour, stage) for name, colour in vars(plain).items()})


def tone_of_back(looks: Mapping[str, str], palette: Palette) -> tuple[float, Floats, float] | None:
    """Of a back with a tone of its own: how far from the spine it reaches in v, the colour that lies over it, and how densely, 0 to 1."""
    over = {"dark": (0.25 * palette.ground, 0.6), "light": (palette.rim, 0.45)}.get(looks["dorsal_tone"])
    return (BACK[looks["dorsal_width"]], *over) if over and looks["pattern_amount"] != "patternless" else None


def aged(colours: Floats, stage: str) -> Floats:
    """What the stage does to colours, (…, 3): wet is deeper, blue is milky and dull, old is browner."""
    grey = colours @ LUMINANCE
    grey = grey[..., np.newaxis]
    if stage == "blue":
        return np.asarray(0.62 * (grey + 0.4 * (colours - grey)) + np.array([0.085, 0.092, 0.1]))
    if stage in ("egg", "wet"):
        return np.asarray((grey + 0.75 * (colours - grey)) * np.array([0.86, 0.8, 0.82]))
    if stage == "adult":
        return np.asarray((grey + 0.85 * (colours - grey)) * np.array([0.95, 0.92, 0.88]))
    return colours


def _greyed(colour: Floats, chroma: float) -> Floats:
    grey = float(colour @ LUMINANCE)
    return np.asarray(grey + (colour - grey) * chroma)


def _plain_palette(looks: Mapping[str, str]) -> Palette:
    lightness = LIGHTNESS[looks["lightness"]]
    hue = np.array(HUE.get(looks["body_hue"], (1.0, 1.0, 1.0)))
    chroma = CHROMA[looks["yellow_kept"]] * (CREAM if looks["body_hue"] == "white_cream" else 1.0)

    def tuned(colour: Floats, gain: float) -> Floats:
        grey = float(colour @ LUMINANCE)
        return np.asarray(np.clip((grey + (colour * hue - grey) * chroma) * gain, 0, 0.95))

    lobe, ground = linear(LOBE[looks["lobe_tone"]]), linear(GROUND[looks["dark_pigment"]])
    if looks["body_hue"] in ("yellow", "orange") and looks["lobe_tone"] == "tan":
        lobe = 0.4 * lobe + 0.6 * linear(LOBE[looks["body_hue"]])
    if looks["contrast"] == "low":
        ground = ground + 0.25 * (lobe - ground)
    pale = linear((236, 214, 164))
    if looks["contrast"] == "high":
        lobe, ground = lobe + 0.3 * (pale - lobe), 0.45 * ground
    gain = lightness**0.5 if lightness > 1 else lightness
    return Palette(
        lobe=tuned(lobe, gain),
        lobe_low=tuned(lobe + 0.45 * (pale - lobe), gain),
        rim=tuned(lobe + 0.65 * (pale - lobe), gain),
        flame=tuned(lobe + 0.95 * (pale - lobe), gain),
        ground=np.asarray(np.clip(ground * min(lightness, 1.6), 0, 0.95)),
        fill=tuned(ground + 0.5 * (lobe - ground), gain),
        belly=_greyed(np.clip(linear(BELLY[looks["belly_color"]]) * hue**ON_THE_BELLY, 0, 0.95), chroma),
        white=linear(WHITE),
    )
