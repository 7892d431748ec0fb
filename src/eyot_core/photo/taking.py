"""A process that does nothing but decode: ``python -m eyot_core.photo.taking``. It may be ended at any moment.

One line of JSON a file on standard input: ``{"path", "name", "size", "out"}``. One line back: the upright picture lies at ``out`` as a
JPEG, ``{"width", "height", "taken_at", "camera"}``; or ``{"message"}`` says why there is none. Decoders of broken or hostile files take
what memory and time they like, so memory is bounded here, and time by whoever waits for the answer.
"""

from __future__ import annotations

import json
import os
import resource
import sys
from typing import Any

from eyot_core.photo.picture import NoPicture, picture_from

MOST_MEMORY = 1_600_000_000
"""Bytes of addresses; a picture of the most pixels that are taken needs some 1,100,000,000."""


def answer(asked: dict[str, Any]) -> dict[str, Any]:
    """Takes in one file."""
    try:
        with open(asked["path"], "rb") as file:
            picture = picture_from(file, asked["name"], asked["size"])
        if isinstance(picture, NoPicture):
            return {"message": picture.message}
        with open(asked["out"], "wb") as out, picture.opened() as jpeg:
            out.write(jpeg.read())
    except MemoryError:
        return {
            "message": f"{asked['name']} takes more memory to read than a photo does. Save it anew and add it again."
        }
    taken = picture.taken_at.isoformat() if picture.taken_at else None
    return {"width": picture.width, "height": picture.height, "taken_at": taken, "camera": picture.camera}


BEHIND = 10
"""How far a picture stands behind the pages that are asked for meanwhile."""


def main() -> None:
    """Answers until its input ends."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    os.nice(BEHIND)
    for line in sys.stdin:
        print(json.dumps(answer(json.loads(line))), flush=True)


if __name__ == "__main__":
    main()
