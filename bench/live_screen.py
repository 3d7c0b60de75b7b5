"""From a board's line to three screens: how long it takes while a walk is walked.

    .venv/bin/python -m bench.live_screen

`./start` on data of its own with its web processes, four simulated boards of four dialects at five
frames a second each, the bridge, and three pages of headless Chromium that watch. A page notes when
a link's part changed, and the time its newest frame bears: the board's clock, which is this machine's.
Prints the percentiles over all changes of all pages.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, sync_playwright
from tests.tools.faults import tool

from bench.running import OURS, ROOT, Running, running, speed

SECONDS, VIEWERS, BOARDS, INTERVAL_S = 40, 3, 4, 0.2
WATCH = """() => {
  window.seen = [];
  new MutationObserver((changes) => {
    const now = Date.now();
    for (const link of new Set(changes.map((one) => one.target).filter((one) => one.classList?.contains('live-link')))) {
      const silence = link.querySelector('.silence');
      if (silence?.dataset.since) window.seen.push([link.id, now - 1000 * Number(silence.dataset.since)]);
    }
  }).observe(document.getElementById('links'), {childList: true, subtree: true});
}"""


def command(*words: str, **options: object) -> subprocess.Popen:
    """Start `inchmark …`."""
    environment = {k: v for k, v in os.environ.items() if k not in OURS}
    environment |= {"PYTHONPATH": str(ROOT / "src"), "PYTHONUNBUFFERED": "1"}
    words = (sys.executable, "-m", "inchmark.cli", *words)
    return subprocess.Popen(words, cwd=ROOT, env=environment, **options)


def watch(page: Page, app: Running, walk: int) -> None:
    """Open the live page of a walk and begin to note what changes."""
    page.goto(f"http://127.0.0.1:{app.port}{app.study()}walk/{walk}/live/")
    page.get_by_text("Live.", exact=True).wait_for()
    page.evaluate(WATCH)


def main() -> int:
    """Walk, watch, print."""
    with running() as app, tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        token = Path(folder) / "token"
        token.write_text(tool(app, "access_token", "demo", "bench").split()[-1])
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        context = browser.new_context()
        cookies = dict(one.strip().split("=", 1) for one in app.browser.cookies.split(";"))
        context.add_cookies(
            [
                {"name": k, "value": v, "url": f"http://127.0.0.1:{app.port}"}
                for k, v in cookies.items()
            ]
        )
        pages = [context.new_page() for _ in range(VIEWERS)]
        boards = command(
            "simulate", "--boards", str(BOARDS), "--on", "tcp", "--route", "20,40", "--dwell", "600",
            "--interval", str(INTERVAL_S), "--dialect", "keys,objects,columns,words",
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        sources = [boards.stdout.readline().split()[0] for _ in range(BOARDS)]
        post = [
            "--post",
            f"http://127.0.0.1:{app.port}/api/walks/1/lines",
            "--token-file",
            str(token),
        ]
        named = [word for i, one in enumerate(sources) for word in
                 ("--source", one, "--set", f"{one[0]}:rig={'ABC'[i % 3]}", "--set", f"{one[0]}:receiver=r{i}")]  # fmt: skip
        bridge = command(
            "bridge", "--spool", f"{folder}/spool", *post, *named, stderr=subprocess.DEVNULL
        )
        for page in pages:
            watch(page, app, 1)
        pages[0].locator("[data-to-stop='1']").click()
        pages[0].locator(".live-link").nth(BOARDS - 1).wait_for()
        time.sleep(5)
        for page in pages:
            page.evaluate("window.seen = []")
        time.sleep(SECONDS)
        seen = [np.array([late for _, late in page.evaluate("window.seen")]) for page in pages]
        for one in (bridge, boards):
            one.terminate()
        browser.close()
    late = np.concatenate(seen)
    print(f"a fixed loop takes {speed():.0f} ms on this machine now")
    print(f"{len(late)} changes on {VIEWERS} pages in {SECONDS} s")
    for share in (50, 90, 95, 99):
        print(f"p{share} {np.percentile(late, share):.0f} ms")
    return 0


if __name__ == "__main__":
    sys.exit(main())
