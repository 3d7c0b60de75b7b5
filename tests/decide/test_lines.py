"""The start page: three doors, and each study in a line with its state and what it waits for."""

import pytest
from django.urls import reverse

from inchmark.decide.services.decisions import take_decision
from inchmark.decide.services.lines import line_of
from inchmark.read.services import make_reading
from inchmark.studies.models import Study
from inchmark.studies.services import touch
from tests import make

pytestmark = pytest.mark.django_db


def test_a_study_goes_from_begun_to_decided_and_says_what_it_waits_for(walked):
    study = make.study()

    def line_now():
        return line_of(Study.objects.get(pk=study.pk))

    assert (line_now().state, line_now().waits) == ("begun", "a rig on the shelf")
    make.rig(study)
    assert line_now().waits == "stops to walk to; 1 rig ready"
    make.stop(study)
    assert (line_now().state, line_now().url) == (
        "planned", reverse("walk:walks", args=[study.pk]),
    )  # fmt: skip
    walk = make.walk(study)
    assert (line_now().state, line_now().url) == ("walking", walk.get_absolute_url())
    make.log(walk, make.frames_log())
    assert line_now().state == "to be read"
    make_reading(study.pk)
    line = line_now()
    assert (line.state, line.waits) == ("read", "a decision")
    assert line.answer
    touch(study)
    assert line_now().waits == "being read anew"
    take_decision(
        walked, make.owner(walked), name="D", letter="A", chosen="A", reasons="it reaches"
    )
    assert line_of(walked).state == "decided"


def test_the_line_carries_answer_tape_and_state(reader, walked):
    part = make.html(reader.get(reverse("decide:line", args=[walked.pk])))
    assert "mini-tape" in part
    assert part.count("range-bar") == 2
    assert "waits for" in part
    assert "At the needed 300 m" in part


def test_the_start_page_has_three_doors_and_as_many_queries_for_twenty_studies_as_for_one(
    client, django_assert_num_queries
):
    user = make.user()
    client.force_login(user)
    empty = make.html(client.get("/"))
    doors = [empty.index(one) for one in ("Bring a log", "Plan a walk", "Ask the workbench")]
    assert doors == sorted(doors)
    assert "Any of the three doors begins one" in empty
    make.study(user, title="One")
    demo = make.study(user, title="Marsh", kind=Study.DEMO)
    make.study(user, title="Newest")
    html = make.html(client.get("/"))
    assert html.index("Marsh") < html.index("Newest") < html.index("One")
    assert "A reading with a guide" in html
    assert reverse("decide:line", args=[demo.pk]) in html
    for i in range(20):
        make.study(user, title=f"Study {i}")
    with django_assert_num_queries(3):
        client.get("/")
