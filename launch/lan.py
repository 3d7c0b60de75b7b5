"""Answering the local network: over TLS, with a certificate by a small authority of our own."""

from __future__ import annotations

import socket
import subprocess
from pathlib import Path

from launch.machine import PYTHON, ROOT
from launch.say import StopError, say


def own_address() -> str:
    """Return the address this machine has in its local network.

    Raises
    ------
    StopError
        It has none but its own.
    """
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # nothing is sent: the route alone is asked for
            found = str(probe.getsockname()[0])
        except OSError:
            found = "127.0.0.1"
    if found.startswith("127."):
        raise StopError("This machine is in no network, so --lan has nobody to answer.")
    return found


def over_tls(var: Path, host: str, base: str) -> dict[str, str]:
    """Make what TLS needs and return what the app's processes are told of it."""
    names = [host, socket.gethostname(), "127.0.0.1", "localhost"]
    command = [str(PYTHON), "-m", "inchmark.config.certificate", str(var / "tls"), *names]
    done = subprocess.run(
        command, cwd=ROOT, env={"PYTHONPATH": str(ROOT / "src")}, capture_output=True, text=True
    )
    if done.returncode:
        raise StopError(f"The certificate could not be made:\n{done.stderr.strip()[-400:]}")
    return {"INCHMARK_TLS": "1", "INCHMARK_HOSTS": ",".join([*names, "[::1]"])}


def tell_of_lan(var: Path, base: str) -> None:
    """Say how to reach us, what the browser will ask, and what trusting the authority means."""
    code = "import segno, sys; segno.make(sys.argv[1], micro=False).terminal(compact=True)"
    subprocess.run([str(PYTHON), "-c", code, f"{base}/"])
    say(
        f"Anyone in this network can open {base}/ and meets the sign-in page.\n"
        "Browsers warn of a certificate they do not know. Go on for this once, or trust the\n"
        f"authority in {var / 'tls' / 'authority.pem'}: a device that does believes every certificate\n"
        "made with the key beside it, so keep that folder to yourself and remove the trust when done."
    )
