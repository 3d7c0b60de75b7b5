"""Verbs of Decide, and what its pages gather from the rooms before."""
