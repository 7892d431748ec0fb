"""The bench's addresses."""

from django.urls import path

from eyot.bench.views import beside, blind, closing, clutch, hatchling, invited, queue, relook, scores, tuning, why

urlpatterns = [
    path("clutches/<slug:code>/", clutch.page, name="clutch"),
    path("scores/", scores.page, name="scores"),
    path("clutches/<slug:code>/<int:number>/proof/", scores.proof, name="proof"),
    path("clutches/<slug:code>/<int:number>/blind/", blind.switch, name="switch-blind"),
    path("clutches/<slug:code>/<int:number>/guess/", blind.guess, name="guess-blind"),
    path("clutches/<slug:code>/<int:number>/eyes/", blind.eyes, name="eyes"),
    path("clutches/<slug:code>/<int:number>/eyes/invite/", invited.invited, name="invite"),
    path(
        "clutches/<slug:code>/<int:number>/eyes/<int:invitation_id>/withdraw/",
        invited.withdrawn,
        name="withdraw-invitation",
    ),
    path("eye/<str:token>/", invited.clutch, name="invited"),
    path("eye/<str:token>/<int:number>/", invited.hatchling, name="invited-egg"),
    path("eye/<str:token>/<int:number>/answer/", invited.answer, name="invited-answer"),
    path("eye/<str:token>/photos/<uuid:photo_id>/<slug:size>.jpg", invited.photo, name="invited-photo"),
    path("hear/", queue.hear, name="hear"),
    path("clutches/<slug:code>/<int:number>/next/", queue.following, name="next-open"),
    path("relook/", relook.page, name="relook"),
    path("relook/count/", relook.count, name="relook-count"),
    path("clutches/<slug:code>/closing/", closing.page, name="closing"),
    path("clutches/<slug:code>/closing/take-over/", closing.taken_over, name="take-over"),
    path("clutches/<slug:code>/strangers/", clutch.strangers, name="strangers"),
    path("clutches/<slug:code>/live/", clutch.live, name="clutch-live"),
    path("scores/tuning/", tuning.page, name="tuning"),
    path("scores/tuning/<slug:trait>/", tuning.change, name="tune"),
    path("clutches/<slug:code>/<int:number>/", hatchling.page, name="bench"),
    path("clutches/<slug:code>/<int:number>/why/<slug:gene>/", why.page, name="why"),
    path("clutches/<slug:code>/<int:number>/looks/", hatchling.answer, name="look"),
    path("clutches/<slug:code>/<int:number>/more-looks/", hatchling.more_looks, name="more-looks"),
    path("clutches/<slug:code>/<int:number>/looks/<int:look_id>/withdraw/", hatchling.withdraw, name="withdraw"),
    path("clutches/<slug:code>/<int:number>/beside/", beside.lay, name="beside"),
    path("clutches/<slug:code>/<int:number>/beside/<int:row>/withdraw/", beside.apart, name="take-apart"),
    path("clutches/<slug:code>/<int:number>/calls/", hatchling.call, name="call"),
    path("clutches/<slug:code>/<int:number>/photos/", hatchling.photos, name="add-photos"),
]
