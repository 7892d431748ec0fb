"""The reference's addresses."""

from django.urls import path

from eyot.reference.views import drawings, own, pages

urlpatterns = [
    path("reference/", pages.index, name="reference"),
    path("reference/typed/", pages.typed, name="typed"),
    path("reference/compare/", pages.compare, name="compare"),
    path("reference/genes/<slug:gene_id>/", pages.gene, name="gene"),
    path("reference/combinations/<str:key>/", pages.combination, name="combination"),
    path("reference/look-alikes/<str:keys>/", pages.lookalikes, name="lookalikes"),
    path("reference/notes/<slug:note_id>/", pages.note, name="note"),
    path("reference/pin/<uuid:photo_id>/", own.pin, name="pin"),
    path("reference/pins/<int:pin_id>/take-off/", own.unpin, name="unpin"),
    path("reference/opinions/", own.overrides, name="opinions"),
    path("reference/opinions/hold/", own.hold, name="opinion-hold"),
    path("reference/opinions/by-name/", own.hold_by_name, name="own_gene_by_name"),
    path("reference/opinions/<int:opinion_id>/withdraw/", own.withdraw, name="opinion-withdraw"),
    path("reference/opinions.json", own.export, name="opinions-export"),
    path("drawings/strip/<str:key>.svg", drawings.strip, name="strip"),
    path("drawings/plate/<str:key>.svg", drawings.plate, name="plate"),
    path("drawings/at/<slug:place>/<str:key>.svg", drawings.place, name="drawing-place"),
    path("drawings/sibling/<int:number>/<str:key>.svg", drawings.sibling, name="sibling"),
]
