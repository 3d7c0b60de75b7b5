"""Learning: the demo read with a guide, practice on hidden truth, the docs as pages, search over all of it."""
