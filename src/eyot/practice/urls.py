"""The addresses of practice."""

from django.urls import path

from eyot.practice.views import drills, evenings, eye, home, names, races

urlpatterns = [
    path("practice/", home.practice_page, name="practice"),
    path("practice/name/", names.begin, name="practice-name"),
    path("practice/own/", names.begin_own, name="practice-own"),
    path("practice/<int:number>/", names.exercise_page, name="exercise"),
    path("practice/<int:number>/answer/", names.answer, name="exercise-answer"),
    path("practice/<int:number>/picture/", names.picture, name="exercise-picture"),
    path("practice/<int:number>/otherwise/<slug:gene>/<slug:place>/", names.otherwise, name="exercise-otherwise"),
    path("practice/look/", drills.begin_look, name="practice-look"),
    path("practice/<int:number>/read/", drills.read, name="exercise-read"),
    path("practice/pairs/", drills.begin_pair, name="practice-pair"),
    path("practice/<int:number>/choose/", drills.choose, name="exercise-choose"),
    path("practice/eye/", eye.eye_page, name="own-eye"),
    path("practice/eye/wished/", eye.wished, name="practice-wished"),
    path("practice/today/", eye.today, name="practice-today"),
    path("practice/eye/word/<slug:word>/", eye.change_word, name="word-use"),
    path("practice/eye/<slug:look>/<slug:stage>/", eye.change, name="eye-use"),
    path("practice/evening/", evenings.evening_page, name="evening"),
    path("practice/evening/begin/", evenings.begin, name="practice-evening"),
    path("practice/evening/shed/", evenings.shed, name="evening-shed"),
    path("practice/evening/shown/", evenings.shown, name="evening-shown"),
    path("practice/race/", races.begin, name="practice-race"),
    path("practice/race/<int:number>/", races.race_page, name="race"),
    path("practice/race/<int:number>/next/", races.following, name="race-next"),
]
