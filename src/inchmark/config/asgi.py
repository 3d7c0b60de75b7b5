"""The ASGI application that uvicorn serves."""

import os
import warnings

import django

from inchmark.config.handler import OneThreadHandler
from inchmark.pages.body_limits import BodyLimits

# whitenoise hands its files out through plain iterators; they are small and sent from disk
warnings.filterwarnings(
    "ignore", message="StreamingHttpResponse must consume synchronous iterators"
)
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "inchmark.config.settings.production")
django.setup(set_prefix=False)
application = BodyLimits(OneThreadHandler())
