"""A photo that was taken this moment is looked at before it is sent in full: is another worth its while?"""

from __future__ import annotations

import numpy as np
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST
from PIL import Image

from eyot_core.photo.picture import NoPicture

from eyot.collection.middleware import CollectionRequest
from eyot.photos.decoding import taken_in
from eyot.photos.faults import in_words
from eyot.photos.processing import seen_in
from eyot.shared.refusal import Refused, refusals_as_text

MOST_SIDE = 1600
"""What is sent to be checked is made small on the device: larger pictures are answered by none."""


@require_POST
@refusals_as_text
def check(request: CollectionRequest) -> HttpResponse:
    """What is wrong with a small copy of a photo, and what would help; 204 where nothing is. Nothing is kept."""
    file = request.FILES.get("photo")
    if file is None or file.file is None:
        raise Refused("No picture came through. Nothing was changed.")
    with taken_in(file.file, file.name or "photo", file.size or 0) as picture:
        if isinstance(picture, NoPicture):
            raise Refused(picture.message)
        if max(picture.width, picture.height) > MOST_SIDE:
            raise Refused(f"Only copies of up to {MOST_SIDE} pixels a side are checked. Nothing was changed.")
        with picture.opened() as jpeg, Image.open(jpeg) as image:
            pixels = np.asarray(image.convert("RGB"))
    faults = in_words(seen_in(pixels, None, line_too=False).looked.faults)
    return render(request, "photos/parts/faults.html", {"faults": faults}) if faults else HttpResponse(status=204)
