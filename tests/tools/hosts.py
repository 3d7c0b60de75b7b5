"""Several hosts on one machine: two web hosts, three worker hosts, database and TLS proxy apart.

    python -m tests.tools.hosts            # as root, with nginx installed (Debian: nginx-light)

Each has a network namespace with an address of its own in 10.77.0.0/24, joined by a bridge that no
other network sees. Logs are uploaded through the proxy while each web process and worker is killed
in turn; a supervisor brings it back three seconds later, as systemd would. Prints the tally: nothing
lost, none twice, none stuck. Exit code 1 otherwise, 2 where namespaces cannot be made.
"""

from __future__ import annotations

import ctypes
import os
import shutil
import signal
import ssl
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from bench.running import Browser, first_study, sign_in
from launch.cluster import Cluster, keep_secret
from launch.machine import PYTHON, ROOT, need_postgres
from launch.start import app_environment
from launch.supervise import Program, Supervisor

from inchmark.config.certificate import make_certificate
from tests.tools.kills import upload, wait_and_count

NET, HUB = "10.77.0", "imhub"
HOSTS = {"imdb": 10, "improxy": 2, "imweb1": 21, "imweb2": 22, "imwork1": 31, "imwork2": 32, "imwork3": 33, "imclient": 99}  # fmt: skip
QUEUES = {
    "imwork1": "import,upkeep",
    "imwork2": "read,upkeep",
    "imwork3": "import,read,plan,upkeep",
}
BACK_AFTER_S, LOGS_A_KILL = 3.0, 2
CLONE_NEWNET = 0x40000000


def sh(*words: object) -> None:
    """Run a command; its own words are shown if it fails."""
    done = subprocess.run([str(word) for word in words], capture_output=True, text=True)
    if done.returncode:
        raise RuntimeError(f"{' '.join(map(str, words))}: {done.stderr.strip()}")


@contextmanager
def networks() -> Iterator[None]:
    """Make the namespaces, and take them away again."""
    try:
        sh("ip", "netns", "add", HUB)
        sh("ip", "-n", HUB, "link", "add", "br0", "type", "bridge")
        sh("ip", "-n", HUB, "link", "set", "br0", "up")
        for name, number in HOSTS.items():
            sh("ip", "netns", "add", name)
            sh("ip", "-n", name, "link", "add", "eth0", "type", "veth", "peer", "name", f"v{number}", "netns", HUB)  # fmt: skip
            sh("ip", "-n", HUB, "link", "set", f"v{number}", "master", "br0", "up")
            sh("ip", "-n", name, "address", "add", f"{NET}.{number}/24", "dev", "eth0")
            sh("ip", "-n", name, "link", "set", "eth0", "up")
            sh("ip", "-n", name, "link", "set", "lo", "up")
        yield
    finally:
        for name in (*HOSTS, HUB):
            subprocess.run(["ip", "netns", "delete", name], capture_output=True)


def enter(name: str) -> None:
    """Put this thread and its children to come into a namespace."""
    with Path(f"/run/netns/{name}").open() as place:
        if ctypes.CDLL(None, use_errno=True).setns(place.fileno(), CLONE_NEWNET):
            raise OSError(ctypes.get_errno(), f"namespace {name}")


def at(name: str, *command: object) -> list[str]:
    """Return a command as it is run on a host."""
    return ["ip", "netns", "exec", name, *map(str, command)]


class Slow(Supervisor):
    """A supervisor that waits, as on a host whose process was killed."""

    def look(self) -> None:
        """Bring back what ended three seconds ago."""
        for one in self.watched:
            if one.service.ended() and not one.next_try:
                one.next_try = time.monotonic() + BACK_AFTER_S
        super().look()


def main() -> int:
    """Make the hosts, load, kill each in turn, count."""
    if os.geteuid() or not shutil.which("ip") or not shutil.which("nginx"):
        print("This needs root, ip and nginx (apt-get install iproute2 nginx-light).")
        return 2
    try:
        with networks(), tempfile.TemporaryDirectory() as folder:
            os.chmod(folder, 0o755)
            return _prove(Path(folder))
    except RuntimeError as wrong:
        print(f"Network namespaces cannot be made here: {wrong}")
        return 2


def _prove(folder: Path) -> int:
    cluster = Cluster(folder / "postgres", need_postgres())
    enter("imdb")
    cluster.listen = f"127.0.0.1,{NET}.10"
    url = cluster.start()
    with (cluster.data / "pg_hba.conf").open("a") as rules:
        rules.write(f"host all all {NET}.0/24 scram-sha-256\n")
    os.kill(cluster.process.pid, signal.SIGHUP)
    enter("imclient")
    services = Slow()
    try:
        return _load(folder, services, url.replace("127.0.0.1", f"{NET}.10"))
    finally:
        services.end()
        cluster.stop()


