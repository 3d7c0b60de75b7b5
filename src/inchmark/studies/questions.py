"""What a study can ask, in words, and which rooms and fields each question needs."""

from __future__ import annotations

from dataclasses import dataclass

ROOMS = ("shelf", "plan", "walk", "read", "decide")


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A question: what it is called, an example of it, and what it needs."""

    key: str
    name: str
    example: str
    words: str
    needs_distance: bool
    rooms: tuple[str, ...]


QUESTIONS = (
    Asked(
        key="compare", name="Compare two antennas", example="Which antenna reaches farther?",
        words="Two rigs that differ in one thing, walked over the same stops. The answer is a difference in dB, with limits.",
        needs_distance=False, rooms=("shelf", "walk", "read"),
    ),
    Asked(
        key="rate", name="Which data rate", example="Which setting still reaches, at the least time on air?",
        words="The same boards in several settings: what each reaches, and what its frames cost on air and from the battery.",
        needs_distance=True, rooms=("shelf", "walk", "read", "decide"),
    ),
    Asked(
        key="reach", name="Does it reach", example="Does it reach the farthest gate, with how much in hand?",
        words="One distance or some places that must be served: planned, walked, read, and decided with what is in hand.",
        needs_distance=True, rooms=ROOMS,
    ),
    Asked(
        key="edge", name="Map the edge", example="Where does it stop working?",
        words="Stops outwards until frames are lost: where half are lost, and how that differs from place to place.",
        needs_distance=False, rooms=("plan", "walk", "read"),
    ),
    Asked(
        key="fault", name="Find a fault", example="Why does this board not reach what its twin does?",
        words="Boards that should be alike, on the bench and at a few stops: what differs, and by how much.",
        needs_distance=False, rooms=("shelf", "walk", "read"),
    ),
)  # fmt: skip
BY_KEY = {one.key: one for one in QUESTIONS}
CHOICES = [(one.key, one.name) for one in QUESTIONS]


def folded_rooms(key: str) -> tuple[str, ...]:
    """Return the rooms a question does not need; none where nothing was said."""
    known = BY_KEY.get(key)
    return tuple(one for one in ROOMS if known and one not in known.rooms)
