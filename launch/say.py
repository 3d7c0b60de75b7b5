"""Words to the person at the terminal."""

import sys


class StopError(Exception):
    """Setting up cannot go on.

    The message says what is missing, why it is needed, and what to do.
    """


def say(text: str) -> None:
    """Print a line at once."""
    print(text, flush=True)


def stop(text: str) -> None:
    """Print why we stop, to standard error."""
    print(f"\n{text}", file=sys.stderr, flush=True)
