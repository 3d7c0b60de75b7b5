"""What holds everywhere. The environment is read here, and for TLS in `production`."""

import os
from pathlib import Path

from inchmark.config.database import database_from_url, read_secret

SOURCE = Path(__file__).resolve().parents[2]
ROOT = SOURCE.parents[1]
VAR = Path(os.environ.get("INCHMARK_VAR", ROOT / "var"))

SECRET_KEY = read_secret(VAR / "secret-key")
DEBUG = False
ALLOWED_HOSTS = [
    h for h in os.environ.get("INCHMARK_HOSTS", "127.0.0.1,localhost,[::1]").split(",") if h
]
CSRF_TRUSTED_ORIGINS = [o for o in os.environ.get("INCHMARK_ORIGINS", "").split(",") if o]

_database_url = os.environ.get("INCHMARK_DATABASE_URL") or read_secret(VAR / "database-url")
ROLE = os.environ.get("INCHMARK_ROLE", "tool")  # web, worker, or a command typed by hand
DATABASES = {"default": database_from_url(_database_url, role=ROLE)}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

INSTALLED_APPS = [
    "inchmark.pages",
    "inchmark.people",
    "inchmark.studies",
    "inchmark.shelf",
    "inchmark.plan",
    "inchmark.walk",
    "inchmark.read",
    "inchmark.decide",
    "inchmark.workbench",
    "inchmark.learn",
    "inchmark.demo",
    "inchmark.upkeep",
    "inchmark.config",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "procrastinate.contrib.django",
    "django_htmx",
    "axes",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "csp",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "inchmark.pages.logs.number_requests",
    "inchmark.pages.middleware.few_at_once",
    "inchmark.pages.meters.count_requests",
    # hides the true length by random bytes in the header, so that what a page holds cannot be guessed from it
    "django.middleware.gzip.GZipMiddleware",
    "csp.middleware.CSPMiddleware",
    "inchmark.pages.middleware.private_pages",
    "inchmark.pages.middleware.plain_text_only",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "inchmark.people.middleware.figures_as_wanted",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "inchmark.studies.audit.record_changes",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "inchmark.config.urls"
ASGI_APPLICATION = "inchmark.config.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "inchmark.learn.context.guide",
            ],
        },
    }
]
FORM_RENDERER = "inchmark.pages.renderer.FieldRenderer"

AUTH_USER_MODEL = "people.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("MinimumLengthValidator", "CommonPasswordValidator", "NumericPasswordValidator")
]
OTP_TOTP_ISSUER = "Inch Mark"
LOGIN_URL = "people:sign-in"
LOGIN_REDIRECT_URL = "studies:list"
AXES_FAILURE_LIMIT = 8
AXES_CLIENT_IP_CALLABLE = "inchmark.pages.middleware.peer_address"
AXES_COOLOFF_TIME = 0.25  # hours
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "people/locked_out.html"

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'self'"],
        "img-src": ["'self'", "data:"],  # Bootstrap's icons are data URIs
        "object-src": ["'none'"],
        "base-uri": ["'none'"],
        "frame-ancestors": ["'none'"],
        "form-action": ["'self'"],
    }
}
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

LANGUAGE_CODE = "en-gb"
USE_I18N = False
USE_TZ = True
TIME_ZONE = "UTC"

STATIC_URL = "static/"
# pictures of filled pages, which empty ones show
STATICFILES_DIRS = [("filled", ROOT / "docs" / "screenshots")]
STATIC_ROOT = VAR / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

UPLOAD_LIMIT_BYTES = 1024 * 1024 * 1024  # a console of some ten million lines
# what a request may bring, by the name of its view: the file and what a form has besides
BODY_LIMIT_MB = 2
BODY_LIMITS_MB = {
    "walk:log-upload": 1025,
    "walk:bad-lines": 9,
    "begin-with-logs": 1025,
    "bring-bundle": 301,
    "api:add_frames": 9,
    "api:add_lines": 9,
    "walk:lines": 9,
    "walk:tracks": 9,
    "walk:photo-add": 16,
    "plan:stops-file": 9,
    "plan:terrain-add": 41,
    "plan:features-add": 9,
    "shelf:files": 5,
    "shelf:sweep-add": 5,
    "shelf:ladders": 17,
    "shelf:traces": 25,
}
DATA_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = 1024 * 1024
FILE_UPLOAD_PERMISSIONS = 0o600

MONITOR_TOKEN = os.environ.get("INCHMARK_MONITOR_TOKEN", "")  # lets a monitor in from elsewhere

PROCRASTINATE_WORKER_DEFAULTS = {"update_heartbeat_interval": 5.0, "stalled_worker_timeout": 15.0}
STALLED_AFTER_S = 15.0

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"numbered": {"()": "inchmark.pages.logs.Numbered"}},
    "formatters": {
        "line": {"format": "{asctime} {levelname} {request_id} {name}: {message}", "style": "{"},
        "json": {"()": "inchmark.pages.logs.JsonLines"},
    },
    "handlers": {
        "console": {
            "class": "logging.StreamHandler",
            "formatter": "json" if os.environ.get("INCHMARK_LOG") == "json" else "line",
            "filters": ["numbered"],
        }
    },
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"inchmark": {"level": "INFO"}},
}
