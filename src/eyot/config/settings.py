"""Settings, all from the environment; what contradicts itself is refused at start."""

import gc
from pathlib import Path

import environ
from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

from eyot.config.stores import photo_store

gc.set_threshold(50_000, 20, 20)  # as often as is usual, it takes a sixth of each start and of each page

env = environ.Env(
    EYOT_DATA=str,
    EYOT_DATABASE=str,
    EYOT_SECRET_KEY=str,
    EYOT_HOSTS=(list, ["127.0.0.1", "localhost", "[::1]"]),
    EYOT_TLS=(bool, False),
    EYOT_HSTS_DAYS=(int, 365),
    EYOT_PHONE=(list, []),
    EYOT_PROXY=(bool, False),
    EYOT_TIME_ZONE=(str, "Europe/London"),
    EYOT_PHOTOS=(str, ""),
    EYOT_ARRIVING=(str, ""),
    EYOT_CLAIM_CODE=(str, ""),
    EYOT_BACKUPS=(str, "in the data folder"),
    EYOT_LOG=(str, "text"),
    EYOT_MAIL=(str, "none"),
    EYOT_MAIL_FROM=(str, "eyot@localhost"),
    EYOT_MOST_IMPORTED_GB=(float, 50.0),
)
"""Every setting that comes from outside; docs/settings.md tells each."""
DATA = Path(env("EYOT_DATA"))
if env("EYOT_LOG") not in ("text", "json"):
    raise ImproperlyConfigured(f"EYOT_LOG is text or json, not {env('EYOT_LOG')}")

