"""`inchmark bridge`: lines of boards onto this machine's disk, and from there to a walk."""

from __future__ import annotations

import argparse
import signal
import sys
from pathlib import Path

from inchmark.cli.bridge_table import show
from inchmark.devices.bridge.bridge import Bridge
from inchmark.devices.bridge.sender import Sender
from inchmark.devices.bridge.sources import Source, source_of
from inchmark.devices.bridge.spool import Spool


def add_parser(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command and its options."""
    parser = commands.add_parser(
        "bridge", help="keep the lines of boards on this machine and send them to a walk"
    )
    parser.add_argument(
        "--source",
        action="append",
        default=[],
        metavar="NAME=KIND:ADDRESS",
        help="tcp:HOST:PORT, udp:PORT, serial:DEVICE@BAUD, mqtt:HOST:PORT/TOPIC, "
        "file:PATH (followed as it grows), or -",
    )
    parser.add_argument("--connect", metavar="HOST:PORT", help="a board on TCP, until it closes")
    parser.add_argument(
        "--set",
        action="append",
        default=[],
        metavar="[NAME:]FIELD=VALUE",
        help="what a source stands for: rig, stop, receiver, direction, condition",
    )
    parser.add_argument(
        "--send",
        action="append",
        default=[],
        metavar="NAME:TEXT",
        help="say a line to a board, like a settings string, and keep what it answers in 2 s",
    )
    parser.add_argument(
        "--post",
        metavar="URL",
        help="the walk's address for lines; without one lines are only kept",
    )
    parser.add_argument("--token-file", type=Path, help="file that holds the access token")
    parser.add_argument(
        "--spool",
        type=Path,
        default=Path("inchmark-spool.sqlite"),
        help="file the lines are kept in",
    )
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    """Keep and send until stopped."""
    sources = [source_of(text) for text in parsed.source]
    if parsed.connect:
        sources.append(source_of(f"board=tcp:{parsed.connect}", ends=True))
    if not sources:
        raise ValueError("Name at least one source, like --source gate=tcp:127.0.0.1:4000.")
    if parsed.post and not parsed.token_file:
        raise ValueError("Sending needs --token-file, the file that holds the access token.")
    spool = Spool(parsed.spool)
    sender = None
    if parsed.post:
        token = parsed.token_file.read_text(encoding="utf-8").strip()
        constants = _constants(parsed.set, sources)
        untimed = frozenset(source.name for source in sources if source.path is not None)
        sender = Sender(spool, parsed.post, token, _say, constants=constants, untimed=untimed)
    bridge = Bridge(spool, sources, sender, _say, tell=_to_tell(parsed.send, sources))
    if sys.stderr.isatty():
        bridge.said = show(bridge)
        if sender is not None:
            sender.said = bridge.said
    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, lambda *_: bridge.stop.set())
    bridge.run()
    _say(bridge.words())
    spool.close()
    return 0


def _say(words: str) -> None:
    sys.stderr.write(f"{words}\n")


def _to_tell(texts: list[str], sources: list[Source]) -> dict[str, list[str]]:
    answering = {source.name for source in sources if source.answers}
    found: dict[str, list[str]] = {}
    for text in texts:
        name, colon, words = text.partition(":")
        if not colon or not words or name not in answering:
            raise ValueError(
                f"--send {text}: write NAME:TEXT, with the name of a source on tcp or serial."
            )
        found.setdefault(name, []).append(words)
    return found


def _constants(texts: list[str], sources: list[Source]) -> dict[str, dict[str, str]]:
    found: dict[str, dict[str, str]] = {source.name: {} for source in sources}
    for text in texts:
        left, equals, value = text.partition("=")
        name, colon, field = left.rpartition(":")
        if not equals or (colon and name not in found):
            raise ValueError(f"--set {text}: write [NAME:]FIELD=VALUE, with the name of a source.")
        for own in [name] if colon else found:
            found[own][field] = value
    return found
