"""Bodies are refused by their length before they are kept."""

import asyncio

import pytest
from django.conf import settings

from inchmark.pages.body_limits import BodyLimits, limit_mb
from tests.people.addresses import addresses


def asked(path, *headers):
    """Return the status of a request and whether the application saw it."""
    sent, seen = [], []

    async def application(scope, receive, send):
        seen.append(scope["path"])
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b""})

    async def send(message):
        sent.append(message)

    async def receive():
        raise AssertionError("a refused body is not read")

    scope = {"type": "http", "path": path, "headers": list(headers)}
    asyncio.run(BodyLimits(application)(scope, receive, send))
    return sent[0]["status"], bool(seen), sent[1]["body"].decode()


def length(megabytes):
    return (b"content-length", str(int(megabytes * 2**20)).encode())


def test_what_an_address_takes_goes_through():
    assert asked("/sign-in/", length(1))[:2] == (200, True)
    assert asked("/studies/1/walk/1/log/", length(1000))[:2] == (200, True)
    assert asked("/studies/1/read/")[:2] == (200, True)


@pytest.mark.parametrize(
    ("path", "megabytes"), [("/sign-in/", 3), ("/nothing/", 3), ("/studies/1/walk/1/log/", 1100)]
)
def test_more_is_refused_unread_with_how_much_it_takes(path, megabytes):
    status, seen, words = asked(path, length(megabytes))
    assert (status, seen) == (413, False)
    assert f"over {limit_mb(path)} MB" in words


def test_a_body_of_no_length_is_refused():
    status, seen, words = asked("/sign-in/", (b"transfer-encoding", b"chunked"))
    assert (status, seen) == (411, False)
    assert "Content-Length" in words
    assert asked("/sign-in/", (b"content-length", b"many"))[0] == 400


def test_every_named_limit_is_of_a_view_there_is():
    assert set(settings.BODY_LIMITS_MB) <= {one.name for one in addresses()}
