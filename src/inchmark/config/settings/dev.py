"""For working on the code: debug pages and unhashed static files."""

from inchmark.config.settings.base import *  # noqa: F403

DEBUG = True
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_USE_FINDERS = True
