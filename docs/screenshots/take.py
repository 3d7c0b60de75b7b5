"""Take the pictures of the README anew from a running demo.

Usage: ./start, then .venv/bin/python docs/screenshots/take.py SIGN-IN-LINK
"""

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import urlsplit

from playwright.sync_api import Page, sync_playwright

HERE = Path(__file__).resolve().parent
DESK, PHONE = (1280, 800), (390, 844)
PICTURES = (
    ("shelf", "/studies/1/shelf/", DESK),
    ("plan", "/studies/1/plan/", DESK),
    ("map", "/studies/1/plan/map/?rig=A", DESK),
    ("read", "/studies/1/read/", DESK),
    ("decide", "/studies/1/decide/", DESK),
    ("places", "/studies/1/decide/places/?rig=C", (1280, 1180)),
    ("options", "/studies/1/decide/options/", DESK),
    ("workbench", "/workbench/", DESK),
    ("help", "/help/method/", DESK),
    ("thumb-phone", "/studies/1/walk/1/thumb/", PHONE),
    ("read-phone", "/studies/1/read/", PHONE),
)
# what a board may print: talk, frames, a line cut off, where it stood
CONSOLE = "\n".join(
    [
        "boot v2.1 reset=0x05",
        "[10:02:01.000] radio init ok, SF9 BW125",
        "[10:02:05.000] --- stop 1 ---",
        *(
            f"[10:02:{10 + 5 * i:02d}.250] rx rig=A seq={i} rssi={-81 - i % 3} snr=7.{25 * (i % 4):02d} bat=3.61"
            for i in range(7)
        ),
        "[10:02:45.250] rx rig=A seq=7 rs",
        "[10:04:05.000] --- stop 2 ---",
        *(
            f"[10:04:{10 + 5 * i:02d}.250] rx rig=A seq={i + 20} rssi={-93 - i % 4} snr=-1.{25 * (i % 4):02d} bat=3.60"
            for i in range(9)
        ),
    ]
)


@contextmanager
def boards(base: str, walk: str, token: str) -> Iterator[None]:
    """Let three simulated boards talk into a walk over the bridge."""
    root = HERE.parents[1]
    environment = os.environ | {"PYTHONPATH": str(root / "src"), "PYTHONUNBUFFERED": "1"}
    program = [sys.executable, "-m", "inchmark.cli"]
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "token").write_text(token)
        talk = subprocess.Popen(
            [*program, "simulate", "--boards", "3", "--on", "tcp", "--route", "330,480", "--dwell",
             "400", "--interval", "0.5", "--with", "bursts"],
            env=environment, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        sources = [talk.stdout.readline().split()[0] for _ in range(3)]
        said = [w for one in sources for w in ("--source", one, "--set", f"{one[0]}:rig={one[0]}")]
        bring = subprocess.Popen(
            [*program, "bridge", "--spool", f"{folder}/spool", "--token-file", f"{folder}/token",
             "--post", f"{base}/api/walks/{walk}/lines", *said],
            env=environment, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        try:
            yield
        finally:
            for one in (bring, talk):
                one.terminate()
                one.wait(20)


def take_live(page: Page, base: str) -> None:
    """Take a walk as it is walked, and the strip of time afterwards."""
    page.goto(base + "/studies/1/walk/new/")
    page.get_by_role("main").get_by_role("button").first.click()
    walk = urlsplit(page.url).path.split("/")[-2]
    page.goto(f"{base}/studies/1/walk/{walk}/token/")
    page.get_by_label("Name").fill("bridge")
    page.get_by_role("main").get_by_role("button", name="token").click()
    token = page.locator("main code, main output").first.text_content().strip()
    with boards(base, walk, token):
        page.goto(f"{base}/studies/1/walk/{walk}/live/")
        page.get_by_role("button", name="4 210 m").click()
        page.locator(".live-link").nth(2).wait_for()
        page.wait_for_timeout(25_000)
        page.get_by_role("button", name="5 330 m").click()
        page.get_by_role("button", name="in a pocket").click()
        page.get_by_label("Note", exact=True).fill("a lorry stood between")
        page.get_by_role("button", name="Keep the note").click()
        page.wait_for_timeout(20_000)
        page.evaluate("scrollTo(0, 0)")
        page.screenshot(path=HERE / "live.png")
    page.wait_for_timeout(8000)
    page.goto(f"{base}/studies/1/walk/{walk}/timeline/")
    page.screenshot(path=HERE / "timeline.png")


def take_truth(page: Page, base: str) -> None:
    """Walk a practice site, claim, and take its truth."""
    page.goto(f"{base}/practice/")
    page.get_by_role("button", name="The estate with helpful neighbours").click()
    board = page.url
    page.get_by_label("Frames of each rig").fill("30")
    page.get_by_role("button", name="Walk", exact=True).click()
    page.get_by_role("navigation", name="Rooms").get_by_role("link", name="Read").click()
    page.get_by_text("How is this known?").wait_for(timeout=120_000)
    page.wait_for_timeout(8000)
    page.goto(board)
    page.get_by_role("button", name="Show the truth").click()
    page.get_by_text("What was hidden").wait_for()
    page.screenshot(path=HERE / "truth.png")


def take_decision(page: Page, base: str) -> None:
    """Take a decision on the demo, and the report that holds it."""
    page.goto(f"{base}/studies/1/decide/decision/?rig=C")
    page.get_by_label("Chosen").fill("C, with a second receiver on the causeway")
    page.get_by_role("button", name="Decide", exact=True).click()
    page.get_by_role("heading", name="Decided: C").wait_for()
    page.screenshot(path=HERE / "decision.png")
    page.goto(f"{base}/studies/1/decide/report/")
    page.locator(".report-tape").wait_for()
    page.screenshot(path=HERE / "report.png")


def main() -> None:
    """Sign in once and take them all."""
    link = sys.argv[1]
    base = "{0.scheme}://{0.netloc}".format(urlsplit(link))
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page()
        page.goto(link)
        page.get_by_role("main").get_by_role("button", name="Sign in").click()
        page.goto(base + "/studies/1/plan/map/?rig=A")
        page.get_by_role("button", name="Draw the map of A").click()
        page.get_by_text("Frames of A expected").wait_for(timeout=180_000)
        for name, address, (width, height) in PICTURES:
            page.set_viewport_size({"width": width, "height": height})
            page.goto(base + address, wait_until="networkidle")
            if name == "places":
                page.locator(".map-band").first.wait_for(state="attached")
            page.screenshot(path=HERE / f"{name}.png")
        page.set_viewport_size({"width": DESK[0], "height": DESK[1]})
        page.goto(base + "/studies/1/read/")
        page.get_by_role("link", name="/60 heard: frames of rig B at stop 5").click()
        page.wait_for_load_state("networkidle")
        page.screenshot(path=HERE / "frames.png")
        page.goto(base)
        page.get_by_label("Drop files anywhere").set_input_files(
            {"name": "node-7.log", "mimeType": "text/plain", "buffer": CONSOLE.encode()}
        )
        page.get_by_role("table", name="Lines and what they become").wait_for()
        page.screenshot(path=HERE / "recipe.png", full_page=True)
        take_truth(page, base)
        page.goto(base, wait_until="networkidle")
        page.screenshot(path=HERE / "start.png")
        take_decision(page, base)
        take_live(page, base)
        browser.close()


if __name__ == "__main__":
    main()
