"""What the walk does when a study ends."""

from inchmark.studies.services.people import on_end
from inchmark.walk.services.ending import delete_walks


def register() -> None:
    """Delete walks before the rigs and stops they stand on."""
    on_end(delete_walks)
