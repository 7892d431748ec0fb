"""All addresses; each app names its own."""

from django.urls import include, path

urlpatterns = [
    path("", include("eyot.shared.urls")),
    path("", include("eyot.collection.urls")),
    path("", include("eyot.accounts.urls")),
    path("", include("eyot.animals.urls")),
    path("", include("eyot.pairing.urls")),
    path("", include("eyot.cutting.urls")),
    path("", include("eyot.season.urls")),
    path("", include("eyot.photos.urls")),
    path("", include("eyot.lineup.urls")),
    path("", include("eyot.capture.urls")),
    path("", include("eyot.inbox.urls")),
    path("", include("eyot.bench.urls")),
    path("", include("eyot.hets.urls")),
    path("", include("eyot.homes.urls")),
    path("", include("eyot.papers.urls")),
    path("", include("eyot.projects.urls")),
    path("", include("eyot.practice.urls")),
    path("", include("eyot.reference.urls")),
    path("", include("eyot.safekeeping.urls")),
    path("", include("eyot.phone.urls")),
]
handler500 = "eyot.shared.views.something_broke"
handler404 = "eyot.shared.views.not_here"
