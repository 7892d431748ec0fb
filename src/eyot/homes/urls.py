"""The addresses of homes."""

from django.urls import path

from eyot.homes.views import everyone, hatchling, offered, printing, rack, season_report, selling

EGG = "clutches/<slug:code>/<int:number>/home/"
urlpatterns = [
    path("homes/", everyone.homes_page, name="homes"),
    path("homes/decide/", everyone.decided, name="decide"),
    path("homes/today/", everyone.today, name="homes-today"),
    path("homes/rules/", everyone.rules_page, name="selling-rules"),
    path("homes/rack/", rack.rack_page, name="rack"),
    path("homes/rack/fed/", rack.fed, name="feed-rack"),
    path("homes/labels/", printing.labels_page, name="labels"),
    path("homes/labels/print/", printing.labels_printed, name="print-labels"),
    path("homes/labels/sheets/", printing.sheet_added, name="add-sheet"),
    path("homes/list/", selling.list_page, name="list"),
    path("homes/list/csv/", selling.list_csv, name="list-csv"),
    path("homes/list/print/", selling.list_ordered, name="print-list"),
    path("homes/list/<int:number>.pdf", selling.list_pdf, name="list-pdf"),
    path("homes/list/<int:number>/", selling.list_made, name="list-made"),
    path("homes/pages/", selling.page_made, name="make-page"),
    path("homes/pages/<int:number>/withdraw/", selling.page_withdrawn, name="withdraw-page"),
    path("homes/asked/<int:number>/settle/", selling.settled, name="settle-reservation"),
    path(EGG, hatchling.home_page, name="home"),
    path(f"{EGG}fate/", hatchling.decided, name="decide-one"),
    path(f"{EGG}label/", hatchling.labelled, name="write-label"),
    path(f"{EGG}shed/", hatchling.shed, name="note-shed"),
    path(f"{EGG}health/", hatchling.health, name="note-health"),
    path(f"{EGG}out/<int:issued>/", hatchling.dealt, name="old-words"),
    path("season/<int:year>/report/", season_report.report_page, name="report"),
    path("season/<int:year>/report.pdf", season_report.report_pdf, name="report-pdf"),
    path("offer/<str:token>/", offered.offered_page, name="offer"),
    path("offer/<str:token>/<int:number>/", offered.one_page, name="offer-one"),
    path("offer/<str:token>/<int:number>/ask/", offered.asked, name="offer-ask"),
    path("offer/<str:token>/photos/<uuid:photo_id>/<slug:size>.jpg", offered.photo, name="offer-photo"),
]
