"""A worker killed in the middle of an import leaves all or none of the file, and it resumes."""

import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from inchmark.walk.models import Frame, FrameFile, ImportProgress, Visit
from inchmark.walk.services.receive import receive
from tests import make

ROOT = Path(__file__).resolve().parents[2]
WORKER = [sys.executable, "manage.py", "procrastinate", "worker"]
ROWS = 200_000


def wait_for(found, seconds):
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if found():
            return
        time.sleep(0.02)
    raise AssertionError(f"not within {seconds} s")


def start_worker(environment):
    return subprocess.Popen(
        WORKER, cwd=ROOT, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )


@pytest.mark.django_db(transaction=True)
def test_a_killed_import_leaves_nothing_and_resumes(app_process_environment):
    walk = make.walk(make.field_study())
    data = make.frames_log(heard=ROWS).encode()
    file = receive(walk, name="big.csv", blocks=[data], by=make.owner(walk.study)).file
    worker = start_worker(app_process_environment)
    try:
        wait_for(lambda: ImportProgress.objects.get(file=file).frames > 0, 60)
        worker.send_signal(signal.SIGKILL)
        worker.wait()
        assert Frame.objects.count() == 0
        assert Visit.objects.count() == 0
        assert FrameFile.objects.get().state == FrameFile.WAITING
        worker = start_worker(app_process_environment)
        wait_for(lambda: FrameFile.objects.get().state == FrameFile.READ, 90)
        assert Frame.objects.count() == ROWS
        assert Visit.objects.get().sent == ROWS
    finally:
        worker.terminate()
        worker.wait(30)
