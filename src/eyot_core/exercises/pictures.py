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

OF_LOBES = ("lobe_spots", "banding")
OF_A_PATTERN = (
    *(*OF_LOBES, "lobe_attach", "lobe_shape", "lobe_outline", "pattern_order"),
    *("dorsal_tone", "dorsal_width", "dorsal_marks"),
)
HIDDEN_BY: tuple[tuple[dict[str, str], tuple[str, ...]], ...] = (
    ({"lobe_attach": "absent"}, OF_LOBES),
    ({"lobe_shape": "absent"}, (*OF_LOBES, "lobe_attach")),
    ({"pattern_amount": "patternless"}, OF_A_PATTERN),
    *(({"flank_lines": lines}, ("flank_blush",)) for lines in ("pin", "double", "web")),
    *(({"dorsal_stripe": stripe}, ("dorsal_marks",)) for stripe in ("full", "chain")),
    *(({"white_layout": layout}, ("white_share",)) for layout in ("whole", "yellow_marks")),
    ({"pattern_order": "granite"}, ("lobe_spots",)),
    ({"dorsal_tone": "dark"}, ("banding",)),
)
"""By levels of looks, the looks of which nothing is to be seen then: without lobes there are no spots in lobes."""


def shown_in(picture: str, looks: Mapping[str, str]) -> tuple[str, ...]:
    """The looks that a picture shows of an animal with these levels: those that the picture can show, without those that others hide."""
    hidden = {one for levels, below in HIDDEN_BY if levels.items() <= looks.items() for one in below}
    if is_wholly_white(looks):
        hidden |= {*OF_THE_FLANK, *OF_THE_BACK} - {"white_layout", "white_share"}
        hidden |= set({PHOTO: OF_THE_HEAD, STRIP: ("eye_stripe_width",)}.get(picture, ()))
    return tuple(look for look in SHOWN[picture] if look not in hidden)


def is_wholly_white(looks: Mapping[str, str]) -> bool:
    """Does white cover every mark and colour of the body?"""
    return looks["white_layout"] == "whole" or (
        looks["white_share"] == "all" and looks["white_layout"] != "yellow_marks"
    )


def drawn_for(picture: str, looks: Mapping[str, str]) -> dict[str, str]:
    """The looks by which a picture is drawn: behind a head lies a neck, on which nothing is drawn that the head is not asked about but
    whose chance would be told there, so no white patches; an animal that is white all over is so there too."""
    drawn = dict(looks)
    if picture == HEAD and looks["white_share"] != "all" and looks["white_layout"] not in ("whole", "yellow_marks"):
        drawn |= {"white_share": "none", "white_layout": "none", "side_white": "none"}
    return drawn
