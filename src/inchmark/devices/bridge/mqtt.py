"""Messages of an MQTT broker as lines: what gateways publish of the uplinks they hear.

A message is a line; one of several lines is joined by spaces, since a JSON object may be printed
over many. A message is confirmed only when it has been handed on (MQTT 3.1.1, quality 1), and the
session outlives a cut, so that the broker keeps what comes meanwhile.
"""

from __future__ import annotations

import hashlib
import queue
import threading
import uuid
from collections.abc import Iterator
from typing import Any

import paho.mqtt.client as mqtt
from paho.mqtt.enums import CallbackAPIVersion

LISTEN_S = 0.3  # how long a read waits before it looks whether to stop
KEEP_ALIVE_S = 20


class BrokerError(OSError):
    """The broker cannot be reached, or refuses; the message says which."""


def of_broker(host: str, port: int, topic: str, stop: threading.Event) -> Iterator[bytes]:
    """Yield the messages of a topic (with + and # as MQTT has them), each ended by a line end.

    Raises
    ------
    BrokerError
        The broker refuses, or the connection to it broke.
    """
    got: queue.SimpleQueue[mqtt.MQTTMessage | str] = queue.SimpleQueue()
    client = mqtt.Client(
        CallbackAPIVersion.VERSION2,
        client_id=_own_name(host, port, topic),
        clean_session=False,
        manual_ack=True,
    )

    def connected(own: mqtt.Client, _: Any, __: Any, code: Any, ___: Any) -> None:
        if code.is_failure:
            got.put(f"the broker refuses: {code}")
        else:
            own.subscribe(topic, qos=1)

    client.on_connect = connected
    client.on_message = lambda _, __, message: got.put(message)
    client.on_disconnect = lambda _, __, ___, code, ____: got.put(f"the broker is gone ({code})")
    client.connect(host, port, keepalive=KEEP_ALIVE_S)
    client.loop_start()
    try:
        yield from _handed_on(client, got, stop)
    finally:
        client.disconnect()
        client.loop_stop()


def _own_name(host: str, port: int, topic: str) -> str:
    """Return this machine's name at a broker: the same after a restart, so that its session is found."""
    whole = f"{uuid.getnode()} {host} {port} {topic}".encode()
    return f"inchmark-{hashlib.sha256(whole).hexdigest()[:12]}"


def _handed_on(
    client: mqtt.Client, got: queue.SimpleQueue[mqtt.MQTTMessage | str], stop: threading.Event
) -> Iterator[bytes]:
    while not stop.is_set():
        try:
            one = got.get(timeout=LISTEN_S)
        except queue.Empty:
            continue
        if isinstance(one, str):
            raise BrokerError(one)
        yield b" ".join(one.payload.splitlines()) + b"\n"
        client.ack(one.mid, one.qos)  # the generator goes on only when the line is kept
