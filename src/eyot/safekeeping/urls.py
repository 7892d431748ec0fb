"""Addresses of what is kept safe, taken away, read in and removed."""

from django.urls import path

from eyot.safekeeping import views

urlpatterns = [
    path("keeping/", views.keeping_page, name="keeping"),
    path("keeping/take-away/", views.taken_away, name="take-away"),
    path("keeping/read-in/", views.read_in, name="read-in"),
    path("keeping/remove/", views.removal_asked, name="remove-collection"),
    path("keeping/keep/", views.kept_after_all, name="keep-collection"),
]