SECRET_KEY = env("EYOT_SECRET_KEY")
DEBUG = False
ALLOWED_HOSTS = env("EYOT_HOSTS")
SERVED_BY_TLS = env("EYOT_TLS")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.messages",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "django.forms",
    "axes",
    "csp",
    "django_htmx",
    "procrastinate.contrib.django",
    "eyot.shared",
    "eyot.collection",
    "eyot.accounts",
    "eyot.season",
    "eyot.photos",
    "eyot.bench",
    "eyot.animals",
    "eyot.pairing",
    "eyot.cutting",
    "eyot.hets",
    "eyot.homes",
    "eyot.papers",
    "eyot.projects",
    "eyot.practice",
    "eyot.reference",
    "eyot.lineup",
    "eyot.demo",
    "eyot.capture",
    "eyot.inbox",
    "eyot.safekeeping",
    "eyot.phone",
    "allauth",  # after ours, whose templates come first
    "allauth.account",
    "allauth.mfa",
    "allauth.usersessions",
]
MIDDLEWARE = [
    "eyot.shared.logs.NumberedRequests",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "eyot.collection.middleware.InCollection",
    "eyot.shared.bounds.Bounded",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "eyot.collection.middleware.MembersOnly",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
ROOT_URLCONF = "eyot.config.urls"
MESSAGE_STORAGE = "django.contrib.messages.storage.session.SessionStorage"
FORM_RENDERER = "eyot.shared.forms.Renderer"
WSGI_APPLICATION = "eyot.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": ["eyot.shared.templatetags.days"],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.messages.context_processors.messages",
                "eyot.shared.context.site_context",
            ],
        },
    }
]
DATABASES = {
    "default": {
        **env.db("EYOT_DATABASE"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"connect_timeout": 3},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [{"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"}]
PASSWORD_HASHERS = [f"django.contrib.auth.hashers.{name}PasswordHasher" for name in ("Scrypt", "PBKDF2")]
LOGIN_URL = "login"
LOGIN_REDIRECT_URL = "season"
LOGOUT_REDIRECT_URL = "login"
AXES_FAILURE_LIMIT = "eyot.accounts.guessing.tries"
AXES_COOLOFF_TIME = "eyot.accounts.guessing.pause"
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_ENABLE_ACCESS_FAILURE_LOG = True  # the pauses grow by it
AXES_LOCKOUT_TEMPLATE = "shared/locked_out.html"
AXES_CLIENT_IP_CALLABLE = "eyot.shared.proxy.client_address"
AXES_LOCKOUT_PARAMETERS = "eyot.accounts.guessing.counted_by"
AXES_USERNAME_CALLABLE = "eyot.accounts.guessing.name_tried"
ACCOUNT_ADAPTER = "eyot.accounts.adapter.AccountAdapter"
ACCOUNT_LOGIN_METHODS = {"username"}
ACCOUNT_SIGNUP_FIELDS = ["username*", "password1*"]
ACCOUNT_EMAIL_VERIFICATION = "none"
ACCOUNT_SESSION_REMEMBER = True
MFA_ADAPTER = "eyot.accounts.adapter.SecondFactorAdapter"
MFA_SUPPORTED_TYPES = ["totp", "webauthn", "recovery_codes"]
MFA_TOTP_TOLERANCE = 1  # half a minute early or late: phones' clocks differ, and typing takes a while
MFA_WEBAUTHN_ALLOW_INSECURE_ORIGIN = not SERVED_BY_TLS  # browsers allow it on the own machine alone
if env("EYOT_MAIL") != "none":
    vars().update(env.email_url_config(env("EYOT_MAIL")))
MAIL_IS_SENT = env("EYOT_MAIL") != "none"
DEFAULT_FROM_EMAIL = env("EYOT_MAIL_FROM")

LANGUAGE_CODE = "en"
USE_I18N = False
USE_TZ = True
TIME_ZONE = env("EYOT_TIME_ZONE")
PHONE_ADDRESSES = [address for address in env("EYOT_PHONE") if address]
CLAIM_CODE = env("EYOT_CLAIM_CODE")
BACKUPS = {"in the data folder": str(DATA / "backups"), "none": ""}.get(env("EYOT_BACKUPS"), env("EYOT_BACKUPS"))

MOST_IMPORTED_BYTES = int(env("EYOT_MOST_IMPORTED_GB") * 1e9)

STATIC_URL = "/static/"
STATIC_ROOT = DATA / "static"
WHITENOISE_KEEP_ONLY_HASHED_FILES = True  # nothing asks for the others, and compressing them takes as long again
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "photos": photo_store(env("EYOT_PHOTOS") or str(DATA / "photos")),
    "staticfiles": {"BACKEND": "eyot.config.stores.HashedFiles"},
}
ARRIVING_ROOT = env("EYOT_ARRIVING") or str(DATA / "arriving")
FILE_UPLOAD_HANDLERS = ["eyot.photos.uploads.BoundedUploadHandler"]
FILE_UPLOAD_PERMISSIONS, FILE_UPLOAD_DIRECTORY_PERMISSIONS = 0o600, 0o700
DATA_UPLOAD_MAX_NUMBER_FILES = 200  # above what a page takes at once, so that the page can say so

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "blob:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "manifest-src": [SELF],
        "worker-src": [SELF],
    }
}
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
CSRF_FAILURE_VIEW = "eyot.shared.views.not_of_this_login"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = SERVED_BY_TLS
SECURE_REDIRECT_EXEMPT = ["^alive$", "^ready$"]
SECURE_HSTS_SECONDS = 60 * 60 * 24 * env("EYOT_HSTS_DAYS") if SERVED_BY_TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = False
BEHIND_PROXY = env("EYOT_PROXY")
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if BEHIND_PROXY else None
SESSION_COOKIE_AGE = 60 * 60 * 24 * 30
# Without TLS there is nothing to redirect to and no cookie to keep from it; other names of a domain are not ours to bind.
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"] + (
    [] if SERVED_BY_TLS else ["security.W004", "security.W008", "security.W012", "security.W016"]
)
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "json": {"()": "eyot.shared.logs.JsonLines"},
        "text": {"format": "{levelname}: {message}", "style": "{"},
    },
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": env("EYOT_LOG")}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"axes": {"level": "ERROR"}, "eyot": {"level": "INFO" if env("EYOT_LOG") == "json" else "WARNING"}},
}
