"""What every answer carries, and what no request may bring."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from threading import Event, Lock

from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.utils.cache import patch_cache_control

GetResponse = Callable[[HttpRequest], HttpResponseBase]
# nothing of a device is used but the place, on the page of a walk
PERMISSIONS = "accelerometer=(), camera=(), display-capture=(), geolocation=(self), gyroscope=(), microphone=(), payment=(), usb=()"
AT_ONCE, LONGEST_TURN_S = 3, 2.0
CHARSETS = {"", "utf-8", "utf8", "us-ascii", "iso-8859-1", "latin-1"}


class Turns:
    """So many turns, given out in the order they were asked for.

    A semaphore lets whoever comes just then go before those who wait: with twenty readers the last
    of them waited twice as long as the rest.
    """

    def __init__(self, at_once: int) -> None:
        self._free, self._waiting, self._lock = at_once, deque[Event](), Lock()

    def take(self, longest_s: float) -> bool:
        """Wait for a turn; False if none came in so many seconds."""
        with self._lock:
            if self._free:
                self._free -= 1
                return True
            mine = Event()
            self._waiting.append(mine)
        if mine.wait(longest_s):
            return True
        with self._lock:
            if mine.is_set():  # it came just now
                return True
            self._waiting.remove(mine)
        return False

    def give_back(self) -> None:
        """Hand a turn to whoever waits longest."""
        with self._lock:
            if self._waiting:
                self._waiting.popleft().set()
            else:
                self._free += 1


_turns = Turns(AT_ONCE)


def few_at_once(get_response: GetResponse) -> GetResponse:
    """Let a few requests be worked on at a time in a process; the others wait their turn.

    Python runs one of them at a time anyway: a dozen at once only take the turn from one another,
    and each holds a connection meanwhile. Bodies are read before and answers are sent after. One
    that waits for a device holds nobody up for long: after a while the next is let in all the same.
    """

    def answer(request: HttpRequest) -> HttpResponseBase:
        turn = _turns.take(LONGEST_TURN_S)
        try:
            return get_response(request)
        finally:
            if turn:
                _turns.give_back()

    return answer


def private_pages(get_response: GetResponse) -> GetResponse:
    """Keep pages out of every store: they show what only members may see."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        response.setdefault("Permissions-Policy", PERMISSIONS)
        if not response.has_header("Cache-Control"):
            patch_cache_control(response, private=True, no_store=True)
        return response

    return answer


def plain_text_only(get_response: GetResponse) -> GetResponse:
    """Refuse bodies in a character set that forms are not sent in, before anyone decodes them."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        charset = request.content_params.get("charset", "") if request.content_params else ""
        if charset.lower() not in CHARSETS:
            words = f"The body is said to be {charset[:40]}; send it as UTF-8."
            return HttpResponse(words, status=415, content_type="text/plain; charset=utf-8")
        return get_response(request)

    return answer


def peer_address(request: HttpRequest) -> str:
    """Return who is on the line: the address uvicorn saw, never one a header claims."""
    return str(request.META.get("REMOTE_ADDR", ""))
