"""Chromium, a server, a worker in a process of its own; a page error or a policy breach fails."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

import pytest
from playwright.sync_api import expect

from inchmark.demo.services import load_demo
from inchmark.people.models import User
from inchmark.people.services import make_sign_in_link
from inchmark.studies.models import Study
from tests import make
from tests.tools import rows

ROOT = Path(__file__).resolve().parents[2]
AXE = next((ROOT / "tests" / "browser" / "vendor").glob("axe-core-*/axe.min.js"))
BROWSER = "/usr/bin/chromium"
QUIET = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-sync",
    "--disable-background-networking",
    "--disable-component-update",
)

# A machine under load is slow, which is no fault of what is tested
expect.set_options(timeout=20_000)

# Playwright runs an event loop in this thread; Django guards servers against that, not tests
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"


def pytest_collection_modifyitems(items):
    """Mark everything here as a browser test."""
    for item in items:
        if Path(item.fspath).is_relative_to(Path(__file__).parent):
            item.add_marker(pytest.mark.browser)


@pytest.fixture(scope="session")
def browser_type_launch_args():
    """Debian's Chromium."""
    return {"executable_path": BROWSER, "args": list(QUIET)}


@pytest.fixture(scope="session")
def browser_context_args():
    """The size the pages are designed at."""
    return {"viewport": {"width": 1280, "height": 800}, "reduced_motion": "reduce"}


_demo: rows.Kept = {}  # filled by the first test that needs it, put back for the others


@pytest.fixture
def demo(live_server):
    """The demo study, read. Whoever signs in too asks for this first."""
    if _demo:
        rows.put_back(_demo)
    else:
        load_demo(make.user("demo"))
        _demo.update(rows.keep())
    return Study.objects.get()


@pytest.fixture
def marsh(demo, live_server):
    """The address of the demo study."""
    return f"{live_server.url}/studies/{demo.pk}"


@pytest.fixture
def worker(app_process_environment):
    """A background worker on the test database."""
    process = subprocess.Popen(
        [sys.executable, "manage.py", "procrastinate", "worker"],
        cwd=ROOT,
        env=app_process_environment,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    yield process
    process.terminate()
    process.wait(30)


@pytest.fixture
def problems():
    """What scripts, console and policy complained of; a test that provokes one clears it."""
    return []


@pytest.fixture
def clean_page(page, live_server, problems):
    """A page on which an error of a script, the console or the policy fails the test."""
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.on("console", lambda said: problems.append(said.text) if said.type == "error" else None)
    page.set_default_timeout(15_000)
    yield page
    # Chromium logs every 4xx answer; 422 is a form shown again
    wrong = [p for p in problems if not re.search(r"status of 422", p)]
    assert wrong == []


@pytest.fixture
def signed_in(clean_page, live_server):
    """A page signed in by a one-time link."""
    link = make_sign_in_link(User.objects.filter(username="demo").first() or make.user("demo"))
    clean_page.goto(f"{live_server.url}/sign-in/{link}/")
    clean_page.get_by_role("main").get_by_role("button", name="Sign in").click()
    clean_page.get_by_role("heading", name="Which rig reaches far enough").wait_for()
    return clean_page


def serious_axe_findings(page):
    """Return what axe finds serious or worse on the page as it stands, WCAG 2.2 AA."""
    # evaluate runs outside the page's policy, as a tool of the tester's should
    page.evaluate(AXE.read_text())
    found = page.evaluate(
        "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})"
    )
    return [
        f"{one['id']}: {one['help']}: {[node['html'][:160] for node in one['nodes'][:3]]}"
        for one in found["violations"]
        if one["impact"] in ("serious", "critical")
    ]
