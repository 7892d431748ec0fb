"""Animals' addresses."""

from django.urls import path

from eyot.animals.views import files, holdbacks, individuals, pages

urlpatterns = [
    path("animals/", pages.animals, name="animals"),
    path("animals/new/", pages.enter, name="enter-animal"),
    path("animals/line/", pages.line, name="line"),
    path("animals/paste/", files.paste_page, name="paste-animals"),
    path("animals/import/", files.import_page, name="import-animals"),
    path("animals/export/", files.export, name="export-animals"),
    path("animals/<int:number>/", pages.animal, name="animal"),
    path("animals/<int:number>/edit/", pages.edit, name="edit-animal"),
    path("animals/<int:number>/archive/", pages.put_aside, name="archive-animal"),
    path("animals/<int:number>/delete/", pages.remove, name="delete-animal"),
    path("animals/<int:number>/weights/", pages.add_weight, name="weigh-animal"),
    path("animals/<int:number>/photos/", individuals.photos, name="animal-photos"),
    path("animals/<int:number>/parents/", individuals.parents, name="name-parents"),
    path("animals/<int:number>/table/", individuals.to_table, name="to-table"),
    path("animals/<int:number>/same-as/", individuals.same_as, name="same-as"),
    path("clutches/<slug:code>/<int:number>/hold-back/", holdbacks.held_back, name="hold-back"),
    path("history/", pages.history_page, name="history"),
    path("history/<int:number>/take-back/", pages.undo, name="take-back"),
]
