"""Antennas as the bench sees them: match, polarisation, lengths.

A good match says nothing of gain: a dummy load has a perfect one.
"""
