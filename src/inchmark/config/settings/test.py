"""For the tests: quick password hashes, unhashed static files, no lockout between tests."""

from inchmark.config.settings.base import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = True

# dead workers are noticed within seconds, so that a test can wait for it
PROCRASTINATE_WORKER_DEFAULTS = {"update_heartbeat_interval": 0.5, "stalled_worker_timeout": 2.0}
STALLED_AFTER_S = 2.0
