"""Addresses of the cutting."""

from django.urls import path

from eyot.cutting import views

EGG = "clutches/<slug:code>/<int:number>/cut/"
urlpatterns = [
    path("clutches/<slug:code>/cutting/", views.cutting, name="cutting"),
    path("clutches/<slug:code>/sheet/", views.sheet, name="cutting-sheet"),
    path(f"{EGG}state/", views.state, name="cut-state"),
    path(f"{EGG}look/", views.look, name="cut-look"),
    path(f"{EGG}photo/", views.photo, name="cut-photo"),
    path(f"{EGG}guess/", views.guess, name="cut-guess"),
]
