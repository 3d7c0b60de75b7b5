"""`python -m inchmark.cli` is the command."""

import sys

from inchmark.cli import main

sys.exit(main())
