"""From whatever a board prints to frames that count: a recipe says what each part of a line means.

Read in the order text (a line made plain), pieces (a line taken apart into named parts), names
(what a name usually means), numbers and clock (how a value is written), recipe (what was decided),
propose (how it is decided, with reasons and questions), reader (lines to frames), payload.
No expression of a user's is run, and the work on a line grows with its length alone.
"""
