"""Keeping services alive: PostgreSQL, web processes and workers alike are started again."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

from launch.cluster import end_with_parent
from launch.machine import ROOT
from launch.say import StopError, say

LOOK_EVERY_S = 0.3
FIRST_PAUSE_S, LONGEST_PAUSE_S = 0.3, 5.0
STEADY_S = 30.0  # one that ran so long starts again at once
END_S = 8.0


class Service(Protocol):
    """Something that runs: started, looked at, ended."""

    name: str

    def start(self) -> None:
        """Begin; raise StopError if it cannot."""

    def ended(self) -> bool:
        """Tell whether it runs no more."""

    def ask_to_end(self) -> None:
        """Ask it to end."""

    def end(self, until: float) -> None:
        """Wait for its end until a time of the monotonic clock, then kill it."""


@dataclass
class Program:
    """A child process with the sockets it is handed."""

    name: str
    command: list[str]
    environment: dict[str, str]
    sockets: tuple[int, ...] = ()
    nice: int = 0  # how far it stands back for the others
    stands_on: str = ""  # the service after whose return it begins anew
    process: subprocess.Popen[bytes] | None = field(default=None, init=False)

    def start(self) -> None:
        """Begin as a child that ends when we do, however we do."""
        self.process = subprocess.Popen(
            self.command,
            cwd=ROOT,
            env=self.environment,
            stdin=subprocess.DEVNULL,
            pass_fds=self.sockets,
            preexec_fn=self._begin,
        )

    def _begin(self) -> None:
        os.setsid()  # Ctrl-C reaches us alone; we end the children in order
        end_with_parent(signal.SIGTERM)
        os.nice(self.nice)
        if self.nice:
            self._group_stands_back()

    def _group_stands_back(self) -> None:
        """Weigh the session down too: between sessions a kernel may not look at nice (sched(7), autogroup)."""
        with contextlib.suppress(OSError):
            Path("/proc/self/autogroup").write_text(str(self.nice))

    def ended(self) -> bool:
        """Tell whether the process is gone."""
        return self.process is None or self.process.poll() is not None

    def ask_to_end(self) -> None:
        """Send it SIGTERM."""
        if self.process and self.process.poll() is None:
            self.process.terminate()

    def end(self, until: float) -> None:
        """Wait, then kill it."""
        if self.process is None:
            return
        try:
            self.process.wait(max(until - time.monotonic(), 0.1))
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


@dataclass
class _Watched:
    service: Service
    began: float = 0.0
    pause_s: float = FIRST_PAUSE_S
    next_try: float = 0.0


class Supervisor:
    """Starts services in order and brings back whichever ends."""

    def __init__(self) -> None:
        self.watched: list[_Watched] = []

    def start(self, service: Service) -> None:
        """Start a service and keep it alive from now on."""
        service.start()
        self.watched.append(_Watched(service, began=time.monotonic()))

    def look(self) -> None:
        """Start what has ended, each after a pause that grows while it keeps ending."""
        now = time.monotonic()
        for one in self.watched:
            if one.service.ended():
                self._bring_back(one, now)

    def _bring_back(self, one: _Watched, now: float) -> None:
        if not one.next_try:
            steady = now - one.began > STEADY_S
            one.pause_s = FIRST_PAUSE_S if steady else min(2 * one.pause_s, LONGEST_PAUSE_S)
            one.next_try = now + one.pause_s
            say(f"The {one.service.name} ended; starting it again.")
        if now < one.next_try:
            return
        try:
            one.service.start()
            one.began, one.next_try = time.monotonic(), 0.0
            self._begin_anew(one.service.name)
        except StopError as why:
            say(f"The {one.service.name} does not start: {why}")
            one.pause_s = min(2 * one.pause_s, LONGEST_PAUSE_S)
            one.next_try = time.monotonic() + one.pause_s

    def _begin_anew(self, name: str) -> None:
        """Let those who stood on a service that was away end, so that they come back clean.

        A worker that outlives its database may hold a job as its own that it can no longer finish.
        """
        for one in self.watched:
            if getattr(one.service, "stands_on", "") == name:
                one.service.ask_to_end()

    def watch(self, *also: Callable[[], None]) -> None:
        """Look again and again, until an exception ends it."""
        while True:
            time.sleep(LOOK_EVERY_S)
            self.look()
            for look in also:
                look()

    def end(self) -> None:
        """End all, the last started first; what was started first is ended last."""
        for one in reversed(self.watched):
            one.service.ask_to_end()
        until = time.monotonic() + END_S
        for one in reversed(self.watched):
            one.service.end(until)
