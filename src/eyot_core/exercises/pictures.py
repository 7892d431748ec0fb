"""What each kind of picture shows of an animal: the looks that can be read off it."""

from __future__ import annotations

from collections.abc import Mapping

STRIP, HEAD, BELLY, PHOTO = "strip", "head", "belly", "photo"
OF_THE_FLANK = (
    *("lobe_attach", "lobe_shape", "lobe_spots", "lobe_outline", "lobe_tone", "flank_lines", "flank_blush"),
    *("flank_flames", "side_white", "ground_speckle", "pattern_amount", "pattern_order", "body_hue", "yellow_kept"),
    *("dark_pigment", "lightness", "contrast", "white_share", "white_layout", "freckles"),
)
OF_THE_BACK = ("banding", "dorsal_stripe", "dorsal_tone", "dorsal_width", "dorsal_marks")
OF_THE_COLOURS = ("body_hue", "yellow_kept", "dark_pigment", "lobe_tone", "lightness", "contrast")
"""Looks that head and neck show as well as the body."""
OF_THE_HEAD = (
    *("head_stamp", "head_shape_mark", "head_lightness", "head_hue", "head_blush", "eye_color", "eye_form"),
    *("eye_stripe_width", "eye_stripe_edge", "lip_color", "snout_spots", "neck_blush", "neck_pattern"),
)
BESIDE_THE_HEAD = ("eye_color", "eye_stripe_width", "eye_stripe_edge", "lip_color", "head_hue", "head_lightness")
OF_THE_BELLY = ("belly_color", "belly_edge", "belly_marks", "ringer")
SHOWN = {
    STRIP: (*OF_THE_FLANK, *OF_THE_BACK, *BESIDE_THE_HEAD),
    HEAD: (*OF_THE_HEAD, *OF_THE_COLOURS),
    BELLY: OF_THE_BELLY,
    PHOTO: (
        *OF_THE_FLANK,
        *OF_THE_BACK,
        "head_stamp",
        "head_shape_mark",
        "head_lightness",
        "head_hue",
        "eye_stripe_width",
    ),
}
"""By picture, the looks that it shows. Drawings leave out what they cannot show (forms of the body, missing scales, wobble); a photo from
above shows neither lips nor belly."""


def drawn_for(picture: str, looks: Mapping[str, str]) -> dict[str, str]:
    """The looks by which a picture is drawn: behind a head lies a neck, on which nothing is drawn that the head is not asked about but
    whose chance would be told there, so no white patches; an animal that is white all over is so there too."""
    drawn = dict(looks)
    if picture == HEAD and looks["white_share"] != "all" and looks["white_layout"] not in ("whole", "yellow_marks"):
        drawn |= {"white_share": "none", "white_layout": "none", "side_white": "none"}
    return drawn
