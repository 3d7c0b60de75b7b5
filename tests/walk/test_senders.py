"""A sender's own log in another file of the walk: what it sent and nobody heard is lost."""

import pytest
from django.urls import reverse

from inchmark.walk.models import Frame, FrameFile, Visit
from inchmark.walk.services import clocks
from inchmark.walk.services.receive import file_bytes
from inchmark.walk.services.recipes import set_aside
from inchmark.walk.tasks import import_file
from tests import make
from tests.walk.test_tracks import read_log

SENT = "\n".join(
    f"13:{i // 30:02d}:{i % 30 * 2:02d} TX rig=A seq={i} stop={1 + i // 30} power=14"
    for i in range(60)
)
HEARD = "\n".join(
    f"13:{i // 30:02d}:{i % 30 * 2:02d} rx rig=A seq={i} rssi=-80 snr=4.5 stop={1 + i // 30}"
    for i in range(60)
    if i % 3 and i < 55
)


def read_what_waits():
    for file in FrameFile.objects.filter(state=FrameFile.WAITING):
        import_file(file_id=file.pk)


def sent_and_heard():
    return dict(Visit.objects.values_list("stop__label", "sent")), Frame.objects.filter(
        heard=True
    ).count()


@pytest.mark.django_db
@pytest.mark.parametrize("order", [(SENT, HEARD), (HEARD, SENT)])
def test_what_was_sent_and_not_heard_is_lost_whichever_log_came_first(study, order):
    walk = make.walk(study)
    for text in order:
        read_log(walk, text)
    read_what_waits()
    assert sent_and_heard() == ({"1": 30, "2": 30}, 36)
    sender = FrameFile.objects.get(sent_count__gt=0)
    assert (sender.state, sender.sent_count, sender.frame_count) == (FrameFile.READ, 60, 0)
    lost = Frame.objects.filter(heard=False)
    lines = b"".join(file_bytes(lost.first().file)).count(b"\n") + 1
    assert max(lost.values_list("line_number", flat=True)) <= lines


@pytest.mark.django_db
def test_a_senders_log_set_aside_takes_its_losses_with_it(study):
    walk = make.walk(study)
    read_log(walk, HEARD)
    alone = sent_and_heard()
    read_log(walk, SENT)
    read_what_waits()
    assert sent_and_heard() != alone
    set_aside(FrameFile.objects.get(sent_count__gt=0), "of another day")
    read_what_waits()
    assert sent_and_heard() == alone


@pytest.mark.django_db
def test_the_page_says_what_a_senders_log_is_for(owner_client, study):
    walk = make.walk(study)
    read_log(walk, SENT)
    page = owner_client.get(walk.get_absolute_url())
    assert make.missing(page, ["says what was sent, 60 frames"]) == []


def behind(seconds):
    lines = []
    for line in HEARD.splitlines():
        minute, second = int(line[3:5]), int(line[6:8])
        at = 13 * 3600 + minute * 60 + second - seconds
        lines.append(f"{at // 3600:02d}:{at // 60 % 60:02d}:{at % 60:02d}{line[8:]}")
    return "\n".join(lines)


@pytest.mark.django_db
def test_a_clock_that_is_apart_is_said_and_set(owner_client, study):
    walk = make.walk(study)
    read_log(walk, SENT)
    late = read_log(walk, behind(93))
    address = reverse("walk:stays", args=[study.pk, walk.pk])
    shown = owner_client.get(address)
    assert make.missing(shown, ["is 93 s behind", "by 36 frames that both know"]) == []
    setting = reverse("walk:clock-set", args=[study.pk, late.pk])
    owner_client.post(setting, {"add_s": "93.0"})
    late.refresh_from_db()
    assert late.said["clock_s"] == 93.0
    assert "agree, by 36 frames" in make.html(owner_client.get(address))
    refused = owner_client.post(setting, {"add_s": "soon"}, follow=True)
    assert "A clock is set by seconds" in make.html(refused)
    far = owner_client.post(setting, {"add_s": "86400"}, follow=True)
    assert "set by a day at most" in make.html(far)


@pytest.mark.django_db
def test_a_log_too_large_to_compare_is_named(owner_client, study, monkeypatch):
    walk = make.walk(study)
    read_log(walk, SENT)
    name = read_log(walk, behind(93)).name
    address = reverse("walk:stays", args=[study.pk, walk.pk])
    assert "Clocks of such logs" not in make.html(owner_client.get(address))
    monkeypatch.setattr(clocks, "AT_ONCE_BYTES", 400)
    sizes = {file.size_bytes for file in walk.files.all()}
    assert min(sizes) > 400
    assert make.missing(owner_client.get(address), [name, "Clocks of such logs"]) == []
