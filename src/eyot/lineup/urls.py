"""The line-up's addresses."""

from django.urls import path

from eyot.lineup import side, views

urlpatterns = [
    path("clutches/<slug:code>/line-up/", views.lineup_page, name="line-up"),
    path("clutches/<slug:code>/line-up/picture.png", views.picture, name="line-up-picture"),
    path("clutches/<slug:code>/line-up/levels/", views.levels, name="line-up-levels"),
    path("clutches/<slug:code>/line-up/progress/", views.progress, name="line-up-progress"),
    path("clutches/<slug:code>/line-up/tick/", views.tick, name="line-up-tick"),
    path("clutches/<slug:code>/<int:number>/series/", views.series_page, name="series"),
    path("side-by-side/", side.drawings_side_by_side, name="side-by-side-of"),
    path("clutches/<slug:code>/<int:number>/side-by-side/", side.side_by_side, name="side-by-side"),
    path("clutches/<slug:code>/<int:number>/side-by-side/looks/", side.answered, name="look-beside"),
    path("drawings/window/<str:key>.png", views.drawn, name="drawn-window"),
]
