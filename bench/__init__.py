"""Measurements, printed as ratios within one run; never tests."""
