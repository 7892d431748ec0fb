"""The inbox's addresses."""

from django.urls import path

from eyot.inbox import views

urlpatterns = [
    path("inbox/", views.inbox_page, name="inbox"),
    path("inbox/arrivals/", views.arrivals, name="inbox-arrivals"),
    path("inbox/add/", views.add, name="inbox-add"),
    path("inbox/end/", views.ended, name="inbox-end"),
    path("inbox/file/", views.file, name="inbox-file"),
    path("inbox/back/", views.back, name="inbox-back"),
    path("inbox/out/", views.out, name="inbox-out"),
    path("inbox/again/", views.again, name="inbox-again"),
    path("inbox/<uuid:photo_id>/<slug:size>.jpg", views.picture, name="inbox-photo"),
]
