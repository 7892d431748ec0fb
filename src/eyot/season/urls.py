"""The season's addresses."""

from django.urls import path

from eyot.season.views import egg, practices, record, season

CLUTCH, EGG = "clutches/<slug:code>/", "clutches/<slug:code>/<int:number>/"
urlpatterns = [
    path("", season.season, name="season"),
    path("schools/", practices.practices_page, name="schools"),
    path("season.ics", season.calendar, name="calendar"),
    path(f"{CLUTCH}record/", record.record_page, name="record"),
    path(f"{CLUTCH}record/stamp/", record.stamp, name="record-stamp"),
    path(f"{CLUTCH}record/sire/", record.sire_named, name="name-sire"),
    path(f"{CLUTCH}record/rounds/", record.introduced, name="introduce"),
    path(f"{CLUTCH}record/rounds/<int:number>/", record.round_day, name="round-day"),
    path(f"{CLUTCH}record/events/", record.event, name="pairing-event"),
    path(f"{CLUTCH}record/laid/", record.laid, name="lay"),
    path(f"{CLUTCH}record/place/", record.clutch_place, name="clutch-place"),
    path(f"{CLUTCH}record/signs/", record.sign, name="ready-sign"),
    path(f"{CLUTCH}record/eggs/", record.one_more_egg, name="add-egg"),
    path(f"{CLUTCH}record/all/", record.all_of_them, name="all-at-once"),
    path(f"{CLUTCH}record/close/", record.closed, name="close-clutch"),
    path(f"{CLUTCH}record/log/", record.log_file, name="import-log"),
    path(f"{CLUTCH}record/log/fetch/", record.log_fetched, name="fetch-log"),
    path(f"{EGG}state/", record.state, name="egg-state"),
    path(f"{EGG}record/", egg.egg_page, name="egg-record"),
    path(f"{EGG}record/sex/", egg.sexed, name="sex-egg"),
    path(f"{EGG}record/weights/", egg.weighed, name="weigh-egg"),
    path(f"{EGG}record/scale/", egg.scale, name="scale"),
    path(f"{EGG}record/days/", egg.day, name="egg-day"),
    path(f"{EGG}record/state/", egg.state, name="egg-state-here"),
    path(f"{EGG}place/", egg.egg_place, name="place-egg"),
]
