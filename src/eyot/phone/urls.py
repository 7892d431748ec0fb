"""Addresses of the phone: its page, its certificate, and what a browser fetches by itself."""

from django.urls import path

from eyot.phone import views

urlpatterns = [
    path("phone/", views.phone_page, name="phone"),
    path("phone/certificate/", views.certificate, name="phone-certificate"),
    path("worker.js", views.worker, name="worker"),
    path("manifest.webmanifest", views.manifest, name="manifest"),
    path("offline/", views.offline_page, name="offline"),
]
