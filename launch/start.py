"""`./start`: set up what is missing, start everything, print a sign-in link.

End everything together.
"""

from __future__ import annotations

import argparse
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

from launch.cluster import Cluster, end_with_parent, keep_secret, write_secret
from launch.machine import PYTHON, ROOT, need_environment, need_postgres, need_python
from launch.say import StopError, say, stop

VAR = Path(os.environ.get("INCHMARK_VAR", ROOT / "var"))
RESTART_PAUSE_S = 1.0


def main() -> int:
    """Run the app until it is told to stop."""
    parser = argparse.ArgumentParser(prog="./start", description="Start Inch Mark on this machine.")
    parser.add_argument("--port", type=int, default=8000, help="port on 127.0.0.1 (8000)")
    parser.add_argument("--no-demo", action="store_true", help="do not load the demo study")
    wanted = parser.parse_args()
    cluster: Cluster | None = None
    children = _Children()
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        need_python()
        _need_port(wanted.port)
        url = os.environ.get("INCHMARK_DATABASE_URL")
        if not url:
            cluster = Cluster(VAR / "postgres", need_postgres())
        need_environment(check=False)
        VAR.mkdir(parents=True, exist_ok=True)
        keep_secret(VAR / "secret-key")
        if cluster:
            url = cluster.start()
            write_secret(VAR / "database-url", url)
        environment = app_environment(url or "")
        _prepare(environment, wanted)
        children.start("server", _server(wanted.port), environment)
        children.start("worker", [str(PYTHON), "manage.py", "procrastinate", "worker"], environment)
        _wait_for(wanted.port, children)
        say(f"Inch Mark is on http://127.0.0.1:{wanted.port}/ — Ctrl-C ends it.")
        return children.watch()
    except StopError as why:
        stop(str(why))
        return 1
    except PermissionError as wrong:
        stop(
            f"{wrong.filename} may not be written by this user. Make it yours, or set INCHMARK_VAR."
        )
        return 1
    except KeyboardInterrupt:
        say("\nEnding …")
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        children.end()
        if cluster:
            cluster.stop()


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
    command = [str(PYTHON), "manage.py", "prepare", "--base", f"http://127.0.0.1:{wanted.port}"]
    if wanted.no_demo:
        command.append("--no-demo")
    if subprocess.run(command, cwd=ROOT, env=environment).returncode:
        raise StopError("The database could not be made ready; the words above say why.")


def _server(port: int) -> list[str]:
    return [
        str(PYTHON),
        "-m",
        "uvicorn",
        "inchmark.config.asgi:application",
        "--host",
        "127.0.0.1",
        "--port",
        str(port),
        "--lifespan",
        "off",
        "--log-level",
        "warning",
        "--no-server-header",
        # a header from loopback would otherwise tell us any address, and evade the lockout
        "--proxy-headers" if os.environ.get("INCHMARK_ORIGINS") else "--no-proxy-headers",
    ]


def _need_port(port: int) -> None:
    if not 0 < port < 65_536:
        raise StopError(f"There is no port {port}. Ports are 1 to 65535; try ./start --port 8000.")
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as wrong:
            raise StopError(
                f"Port {port} on 127.0.0.1 is taken ({wrong.strerror}). Try ./start --port {port + 1}."
            ) from wrong


def _wait_for(port: int, children: _Children) -> None:
    for _ in range(600):
        with socket.socket() as probe:
            probe.settimeout(1)
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        if children.ended("server") is not None:
            raise StopError("The server ended while starting; its words are above.")
        time.sleep(0.05)
    raise StopError("The server did not answer within 30 s.")


class _Children:
    """The server and the worker.

    A worker that dies is started again, a server that dies ends us.
    """

    def __init__(self) -> None:
        self.commands: dict[str, tuple[list[str], dict[str, str]]] = {}
        self.processes: dict[str, subprocess.Popen] = {}

    def start(self, name: str, command: list[str], environment: dict[str, str]) -> None:
        self.commands[name] = (command, environment)
        self.processes[name] = subprocess.Popen(
            command, cwd=ROOT, env=environment, stdin=subprocess.DEVNULL, preexec_fn=_child
        )

    def ended(self, name: str) -> int | None:
        return self.processes[name].poll()

    def watch(self) -> int:
        while True:
            time.sleep(0.3)
            if self.ended("server") is not None:
                stop("The server ended; its words are above.")
                return 1
            if self.ended("worker") is not None:
                say(
                    "The worker ended; starting it again. What it was doing is taken up within half a minute."
                )
                time.sleep(RESTART_PAUSE_S)
                self.start("worker", *self.commands["worker"])

    def end(self) -> None:
        for process in self.processes.values():
            if process.poll() is None:
                process.terminate()
        until = time.monotonic() + 8
        for process in self.processes.values():
            try:
                process.wait(max(until - time.monotonic(), 0.1))
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()


def _child() -> None:
    os.setsid()  # Ctrl-C reaches us alone; we end the children in order
    end_with_parent(signal.SIGTERM)


if __name__ == "__main__":
    sys.exit(main())
