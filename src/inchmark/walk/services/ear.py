"""One ear on the database for all who watch walks from this web process.

A process that keeps lines, a tap or a note tells it by NOTIFY, whichever process it is; every process
that has somebody watching that walk reads on what has come, once for all its watchers, and hands the
changed parts of the page out. A watcher that is slow gets the newest state of each part, not all the
states in between.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import secrets
from collections.abc import AsyncIterator, Callable, Iterable, Mapping
from dataclasses import dataclass, field
from time import monotonic
from typing import Any

import psycopg
from asgiref.sync import sync_to_async
from django.db import connection, connections

from inchmark.walk.services.live_walk import LiveWalk
from inchmark.walk.services.news import BEGIN, CHANNEL, JOIN, PRESENCE, tell

log = logging.getLogger(__name__)
Parts = dict[str, str]  # what stands in each part of the page, by its name
Render = Callable[[LiveWalk, list[Mapping[str, Any]]], Parts]
MOST_WATCHERS = 60  # of one process
AGAIN_S = 1.0
BEAT_S = 10.0  # between two signs of life: to proxies, and of who is there
GONE_S = 25.0
_PARAMETERS = ("dbname", "user", "password", "host", "port")


class FullError(Exception):
    """Too many watch from this process already."""


@dataclass(slots=True, eq=False)
class Watcher:
    """One page that watches: who, by what, and what it has not been sent yet."""

    who: str
    what: str
    name: str = field(default_factory=lambda: secrets.token_hex(6))
    parts: Parts = field(default_factory=dict)
    fresh: asyncio.Event = field(default_factory=asyncio.Event)

    def hand(self, parts: Parts) -> None:
        """Put changed parts where its page fetches them."""
        self.parts |= parts
        self.fresh.set()


@dataclass(slots=True, eq=False)
class _Watched:
    """A walk somebody watches."""

    pk: int
    render: Render
    live: LiveWalk | None = None
    watchers: set[Watcher] = field(default_factory=set)
    told: list[Mapping[str, Any]] = field(default_factory=list)
    work: asyncio.Event = field(default_factory=asyncio.Event)
    present: dict[str, tuple[str, str, float]] = field(default_factory=dict)
    task: asyncio.Task[None] | None = None


class Ear:
    """Hears what is told of walks and hands it to those who watch."""

    def __init__(self) -> None:
        self._walks: dict[int, _Watched] = {}
        self._listening: asyncio.Task[None] | None = None
        self._ready = asyncio.Event()

    async def watch(
        self, walk: int, render: Render, *, who: str, what: str
    ) -> AsyncIterator[Parts | None]:
        """Yield changed parts as they change, all of them first; None as a sign of life.

        Raises
        ------
        FullError
            Too many watch already.
        """
        if sum(len(one.watchers) for one in self._walks.values()) >= MOST_WATCHERS:
            raise FullError
        if self._listening is None or self._listening.done():
            self._listening = asyncio.create_task(self._listen())
        watched = self._walks.setdefault(walk, _Watched(walk, render))
        if watched.task is None:
            watched.task = asyncio.create_task(self._serve(watched))
        watcher = Watcher(who, what)
        watched.watchers.add(watcher)
        try:
            async for parts in self._stream(watched, watcher):
                yield parts
        finally:
            watched.watchers.discard(watcher)
            await _tell_present(walk, watcher, gone=True)
            if not watched.watchers:
                self._walks.pop(walk, None)
                watched.task.cancel()

    async def _stream(self, watched: _Watched, watcher: Watcher) -> AsyncIterator[Parts | None]:
        await self._ready.wait()  # what happens from here on is heard
        self._tell(watched, {"kind": JOIN})
        await _tell_present(watched.pk, watcher)
        said = monotonic()
        while True:
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(watcher.fresh.wait(), BEAT_S)
            watcher.fresh.clear()
            parts, watcher.parts = watcher.parts, {}
            yield parts or None
            if monotonic() - said >= BEAT_S:
                said = monotonic()
                await _tell_present(watched.pk, watcher)

    @staticmethod
    def _tell(watched: _Watched, message: Mapping[str, Any]) -> None:
        watched.told.append(message)
        watched.work.set()

    async def _listen(self) -> None:
        """Hear the database, again and again where the line breaks; then all is read anew."""
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(
                    **await sync_to_async(_parameters)(), autocommit=True
                ) as line:
                    await line.execute(f"LISTEN {CHANNEL}")
                    self._ready.set()
                    for watched in self._walks.values():
                        self._tell(watched, {"kind": BEGIN})
                    async for notice in line.notifies():
                        self._heard(notice.payload)
            except psycopg.Error as wrong:
                log.warning("the line to the database that tells of walks broke: %s", wrong)
            await asyncio.sleep(AGAIN_S)

    def _heard(self, payload: str) -> None:
        message = json.loads(payload)
        watched = self._walks.get(message["walk"])
        if watched is not None:
            self._tell(watched, message)

    async def _serve(self, watched: _Watched) -> None:
        """Read on and draw what was told of a walk, all that has come meanwhile at once."""
        while True:
            await watched.work.wait()
            watched.work.clear()
            told, watched.told = watched.told, []
            for one in told:
                if one["kind"] == PRESENCE:
                    _note(watched.present, one)
            try:
                parts = await sync_to_async(_drawn, thread_sensitive=False)(watched, told)
            except Exception:
                log.exception("walk %s could not be shown as it is walked", watched.pk)
                watched.live = None
                await asyncio.sleep(AGAIN_S)
                self._tell(watched, {"kind": BEGIN})
                continue
            for watcher in watched.watchers:
                watcher.hand(parts)


def _drawn(watched: _Watched, told: list[Mapping[str, Any]]) -> Parts:
    """Return the parts that have changed; in a thread of its own, whose connection goes back."""
    try:
        if watched.live is None:
            watched.live = LiveWalk(watched.pk)
            told = [*told, {"kind": JOIN}]
        people = sorted({(who, what) for who, what, _ in watched.present.values()})
        return watched.render(watched.live, [*told, {"kind": "present", "people": people}])
    finally:
        connections.close_all()


def _note(present: dict[str, tuple[str, str, float]], one: Mapping[str, Any]) -> None:
    now = monotonic()
    present.pop(one["id"], None)
    if not one.get("gone"):
        present[one["id"]] = (one["who"], one["what"], now + GONE_S)
    for name in [name for name, (_, _, until) in present.items() if until < now]:
        del present[name]


async def _tell_present(walk: int, watcher: Watcher, *, gone: bool = False) -> None:
    with contextlib.suppress(psycopg.Error):
        await sync_to_async(_said_present, thread_sensitive=False)(walk, watcher, gone)


def _said_present(walk: int, watcher: Watcher, gone: bool) -> None:  # noqa: FBT001 - from a thread
    try:
        tell(walk, PRESENCE, id=watcher.name, who=watcher.who, what=watcher.what, gone=gone)
    finally:
        connections.close_all()


def _parameters() -> dict[str, Any]:
    known = connection.get_connection_params()
    return {name: known[name] for name in _PARAMETERS if known.get(name)}


_ears: dict[asyncio.AbstractEventLoop, Ear] = {}


def ear() -> Ear:
    """Return the ear of the running event loop."""
    loop = asyncio.get_running_loop()
    for one in [one for one in _ears if one.is_closed()]:
        del _ears[one]
    return _ears.setdefault(loop, Ear())


def named(people: Iterable[tuple[str, str]]) -> list[str]:
    """Return who is there in words, each once."""
    return [f"{who} ({what})" for who, what in people]
