"""Addresses as people write them: HOST:PORT, or a port of this machine."""

from __future__ import annotations


class AddressError(ValueError):
    """An address is none; the message says how one is written."""


def host_and_port(text: str) -> tuple[str, int]:
    """Return a host and a port; without a host it is this machine.

    Raises
    ------
    AddressError
        It is none.
    """
    host, _, port = text.rpartition(":")
    if not port.isdigit() or not 0 < int(port) < 65_536:
        raise AddressError(
            f"“{text}” must be HOST:PORT with a port from 1 to 65535, like 127.0.0.1:4000."
        )
    return host or "127.0.0.1", int(port)
