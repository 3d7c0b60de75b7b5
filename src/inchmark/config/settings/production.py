"""For use: what `./start` runs, on loopback unless told otherwise.

Behind a TLS proxy set INCHMARK_HOSTS and INCHMARK_ORIGINS; the checks in `config.checks` refuse
hosts beyond this machine without TLS cookies.
"""

import os

from inchmark.config.settings.base import *  # noqa: F403
from inchmark.config.settings.base import CSRF_TRUSTED_ORIGINS

_behind_tls = any(origin.startswith("https://") for origin in CSRF_TRUSTED_ORIGINS)
_own_tls = bool(os.environ.get("INCHMARK_TLS"))  # ./start --lan answers over TLS itself
SESSION_COOKIE_SECURE = _behind_tls or _own_tls
CSRF_COOKIE_SECURE = _behind_tls or _own_tls
if _behind_tls:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_HSTS_SECONDS = 31_536_000
