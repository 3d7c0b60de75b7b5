"""The demo read with a guide: nine steps of one sentence or two, each pointing at the real page."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """What to look at and where: `at` is a CSS selector on the page."""

    page: str
    at: str
    title: str
    words: str
    query: str = ""


STEPS = (
    Step(
        page="read:reading", at="#answer", title="The answer",
        words="Two people walked away from a pump house with three rigs and counted frames. This sentence is what that says: who reaches how much farther, with 95 % limits. It would name no winner whose limits include zero.",
    ),
    Step(
        page="read:reading", at="#tape", title="The tape",
        words="Distances run along the tape, near to far. Numbers above are stops; brackets below are ranges, from the lower to the upper limit. Solid was walked, hollow is only predicted. The flag is what is needed.",
    ),
    Step(
        page="read:reading", at=".charts", title="The evidence",
        words="Each mark is one rig at one stop. Losses count, not only the levels of frames that arrived: near the edge those that arrive are the lucky ones.",
    ),
    Step(
        page="read:reading", at="#notes", title="What is doubtful",
        words="Side notes say what could be wrong, what that would change, and what to do. Each is accepted or set aside with a reason, and the report carries it.",
    ),
    Step(
        page="read:reading", at="#table", title="Down to the frame",
        words="Every visit with its frames in the order sent: dark was heard, pale was lost. A row opens on the frames themselves and on the lines of the log they came from.",
    ),
    Step(
        page="decide:decide", at="#budget", title="The budget",
        words="The same rigs as a ladder of decibels. Type “50 mW” or another gain in a box: metres, places served and the tape move with it, and nothing is saved.",
    ),
    Step(
        page="decide:places", at="main h1", title="The places",
        words="Fourteen sluice gates need a node. Each has a chance to be served, from the same walk; the weak ones list what would mend them, the cheapest first.",
    ),
    Step(
        page="plan:stops", at="main table", title="Before the walk",
        words="Plan said where to stand and how many frames to count before anyone went out; its predictions are the hollow brackets.",
    ),
    Step(
        page="studies:list", at=".doors", title="Your turn",
        words="Drop a log of your own here: any console, any table. Or practise on a site whose truth is hidden until you have claimed yours.",
    ),
)  # fmt: skip


def page_of(number: int, study_id: int) -> str:
    """Return the address of a step's page (steps count from 1)."""
    step = STEPS[number - 1]
    return reverse(step.page, args=[] if step.page == "studies:list" else [study_id])
