"""Verbs on walks, in the order of the work: start, receive, ingest, summarise, simulate."""
