"""Settings of the tests: quick hashing, plain static files, and a runner that counts."""

from eyot.config.settings import *  # noqa: F403
from eyot.config.settings import DATABASES, LOGGING, STORAGES

DATABASES["default"]["CONN_MAX_AGE"] = 0
DATABASES["default"]["OPTIONS"]["connect_timeout"] = 30  # a crowded machine is no database that is away
DATABASES["default"]["TEST"] = {"MIGRATE": False}  # the runner says how the tables come
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {**STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
WHITENOISE_AUTOREFRESH = True
TEST_RUNNER = "tests.runner.CountingRunner"
AXES_ENABLED = False
# Refusals are what the tests provoke, and servers that are only coming up, and browsers that leave in the middle of an answer.
silent_below = {
    "axes": "ERROR",
    "django.request": "CRITICAL",
    "django.server": "ERROR",
    "urllib3": "ERROR",
    "werkzeug": "ERROR",
}
LOGGING = {**LOGGING, "loggers": {name: {"level": level} for name, level in silent_below.items()}}
