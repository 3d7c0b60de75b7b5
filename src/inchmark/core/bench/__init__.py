"""Bench checks before anyone walks: conducted ladder, centring, close range, current."""
