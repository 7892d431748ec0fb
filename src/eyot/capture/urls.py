"""The capture page's addresses."""

from django.urls import path

from eyot.capture import views

urlpatterns = [
    path("clutches/<slug:code>/capture/", views.capture_page, name="capture"),
    path("clutches/<slug:code>/capture/<int:number>/arrivals/", views.arrivals, name="arrivals"),
    path("clutches/<slug:code>/capture/<int:number>/shoot/", views.shoot, name="shoot"),
]
