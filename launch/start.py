"""`./start`: set up what is missing, start everything, print a sign-in link.

PostgreSQL, web processes and workers are kept alive; end everything together.
"""

from __future__ import annotations

import argparse
import hashlib
import http.client
import os
import shutil
import signal
import socket
import ssl
import subprocess
import sys
import time
from pathlib import Path

from launch.clock import ClockWatch
from launch.cluster import Cluster, keep_secret, write_secret
from launch.disk import DiskWatch
from launch.lan import over_tls, own_address, tell_of_lan
from launch.lock import DataLock
from launch.machine import PYTHON, ROOT, need_environment, need_pango, need_postgres, need_python
from launch.say import StopError, say, stop
from launch.supervise import Program, Supervisor

VAR = Path(os.environ.get("INCHMARK_VAR", ROOT / "var"))
MOST_WEB = 8
BACKLOG = 512
# queues of one kind each, so that a long import holds up no reading; upkeep runs beside imports
WORKERS = {"import": 2, "read": 1, "plan": 1}


def main() -> int:
    """Run the app until it is told to stop."""
    wanted = _arguments()
    services = Supervisor()
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        need_python()
        _check_port(wanted.port)
        VAR.mkdir(parents=True, exist_ok=True)
        lock = DataLock(VAR)
        host = own_address() if wanted.lan else "127.0.0.1"
        wanted.base = f"{'https' if wanted.lan else 'http'}://{host}:{wanted.port}"
        lock.take(f"{wanted.base}/")
        listener = _listen(wanted.port, host)
        url = os.environ.get("INCHMARK_DATABASE_URL")
        programs = None if url else need_postgres()
        need_pango()
        need_environment(check=False)
        keep_secret(VAR / "secret-key")
        if programs:
            cluster = Cluster(VAR / "postgres", programs)
            services.start(cluster)
            url = cluster.url
            write_secret(VAR / "database-url", url)
        shutil.rmtree(VAR / "meters", ignore_errors=True)  # counts of processes that are gone
        (VAR / "meters").mkdir()
        environment = app_environment(url or "")
        if wanted.lan:
            environment |= over_tls(VAR, host, wanted.base)
        _run(services, listener, environment, wanted)
        services.watch(DiskWatch(VAR).look, ClockWatch().look)
        return 0
    except StopError as why:
        stop(str(why))
        return 1
    except OSError as wrong:
        stop(_os_words(wrong))
        return 1
    except KeyboardInterrupt:
        say("\nEnding …")
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        services.end()


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="./start", description="Start Inch Mark on this machine.")
    parser.add_argument("--port", type=int, default=8000, help="port on 127.0.0.1 (8000)")
    parser.add_argument(
        "--lan",
        action="store_true",
        help="answer the local network over TLS, not this machine alone",
    )
    parser.add_argument("--no-demo", action="store_true", help="do not load the demo study")
    return parser.parse_args()


def _run(
    services: Supervisor,
    listener: socket.socket,
    environment: dict[str, str],
    wanted: argparse.Namespace,
) -> None:
    """Start web processes and workers; what was made ready before serves while it is looked over."""
    stamp, now = VAR / "prepared", _fingerprint(environment)
    ready = stamp.exists() and stamp.read_text() == now
    if not ready:
        _prepare(environment, wanted)
        stamp.write_text(now)
    services.start(_web(1, listener, environment))
    _wait_for(wanted.base, services)
    if ready:
        _prepare(environment, wanted)
    for number in range(2, web_processes() + 1):
        services.start(_web(number, listener, environment))
    for queue, at_once in WORKERS.items():
        services.start(_worker(queue, at_once, environment))
    say(f"Inch Mark is on {wanted.base}/ — Ctrl-C ends it.")
    if wanted.lan:
        tell_of_lan(VAR, wanted.base)


def _os_words(wrong: OSError) -> str:
    place = wrong.filename or "The data folder"
    if isinstance(wrong, PermissionError):
        return f"{place} may not be written by this user. Make it yours, or set INCHMARK_VAR."
    return f"{place} cannot be written: {wrong.strerror}. Mend that, or set INCHMARK_VAR to another folder."


def web_processes() -> int:
    """Return how many processes answer pages: one a core, as INCHMARK_WEB_PROCESSES says otherwise."""
    asked = os.environ.get("INCHMARK_WEB_PROCESSES", "")
    return int(asked) if asked.isdecimal() and int(asked) else min(os.cpu_count() or 1, MOST_WEB)


