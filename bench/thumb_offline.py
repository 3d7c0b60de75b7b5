"""The thumb's page: what it weighs, how soon it can be used, and ten hours without a network.

    .venv/bin/python -m bench.thumb_offline [--presses 20000]

`./start` on data of its own and headless Chromium at a phone's size. First the page over a slowed
connection (1.6 Mbit/s, 150 ms), nothing kept from before: bytes that travelled, and when the first
press was counted. Then the network is cut, the page's clock runs ten hours while presses and notes
are made by its own buttons, it is reloaded in between, the network returns, and what the app has is
compared with what was pressed. Exit code 1 if anything is lost or there twice.
"""

from __future__ import annotations

import argparse
import json
import sys
import time

import psycopg
from playwright.sync_api import BrowserContext, Page, sync_playwright

from bench.running import Running, running

HOURS, PHONE, NOTES_EVERY = 10, {"width": 390, "height": 844}, 50
SLOW = {"offline": False, "latency": 150, "downloadThroughput": 200_000, "uploadThroughput": 90_000}
MOST_BYTES, MOST_S = 150_000, 2.0
PRESS = """async ([count, every]) => {
  for (let i = 0; i < count; i += 1) {
    document.getElementById(i % 3 ? 'yes' : 'no').click();
    if (i % every === 0) {
      document.getElementById('words').value = `note ${i}`;
      document.getElementById('note').requestSubmit();
    }
    if (i % 100 === 99) await new Promise((go) => { const channel = new MessageChannel(); channel.port1.onmessage = go; channel.port2.postMessage(0); });
  }
}"""
KEPT = """() => new Promise((told) => {
  const asked = indexedDB.open('inchmark-spool');
  asked.onsuccess = () => { const all = asked.result.transaction('items').objectStore('items').count();
    all.onsuccess = () => told(all.result); };
})"""


def first_use(page: Page, address: str) -> tuple[int, float]:
    """Return the bytes that travelled and the time [s] until a press was counted, on a slow line."""
    line = page.context.new_cdp_session(page)
    line.send("Network.enable")
    line.send("Network.emulateNetworkConditions", SLOW)
    travelled = []
    line.on("Network.loadingFinished", lambda one: travelled.append(one["encodedDataLength"]))
    began = time.monotonic()
    page.goto(address, wait_until="commit")
    page.locator("body[data-ready=yes]").wait_for()
    page.get_by_role("button", name="Heard", exact=True).click()
    page.get_by_text("1 of 1 heard").wait_for()
    took = time.monotonic() - began
    page.wait_for_timeout(1500)
    line.send(
        "Network.emulateNetworkConditions",
        SLOW | {"latency": 0, "downloadThroughput": -1, "uploadThroughput": -1},
    )
    return round(sum(travelled)), took


def outage(page: Page, presses: int) -> int:
    """Press for ten hours without a network; return how many things are kept in the browser.

    A press counts once it is written, which the page shows; thousands at once take the disk a while.
    """
    page.locator("body[data-offline=ready]").wait_for()
    page.wait_for_timeout(1000)
    page.context.set_offline(True)
    for hour in range(HOURS):
        page.evaluate(PRESS, [presses // HOURS, NOTES_EVERY])
        written(page)
        page.clock.fast_forward(3600_000)
        if hour == HOURS // 2:
            page.reload()
            page.locator("body[data-ready=yes]").wait_for()
    return written(page)


def written(page: Page) -> int:
    """Wait until the browser has written all it was asked to; return how much it keeps."""
    kept, before = 0, -1
    while kept != before:
        page.wait_for_timeout(1500)
        before, kept = kept, page.evaluate(KEPT)
    return kept


def come_back(page: Page, presses: int, app: Running) -> tuple[int, int, int, int]:
    """Let the network return; return lines, distinct times and numbers, marks and distinct marks."""
    page.context.set_offline(False)
    url = (app.folder / "database-url").read_text().strip()
    until = time.monotonic() + 300
    while time.monotonic() < until:
        page.clock.fast_forward(40_000)
        page.wait_for_timeout(500)
        if page.evaluate(KEPT) == 0:
            break
    with psycopg.connect(url) as database:
        chunks = database.execute(
            "SELECT c.data FROM walk_filechunk c JOIN walk_framefile f ON f.id = c.file_id "
            "WHERE f.source LIKE 'by thumb%' ORDER BY c.number"
        ).fetchall()
        marks = database.execute(
            "SELECT count(*), count(DISTINCT text) FROM walk_mark WHERE kind = 'note'"
        ).fetchone()
    rows = [json.loads(line) for (data,) in chunks for line in bytes(data).splitlines()]
    return len(rows), len({row["seq"] for row in rows}), *marks


def signed_in(app: Running, context: BrowserContext) -> None:
    """Hand the context the session of the instance's user."""
    cookies = dict(one.strip().split("=", 1) for one in app.browser.cookies.split(";"))
    place = f"http://127.0.0.1:{app.port}"
    context.add_cookies([{"name": k, "value": v, "url": place} for k, v in cookies.items()])


def main() -> int:
    """Weigh, press, compare."""
    parser = argparse.ArgumentParser(prog="bench.thumb_offline")
    parser.add_argument("--presses", type=int, default=20_000)
    presses = parser.parse_args().presses
    with running() as app, sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        context = browser.new_context(viewport=PHONE, service_workers="allow")
        signed_in(app, context)
        page = context.new_page()
        page.clock.install()
        address = f"http://127.0.0.1:{app.port}{app.study()}walk/1/thumb/"
        weight, took = first_use(page, address)
        kept = outage(page, presses)
        lines, numbers, notes, distinct = come_back(page, presses, app)
        browser.close()
    expected = presses // HOURS * HOURS + 1
    per_hour = -(-(presses // HOURS) // NOTES_EVERY)
    print(f"first use: {weight / 1000:.0f} kB travelled, a press counted after {took:.2f} s")
    print(f"{kept} things kept without a network over {HOURS} h and a reload")
    print(f"presses: {expected} made, {lines} there, {numbers} of them distinct")
    print(f"notes: {per_hour * HOURS} made, {notes} there, {distinct} distinct texts")
    fine = lines == numbers == expected and notes == per_hour * HOURS
    return 0 if fine and weight <= MOST_BYTES and took <= MOST_S else 1


if __name__ == "__main__":
    sys.exit(main())