def _load(folder: Path, services: Slow, url: str) -> int:
    base = f"https://{NET}.2"
    keep_secret(folder / "secret-key")
    told = {"INCHMARK_ORIGINS": base, "INCHMARK_HOSTS": f"{NET}.2"}
    environment = app_environment(url, folder) | told
    link = _prepared(environment, base)
    tls = make_certificate(folder / "tls", [f"{NET}.2"])
    _start(services, environment, _proxy(folder, tls))
    trusting = ssl.create_default_context(cafile=tls / "authority.pem")
    browser = _signed_in(Browser(base, tls=trusting), link, services)
    sent = _killed_in_turn(services, browser)
    tally = wait_and_count(url, sent)
    print("\n".join(tally))
    return 1 if any(line.startswith("WRONG") for line in tally) else 0


def _prepared(environment: dict[str, str], base: str) -> str:
    """Make the tables and return the sign-in link."""
    done = subprocess.run(
        [PYTHON, "manage.py", "prepare", "--base", base],
        cwd=ROOT,
        env=environment,
        capture_output=True,
        text=True,
    )
    if done.returncode:
        raise SystemExit(done.stderr[-1500:])
    return next(line.strip() for line in done.stdout.splitlines() if "/sign-in/" in line)


def _start(services: Slow, environment: dict[str, str], proxy: Path) -> None:
    for name in ("imweb1", "imweb2"):
        place = f"{NET}.{HOSTS[name]}:8000"
        serve = [PYTHON, "-m", "inchmark.config.serve", "--listen", place, "--behind-proxy", f"{NET}.2"]  # fmt: skip
        services.start(Program(name, at(name, *serve), environment | {"INCHMARK_ROLE": "web"}))
    for name, queues in QUEUES.items():
        work = [PYTHON, "manage.py", "procrastinate", "worker", "--queues", queues, "--concurrency", 2]  # fmt: skip
        services.start(Program(name, at(name, *work), environment | {"INCHMARK_ROLE": "worker"}))
    services.start(Program("improxy", at("improxy", "nginx", "-c", proxy), environment))


def _killed_in_turn(services: Slow, browser: Browser) -> set[int]:
    """Upload and kill each web process and worker twice; return the logs that were acknowledged."""
    study, number, sent = first_study(browser), 0, set[int]()
    victims = [one.service for one in services.watched if one.service.name != "improxy"]
    for victim in victims * 2:
        for _ in range(LOGS_A_KILL):
            number += 1
            while not upload(browser, study, number):
                _wait(services, 0.3)
            sent.add(number)
            _wait(services, 2.1)  # under the limit of logs a minute
        print(f"killing {victim.name}", flush=True)
        os.kill(victim.process.pid, signal.SIGKILL)
    _wait(services, 8)
    return sent


def _wait(services: Slow, seconds: float) -> None:
    """Wait, and bring back what has ended meanwhile."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        services.look()
        time.sleep(0.3)


def _signed_in(browser: Browser, link: str, services: Slow) -> Browser:
    for _ in range(200):
        services.look()
        try:
            if browser.ask("GET", "/sign-in/")[0] == 200:
                return sign_in(Browser(browser.base, tls=browser.tls), link)
        except OSError:
            browser = browser.another()
        time.sleep(0.3)
    raise RuntimeError("the proxy does not answer")


def _proxy(folder: Path, tls: Path) -> Path:
    """Write the configuration of the proxy from the one that is handed out."""
    given = (ROOT / "deploy" / "nginx.conf").read_text()
    for here, there in (
        ("127.0.0.1:8001", f"{NET}.21:8000"),
        ("127.0.0.1:8002", f"{NET}.22:8000"),
        ("/etc/inchmark/certificate.pem", str(tls / "certificate.pem")),
        ("/etc/inchmark/key.pem", str(tls / "key.pem")),
        ("marsh.example", f"{NET}.2"),
    ):
        assert here in given, here
        given = given.replace(here, there)
    whole = folder / "nginx.conf"
    own = f"daemon off;\npid {folder}/nginx.pid;\nerror_log {folder}/nginx.log;\nevents {{}}\n"
    whole.write_text(f"{own}http {{\naccess_log off;\n{given}\n}}\n")
    return whole


if __name__ == "__main__":
    sys.exit(main())
