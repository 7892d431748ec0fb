"""Photos' addresses."""

from django.urls import path

from eyot.photos.views import cards, checking, marking, serving, strip

urlpatterns = [
    path("cards/", cards.cards_page, name="cards"),
    path("cards/plain.pdf", cards.plain_sheet, name="cards-plain"),
    path("cards/grey/", cards.set_grey, name="set-printed-grey"),
    path("clutches/<slug:code>/cards.pdf", cards.cards_sheet, name="cards-sheet"),
    path("photos/check/", checking.check, name="photo-check"),
    path("photos/<uuid:photo_id>/", strip.strip_page, name="strip-page"),
    path("photos/<uuid:photo_id>/ready/", strip.ready, name="photo-ready"),
    path("photos/<uuid:photo_id>/preview/", strip.preview, name="strip-preview"),
    path("photos/<uuid:photo_id>/light/", marking.light, name="photo-light"),
    path("photos/<uuid:photo_id>/line/", marking.line, name="photo-line"),
    path("photos/<uuid:photo_id>/line/right/", marking.line_right, name="photo-line-right"),
    path("photos/<uuid:photo_id>/whose/", marking.whose, name="photo-whose"),
    path("photos/<uuid:photo_id>/brush/", marking.brush, name="photo-brush"),
    path("photos/<uuid:photo_id>/kind/", marking.kind, name="photo-kind"),
    path("photos/<uuid:photo_id>/away/", marking.away, name="photo-away"),
    path("photos/<uuid:photo_id>/again/", marking.again, name="photo-again"),
    path("photos/<uuid:photo_id>/at/<slug:place>-<int:version>.jpg", serving.place_file, name="photo-place"),
    path("photos/<uuid:photo_id>/<slug:size>.jpg", serving.photo_file, name="photo"),
    path("photos/<uuid:photo_id>/<slug:size>.png", serving.strip_file, name="photo-strip"),
]
