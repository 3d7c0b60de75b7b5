"""What the shelf does when a study ends."""

from inchmark.shelf.services.ending import delete_shelf
from inchmark.studies.services.people import on_end


def register() -> None:
    """Delete the shelf after the walks."""
    on_end(delete_shelf)
