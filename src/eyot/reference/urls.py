"""The reference's addresses."""

from django.urls import path

from eyot.reference.views import drawings, pages

urlpatterns = [
    path("reference/", pages.index, name="reference"),
    path("reference/typed/", pages.typed, name="typed"),
    path("reference/compare/", pages.compare, name="compare"),
    path("reference/genes/<slug:gene_id>/", pages.gene, name="gene"),
    path("reference/combinations/<str:key>/", pages.combination, name="combination"),
    path("reference/look-alikes/<str:keys>/", pages.lookalikes, name="lookalikes"),
    path("reference/notes/<slug:note_id>/", pages.note, name="note"),
    path("drawings/strip/<str:key>.svg", drawings.strip, name="strip"),
]