def _web(number: int, listener: socket.socket, environment: dict[str, str]) -> Program:
    command = [str(PYTHON), "-m", "inchmark.config.serve", "--fd", str(listener.fileno())]
    if "INCHMARK_TLS" in environment:
        folder = Path(environment["INCHMARK_VAR"]) / "tls"
        command += ["--certificate", str(folder / "certificate.pem")]
        command += ["--key", str(folder / "key.pem")]
    elif os.environ.get("INCHMARK_ORIGINS"):
        command += ["--behind-proxy", os.environ.get("INCHMARK_PROXIES", "127.0.0.1")]
    return Program(
        f"web process {number}",
        command,
        environment
        | {
            "INCHMARK_ROLE": "web",
            "PROMETHEUS_MULTIPROC_DIR": environment["INCHMARK_VAR"] + "/meters",
        },
        sockets=(listener.fileno(),),
    )


def _worker(queue: str, at_once: int, environment: dict[str, str]) -> Program:
    command = [str(PYTHON), "manage.py", "procrastinate", "worker", "--concurrency", str(at_once)]
    queues = f"{queue},upkeep" if queue == "import" else queue
    command += ["--queues", queues, "--name", f"{queue}-{os.getpid()}"]
    # pages go first: whoever waits for one sits before it
    own = environment | {"INCHMARK_ROLE": "worker"}
    return Program(f"{queue} worker", command, own, nice=19, stands_on="database")


def _fingerprint(environment: dict[str, str]) -> str:
    """Return what the tables and static files were made from: the files, and which database."""
    source = ROOT / "src" / "inchmark"
    files = [*source.glob("*/migrations/*.py"), *source.glob("*/static/**/*")]
    files.append(ROOT / "requirements" / "run.txt")
    seen = [f"{path}:{path.stat().st_mtime_ns}" for path in sorted(files)]
    seen.append(environment["INCHMARK_DATABASE_URL"].split("@")[-1].split(":")[0])
    return hashlib.sha256("\n".join(seen).encode()).hexdigest()


def _interrupt(*_: object) -> None:
    raise KeyboardInterrupt


def app_environment(url: str, var: Path = VAR) -> dict[str, str]:
    """Return the environment the app's processes run in; its secrets lie in `var`."""
    return {
        **os.environ,
        "INCHMARK_DATABASE_URL": url,
        "INCHMARK_VAR": str(var),
        "PYTHONPATH": str(ROOT / "src"),
        "PYTHONUNBUFFERED": "1",
        # one thread a process for linear algebra: small systems run faster, and the worker stays
        # small
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
        "DJANGO_SETTINGS_MODULE": os.environ.get(
            "DJANGO_SETTINGS_MODULE", "inchmark.config.settings.production"
        ),
    }


def _prepare(environment: dict[str, str], wanted: argparse.Namespace) -> None:
    command = [str(PYTHON), "manage.py", "prepare", "--base", wanted.base]
    if wanted.no_demo:
        command.append("--no-demo")
    if subprocess.run(command, cwd=ROOT, env=environment).returncode:
        raise StopError("The database could not be made ready; the words above say why.")


def _check_port(port: int) -> None:
    if not 0 < port < 65_536:
        raise StopError(f"There is no port {port}. Ports are 1 to 65535; try ./start --port 8000.")


def _listen(port: int, host: str = "127.0.0.1") -> socket.socket:
    """Return the socket all web processes take requests from."""
    try:
        return socket.create_server((host, port), backlog=BACKLOG)
    except OSError as wrong:
        raise StopError(
            f"Port {port} on {host} is taken ({wrong.strerror}). Try ./start --port {port + 1}."
        ) from wrong


def _wait_for(base: str, services: Supervisor) -> None:
    """Wait until a page is answered; the socket alone takes requests before anyone answers them."""
    until = time.monotonic() + 60
    while time.monotonic() < until:
        line = _line(base)
        try:
            line.request("GET", "/health/live")
            line.getresponse().read()
            return
        except OSError:
            services.look()
        finally:
            line.close()
    raise StopError("The server did not answer within a minute; its words are above.")


def _line(base: str) -> http.client.HTTPConnection:
    scheme, _, place = base.partition("://")
    if scheme == "http":
        return http.client.HTTPConnection(place, timeout=5)
    context = ssl.create_default_context(cafile=VAR / "tls" / "authority.pem")
    return http.client.HTTPSConnection(place, timeout=5, context=context)


if __name__ == "__main__":
    sys.exit(main())
