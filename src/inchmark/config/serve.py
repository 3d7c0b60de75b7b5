"""One web process: `python -m inchmark.config.serve --fd N` answers on a socket it is handed.

Several of them share the socket; whoever is free takes the next request. They keep nothing between
requests but what they could work out again.
"""

from __future__ import annotations

import argparse
import os
import socket
import sys

import uvicorn


def main() -> int:
    """Serve until told to stop."""
    parser = argparse.ArgumentParser(prog="inchmark.config.serve", description=__doc__)
    place = parser.add_mutually_exclusive_group(required=True)
    place.add_argument("--fd", type=int, help="a listening socket inherited from who started us")
    place.add_argument("--listen", metavar="HOST:PORT", help="an address of our own")
    parser.add_argument("--certificate", help="a chain in PEM, to answer over TLS")
    parser.add_argument("--key", help="the certificate's key in PEM")
    parser.add_argument("--behind-proxy", help="addresses whose X-Forwarded-For is believed")
    wanted = parser.parse_args()
    os.environ.setdefault("INCHMARK_ROLE", "web")
    shared = socket.socket(fileno=wanted.fd) if wanted.fd is not None else _listen(wanted.listen)
    config = uvicorn.Config(
        "inchmark.config.asgi:application",
        lifespan="off",
        log_level="warning",
        server_header=False,
        # a header from loopback would otherwise tell us any address, and evade the lockout
        proxy_headers=bool(wanted.behind_proxy),
        forwarded_allow_ips=wanted.behind_proxy,
        ssl_certfile=wanted.certificate,
        ssl_keyfile=wanted.key,
        timeout_keep_alive=15,
        timeout_graceful_shutdown=6,
    )
    uvicorn.Server(config).run(sockets=[shared])
    return 0


def _listen(place: str) -> socket.socket:
    host, _, port = place.rpartition(":")
    return socket.create_server((host.strip("[]"), int(port)), backlog=512, reuse_port=False)


if __name__ == "__main__":
    sys.exit(main())
