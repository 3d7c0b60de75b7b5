"""A practice's boards walk through its hidden world."""

from inchmark.learn.services.practice import world_of
from inchmark.walk.services.boards import provide_world


def register() -> None:
    """Let walks of a practice lead through its world."""
    provide_world(world_of)
