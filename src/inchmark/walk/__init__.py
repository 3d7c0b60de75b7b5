"""Room 3: walks, visits and frames; facts, only ever added."""
