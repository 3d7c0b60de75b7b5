"""The study: one question, its members, the tape and the side notes on every page."""
